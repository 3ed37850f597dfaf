import { arrangementSchema, setUpSchema, type Arrangement } from '../../../contract/arrangements.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import type { KeptItems } from '../../people/history/kept-items.ts';
import { pathDigest } from '../../store/hash.ts';

/** What an arrangement is called in the history: no path and no name has a tab. */
export function arrangementKey({ path, name }: Pick<Arrangement, 'path' | 'name'>): string {
  return `${path}\t${name.replaceAll('\t', ' ')}`;
}

export function arrangementOfKey(key: string): { path: string; name: string } {
  const at = key.lastIndexOf('\t');
  return { path: key.slice(0, at), name: key.slice(at + 1) };
}

/** How people set models up, as things that the history keeps: one item each. */
export const keptArrangements: KeptItems = {
  subject: 'arrangements',
  async read(connection, { titleId }, items) {
    const states = new Map<string, string>();
    for (const item of items) {
      const { path, name } = arrangementOfKey(item);
      const [row] = await select<{ body: string }>(
        connection,
        'SELECT body FROM arrangements WHERE title_id = ? AND path_digest = ? AND name = ? FOR UPDATE',
        [titleId, pathDigest(path), name],
      );
      if (row) states.set(item, row.body);
    }
    return states;
  },
  async write(connection, { titleId }, states) {
    for (const [item, body] of states) {
      const { path, name } = arrangementOfKey(item);
      const key = [titleId, pathDigest(path), name];
      if (body === null)
        await change(
          connection,
          'DELETE FROM arrangements WHERE title_id = ? AND path_digest = ? AND name = ?',
          key,
        );
      else
        await change(
          connection,
          `INSERT INTO arrangements (title_id, path_digest, name, body) VALUES (?, ?, ?, ?)
             ON DUPLICATE KEY UPDATE body = VALUES(body)`,
          [...key, body],
        );
    }
  },
};

const pathsAtOnce = 1000;

/** Arrangements of many paths, by path and name. */
export async function listArrangementsOf(
  database: Queryable,
  titleId: number,
  paths: readonly string[],
): Promise<Arrangement[]> {
  const found: Arrangement[] = [];
  for (let from = 0; from < paths.length; from += pathsAtOnce) {
    const part = new Map(
      paths.slice(from, from + pathsAtOnce).map((path) => [pathDigest(path).toString('hex'), path]),
    );
    const rows = await select<{ digest: Buffer; name: string; body: string }>(
      database,
      'SELECT path_digest AS digest, name, body FROM arrangements WHERE title_id = ? AND path_digest IN (?) ORDER BY name',
      [titleId, [...part.keys()].map((digest) => Buffer.from(digest, 'hex'))],
    );
    for (const { digest, name, body } of rows) {
      const path = part.get(digest.toString('hex'));
      if (path !== undefined)
        found.push(arrangementSchema.parse({ path, name, setUp: setUpSchema.parse(JSON.parse(body)) }));
    }
  }
  return found;
}

/** Arrangements of a path, by name. */
export function listArrangements(database: Queryable, titleId: number, path: string): Promise<Arrangement[]> {
  return listArrangementsOf(database, titleId, [path]);
}
