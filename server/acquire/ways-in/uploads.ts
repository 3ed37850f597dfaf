import { createHash } from 'node:crypto';
import { closeSync, mkdirSync, openSync, rmSync, truncateSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Upload, UploadRequest } from '../../../contract/ways-in.ts';
import { checkEntryName } from '../../../core/containers/entry-name.ts';
import { findPathClash } from '../../../core/containers/path-clash.ts';
import { bulkLoad } from '../../platform/database/bulk-load.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError, PlainError } from '../../platform/plain-error.ts';

interface UploadRow {
  id: number;
  name: string;
  finishedAt: Date | null;
}

/**
 * Begins an upload, or finds the one of the same files that was not finished.
 * @throws PlainError for a path that would lead out of it, or two files with the same one
 */
export async function beginUpload(pool: Pool, request: UploadRequest): Promise<number> {
  const files = request.files.map(({ path, size }) => {
    const checked = checkEntryName(path);
    if (checked.refused !== null) throw new PlainError(`The file ${path} was refused: ${checked.refused}.`);
    // Linux's limits on one name and on a path (NAME_MAX, PATH_MAX), less what the folder of uploads takes.
    const long = checked.path.split('/').find((name) => Buffer.byteLength(name) > 255);
    if (long !== undefined || Buffer.byteLength(checked.path) > 3500)
      throw new PlainError(`The file ${path.slice(0, 100)}… was refused: its name is too long for a file.`);
    return { path: checked.path, size };
  });
  const clash = findPathClash(files.map(({ path }) => path));
  if (clash) throw new PlainError(`These files cannot be uploaded together: ${clash}.`);
  const mark = createHash('sha256')
    .update(JSON.stringify([request.name, files]))
    .digest();
  return inTransaction(pool, async (connection) => {
    const open = await selectOne<{ id: number }>(
      connection,
      'SELECT id FROM uploads WHERE mark = ? AND finished_at IS NULL FOR UPDATE',
      [mark],
    );
    if (open) return open.id;
    const { insertId } = await change(connection, 'INSERT INTO uploads (name, mark) VALUES (?, ?)', [
      request.name,
      mark,
    ]);
    await bulkLoad(
      connection,
      {
        table: 'upload_files',
        columns: [{ name: 'upload_id' }, { name: 'number' }, { name: 'path' }, { name: 'size' }],
        onDuplicate: 'ignore',
      },
      files.map(({ path, size }, number) => [insertId, number, path, size]),
    );
    return insertId;
  });
}

/** @throws NotFoundError */
export async function findUpload(database: Queryable, folder: string, id: number): Promise<Upload> {
  const upload = await findRow(database, id);
  const files = await select<Upload['files'][number]>(
    database,
    'SELECT path, size, received FROM upload_files WHERE upload_id = ? ORDER BY number',
    [id],
  );
  return {
    id,
    name: upload.name,
    isFinished: upload.finishedAt !== null,
    source: upload.finishedAt === null ? null : sourceOf(folder, id, files),
    files,
  };
}

/**
 * Takes one chunk, which has to follow what came before.
 * @param sha256 of the chunk, in hex
 * @throws PlainError where the chunk was damaged on its way, ConflictError where it is not the next one
 */
