import { queryOf } from './query-of.ts';
import type { Library } from './library.ts';

/** So many paths are copied, collected or looked at at once. */
export const mostPaths = 200_000;

/** All paths of a build that a search finds, or those below a folder. @throws NotFoundError, QueryError */
export async function findPaths(
  library: Library,
  channel: number,
  build: string,
  { folder, text = '', kind = '' }: { folder?: string | undefined; text?: string; kind?: string },
): Promise<{ paths: string[]; isCut: boolean }> {
  const query = folder === undefined ? queryOf({ text, kind }) : null;
  return library.get('paths', channel, build, {
    query,
    folder: folder ?? '',
    textFile: query && (await library.textFileFor(channel, query)),
    most: mostPaths,
  });
}
