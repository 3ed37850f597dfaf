import { findBuild, findBuildById, findChannel } from '../server/acquire/builds/builds.ts';
import { addRemoval } from '../server/maintenance/jobs.ts';
import { parseArguments, textOption } from './arguments.ts';
import { printProgress } from './print-progress.ts';
import { printReport } from './report-printing.ts';
import { dataPath, runningServer } from './session.ts';
import { withDatabase } from './with-database.ts';
import { workHere } from './work-here.ts';
import { workThere } from './work-there.ts';

/** Removes a build, and frees what no other build holds. */
export async function removeCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { title: textOption, build: textOption, channel: textOption });
  const title = given.needed('title');
  const label = given.needed('build');
  const data = dataPath(given.text('data'));
  const report = await withDatabase(data, async (session) => {
    const channelId = await findChannel(session.pool, title, given.text('channel') ?? 'main');
    const { id } = await findBuild(session.pool, channelId, label);
    const server = await runningServer(data);
    if (server) return (await workThere(server, `builds/${id}`, { method: 'DELETE' }, printProgress)).report;
    const build = await findBuildById(session.pool, id);
    const work = await workHere(session, await addRemoval(session.pool, build), printProgress);
    return work.report;
  });
  printReport(report, given.flag('json'));
}