export async function takeChunk(
  pool: Pool,
  folder: string,
  { id, number, offset, sha256 }: { id: number; number: number; offset: number; sha256: string },
  bytes: Uint8Array,
): Promise<number> {
  if (createHash('sha256').update(bytes).digest('hex') !== sha256)
    throw new PlainError('This chunk was damaged on its way: its hash is another one.');
  return inTransaction(pool, async (connection) => {
    const file = await selectOne<{ path: string; size: number; received: number }>(
      connection,
      'SELECT path, size, received FROM upload_files WHERE upload_id = ? AND number = ? FOR UPDATE',
      [id, number],
    );
    if (!file) throw new NotFoundError(`There is no upload ${id} with a file ${number}.`);
    // It came before, and the answer was lost.
    if (offset + bytes.length <= file.received) return file.received;
    if (offset !== file.received)
      throw new ConflictError(
        `The next chunk of ${file.path} begins at byte ${file.received}, and not at ${offset}.`,
      );
    if (offset + bytes.length > file.size)
      throw new PlainError(`${file.path} is larger than it was said to be.`);
    const path = join(uploadFolder(folder, id), file.path);
    mkdirSync(dirname(path), { recursive: true });
    const descriptor = openSync(path, offset === 0 ? 'w' : 'r+', 0o600);
    try {
      for (let at = 0; at < bytes.length;)
        at += writeSync(descriptor, bytes, at, bytes.length - at, offset + at);
    } finally {
      closeSync(descriptor);
    }
    const received = offset + bytes.length;
    await change(connection, 'UPDATE upload_files SET received = ? WHERE upload_id = ? AND number = ?', [
      received,
      id,
      number,
    ]);
    return received;
  });
}

/** Ends an upload of which everything came. @throws ConflictError that names a file of which something is missing */
export async function finishUpload(pool: Pool, folder: string, id: number): Promise<Upload> {
  await findRow(pool, id);
  const missing = await selectOne<{ path: string; size: number; received: number }>(
    pool,
    'SELECT path, size, received FROM upload_files WHERE upload_id = ? AND received < size ORDER BY number LIMIT 1',
    [id],
  );
  if (missing)
    throw new ConflictError(
      `Of ${missing.path} only ${missing.received} of ${missing.size} bytes have come.`,
    );
  for (const { path, size } of await select<{ path: string; size: number }>(
    pool,
    'SELECT path, size FROM upload_files WHERE upload_id = ?',
    [id],
  )) {
    const place = join(uploadFolder(folder, id), path);
    mkdirSync(dirname(place), { recursive: true });
    if (size === 0) closeSync(openSync(place, 'w', 0o600));
    // A chunk that was being written when the machine went down may have left more.
    else truncateSync(place, size);
  }
  await change(pool, 'UPDATE uploads SET finished_at = NOW(3) WHERE id = ?', [id]);
  return findUpload(pool, folder, id);
}

export async function removeUpload(pool: Pool, folder: string, id: number): Promise<void> {
  await findRow(pool, id);
  rmSync(uploadFolder(folder, id), { recursive: true, force: true });
  await change(pool, 'DELETE FROM uploads WHERE id = ?', [id]);
}

export async function listUploads(
  database: Queryable,
): Promise<{ id: number; name: string; isFinished: boolean; size: number; received: number }[]> {
  const rows = await select<UploadRow & { size: number; received: number }>(
    database,
    `SELECT u.id, u.name, u.finished_at AS finishedAt, SUM(f.size) AS size, SUM(f.received) AS received FROM uploads u
       JOIN upload_files f ON f.upload_id = u.id GROUP BY u.id ORDER BY u.id DESC`,
  );
  return rows.map(({ id, name, finishedAt, size, received }) => ({
    id,
    name,
    isFinished: finishedAt !== null,
    size: Number(size),
    received: Number(received),
  }));
}

function uploadFolder(folder: string, id: number): string {
  return join(folder, `upload-${id}`);
}

/** One file is a source by itself; more of them are the folder that they lie in. */
function sourceOf(folder: string, id: number, files: readonly { path: string }[]): string {
  const [only] = files;
  return files.length === 1 && only ? join(uploadFolder(folder, id), only.path) : uploadFolder(folder, id);
}

async function findRow(database: Queryable, id: number): Promise<UploadRow> {
  const row = await selectOne<UploadRow>(
    database,
    'SELECT id, name, finished_at AS finishedAt FROM uploads WHERE id = ?',
    [id],
  );
  if (!row) throw new NotFoundError(`There is no upload ${id}.`);
  return row;
}
