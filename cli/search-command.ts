import type { SearchHit } from '../contract/assets.ts';
import { bytesText } from '../core/figures.ts';
import { QueryError, parseQuery } from '../core/search/query.ts';
import { findChannel, listTitles } from '../server/acquire/builds/builds.ts';
import { NotFoundError } from '../server/platform/plain-error.ts';
import { Library } from '../server/library/library.ts';
import { ChannelTables } from '../server/library/search/channel-tables.ts';
import { pathOrder } from '../server/library/search/find-assets.ts';
import { UsageError, parseArguments, textOption } from './arguments.ts';
import { dataPath } from './session.ts';
import { withDatabase } from './with-database.ts';

const limit = 100_000;

export async function searchCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { title: textOption, build: textOption, channel: textOption });
  const title = given.needed('title');
  const label = given.text('build');
  const channel = given.text('channel') ?? (label === undefined ? undefined : 'main');
  const text = given.positionals.join(' ').trim();
  if (text === '') throw new UsageError('A QUERY is needed.');
  const query = await askedRightly(async () => parseQuery(text));
  const hits = await withDatabase(dataPath(given.text('data')), async ({ pool, address, folder }) => {
    const library = new Library(pool, address, new ChannelTables(pool, address, folder));
    const find = async (channelId: number, build: string | null): Promise<SearchHit[]> => {
      const request = { build, offset: 0, limit, most: limit, order: pathOrder };
      return (await askedRightly(() => library.search(channelId, query, request))).assets;
    };
    if (channel !== undefined) {
      return find(await findChannel(pool, title, channel), label ?? null);
    }
    const found = (await listTitles(pool)).find(({ name }) => name === title);
    if (!found) throw new NotFoundError(`There is no title named ${title}.`);
    const all: SearchHit[] = [];
    for (const { id } of found.channels) all.push(...(await find(id, null)));
    return all.sort((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0));
  });
  for (const { path, build, kind, size, hash } of hits) {
    process.stdout.write(
      given.flag('json')
        ? `${JSON.stringify({ path, build, kind, size, hash })}\n`
        : `${build.padEnd(10)} ${kind.padEnd(8)} ${bytesText(size).padStart(10)}  ${path}\n`,
    );
  }
}

async function askedRightly<Answer>(ask: () => Promise<Answer>): Promise<Answer> {
  try {
    return await ask();
  } catch (error) {
    throw error instanceof QueryError ? new UsageError(`${error.message}.`) : error;
  }
}
