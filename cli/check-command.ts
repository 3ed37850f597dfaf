import { addCheck } from '../server/maintenance/jobs.ts';
import { parseArguments } from './arguments.ts';
import { printProgress } from './print-progress.ts';
import { printReport } from './report-printing.ts';
import { dataPath, runningServer } from './session.ts';
import { withDatabase } from './with-database.ts';
import { workHere } from './work-here.ts';
import { workThere } from './work-there.ts';

/** Checks the store against the tables. Ends with 1 where something is broken. */
export async function checkCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, {});
  const data = dataPath(given.text('data'));
  const server = await runningServer(data);
  const { report } = server
    ? await workThere(server, 'check', { body: {} }, printProgress)
    : await withDatabase(data, async (session) =>
        workHere(session, await addCheck(session.pool), printProgress),
      );
  printReport(report, given.flag('json'));
  if (report && report.lines.length > 0) process.exitCode = 1;
}
