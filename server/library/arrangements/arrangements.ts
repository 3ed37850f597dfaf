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

/** Arrangements of a path, by name. */
export async function listArrangements(
  database: Queryable,
  titleId: number,
  path: string,
): Promise<Arrangement[]> {
  const rows = await select<{ name: string; body: string }>(
    database,
    'SELECT name, body FROM arrangements WHERE title_id = ? AND path_digest = ? ORDER BY name',
    [titleId, pathDigest(path)],
  );
  return rows.map(({ name, body }) =>
    arrangementSchema.parse({ path, name, setUp: setUpSchema.parse(JSON.parse(body)) }),
  );
}
