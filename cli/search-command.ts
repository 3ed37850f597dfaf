import { bytesText } from '../core/findings/evidence.ts';
import { searchPaths } from '../server/assets/search.ts';
import { findBuild, findChannel, listTitles } from '../server/builds/builds.ts';
import { NotFoundError } from '../server/plain-error.ts';
import { UsageError, parseArguments, textOption } from './arguments.ts';
import { dataPath } from './session.ts';
import { withDatabase } from './with-database.ts';

const limit = 100_000;

export async function searchCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { title: textOption, build: textOption, channel: textOption });
  const title = given.needed('title');
  const label = given.text('build');
  const channel = given.text('channel') ?? (label === undefined ? undefined : 'main');
  const query = given.positionals.join(' ').trim();
  if (query === '') throw new UsageError('A QUERY is needed.');
  const hits = await withDatabase(dataPath(given.text('data')), async ({ pool }) => {
    if (channel === undefined) {
      const found = (await listTitles(pool)).find(({ name }) => name === title);
      if (!found) throw new NotFoundError(`There is no title named ${title}.`);
      return searchPaths(pool, {
        channelIds: found.channels.map(({ id }) => id),
        sequence: null,
        query,
        limit,
      });
    }
    const channelId = await findChannel(pool, title, channel);
    const sequence = label === undefined ? null : (await findBuild(pool, channelId, label)).sequence;
    return searchPaths(pool, { channelIds: [channelId], sequence, query, limit });
  });
  for (const hit of hits) {
    process.stdout.write(
      given.flag('json')
        ? `${JSON.stringify(hit)}\n`
        : `${hit.build.padEnd(10)} ${hit.kind.padEnd(8)} ${bytesText(hit.size).padStart(10)}  ${hit.path}\n`,
    );
  }
}
