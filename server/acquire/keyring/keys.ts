import type { KeptKey, KeyForm, KeyRequest, Keyring } from '../../../contract/keyring.ts';
import type { ArchiveKey } from './archive-key.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import type { MasterKey } from './master-key.ts';

interface KeyRow {
  id: number;
  title: string;
  form: KeyForm;
  builds: unknown;
  remark: string;
  createdAt: Date;
}

const columns = `SELECT k.id, t.name AS title, k.form, k.builds, k.remark, k.created_at AS createdAt
  FROM title_keys k JOIN titles t ON t.id = k.title_id`;

/** All but the keys themselves, newest first; and which builds hold something locked. */
export async function listKeyring(database: Queryable): Promise<Keyring> {
  const rows = await select<KeyRow>(database, `${columns} ORDER BY k.id DESC`);
  const locked = await select<Keyring['locked'][number]>(
    database,
    `SELECT b.id AS buildId, t.name AS title, c.name AS channel, b.label AS build, COUNT(*) AS count FROM problems q
       JOIN builds b ON b.id = q.build_id JOIN channels c ON c.id = b.channel_id JOIN titles t ON t.id = c.title_id
      WHERE q.locked = 1 GROUP BY b.id ORDER BY b.id DESC`,
  );
  return { keys: rows.map(toKey), locked };
}

/** @throws NotFoundError for a title that is not there, ConflictError for a key that is kept already */
export async function keepKey(database: Queryable, master: MasterKey, request: KeyRequest): Promise<KeptKey> {
  const title = await selectOne<{ id: number }>(database, 'SELECT id FROM titles WHERE name = ?', [
    request.title,
  ]);
  if (!title) throw new NotFoundError(`There is no title named ${request.title}.`);
  const bytes = bytesOfKey(request);
  const mark = master.mark(bytes);
  const known = await selectOne<{ id: number; builds: unknown }>(
    database,
    'SELECT id, builds FROM title_keys WHERE title_id = ? AND mark = ?',
    [title.id, mark],
  );
  if (known) {
    // The same key for one more build: that is worth knowing.
    const builds = labelsOf(known.builds);
    const joined =
      builds.length === 0 || request.builds.length === 0 ? [] : [...new Set([...builds, ...request.builds])];
    if (joined.length === builds.length) throw new ConflictError('This key is in the keyring already.');
    await change(database, 'UPDATE title_keys SET builds = ? WHERE id = ?', [
      JSON.stringify(joined),
      known.id,
    ]);
    return findKey(database, known.id);
  }
  const { insertId } = await change(
    database,
    'INSERT INTO title_keys (title_id, form, sealed, mark, builds, remark) VALUES (?, ?, ?, ?, ?, ?)',
    [
      title.id,
      request.form,
      master.seal(bytes, aboutTitle(title.id)),
      mark,
      JSON.stringify(request.builds),
      request.remark,
    ],
  );
  return findKey(database, insertId);
}

/** @throws NotFoundError */
export async function removeKey(database: Queryable, id: number): Promise<void> {
  const { changed } = await change(database, 'DELETE FROM title_keys WHERE id = ?', [id]);
  if (changed === 0) throw new NotFoundError(`There is no key ${id}.`);
}

/**
 * The keys to try for a build: its own first, then the newest ones.
 * @param chosen numbers of the keys to try; null for all of the title's
 */
export async function openKeys(
  database: Queryable,
  master: () => MasterKey,
  titleId: number,
  build: string,
  chosen: readonly number[] | null,
): Promise<ArchiveKey[]> {
  const rows = await select<{ id: number; sealed: Buffer; builds: unknown }>(
    database,
    'SELECT id, sealed, builds FROM title_keys WHERE title_id = ? ORDER BY id DESC',
    [titleId],
  );
  if (rows.length === 0) return [];
  const opener = master();
  const keys = rows
    .filter(({ id }) => chosen === null || chosen.includes(id))
    .map(({ id, sealed, builds }) => ({
      id,
      isOwn: labelsOf(builds).includes(build),
      bytes: opener.open(sealed, aboutTitle(titleId)),
    }));
  return [...keys.filter(({ isOwn }) => isOwn), ...keys.filter(({ isOwn }) => !isOwn)].map(
    ({ id, bytes }) => ({ id, bytes }),
  );
}

/** The bytes that a key stands for. */
export function bytesOfKey({ form, key }: Pick<KeyRequest, 'form' | 'key'>): Buffer {
  if (form === 'hex') return Buffer.from(key.trim(), 'hex');
  if (form === 'base64') return Buffer.from(key.trim(), 'base64');
  return Buffer.from(key, 'utf8');
}

async function findKey(database: Queryable, id: number): Promise<KeptKey> {
  const row = await selectOne<KeyRow>(database, `${columns} WHERE k.id = ?`, [id]);
  if (!row) throw new NotFoundError(`There is no key ${id}.`);
  return toKey(row);
}

function toKey(row: KeyRow): KeptKey {
  return { ...row, builds: labelsOf(row.builds), createdAt: row.createdAt.toISOString() };
}

function labelsOf(column: unknown): string[] {
  return parseColumn(column) as string[];
}

/** A sealed key opens for its own title only. */
function aboutTitle(titleId: number): string {
  return `title ${titleId}`;
}
