import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createReadStream, existsSync, readdirSync } from 'node:fs';
import { copyFile, mkdir, readFile, rename, rm } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import { backupRecordSchema, type BackupRecord } from '../../../contract/backups.ts';
import { openDataFolder } from '../../platform/data-folder.ts';
import { knownMigrations, migrate } from '../../platform/database/migrate.ts';
import { openPool, type DatabaseAddress } from '../../platform/database/pool.ts';
import { shareDatabase } from '../../platform/database/private-mariadb.ts';
import { change, select } from '../../platform/database/rows.ts';
import { PlainError, codeOf, messageOf } from '../../platform/plain-error.ts';
import { dumpName, recordName } from './backup-job.ts';

/**
 * Makes a data folder of a backup. Every file is checked before anything is written, and the folder appears when it is whole.
 * @throws PlainError where the backup is damaged or of a newer version, or the folder holds something already
 */
export async function restoreBackup(
  backup: string,
  target: string,
  say: (line: string) => void,
): Promise<{ files: number }> {
  const record = await readRecord(backup);
  refuseNewer(record);
  const root = resolve(target);
  if (existsSync(root) && readdirSync(root).length > 0)
    throw new PlainError(
      `The data folder ${root} holds something already: a backup is restored into a new one.`,
    );
  say('Checking every file of the backup');
  for (const file of record.files) await checkFile(backup, file);
  const fresh = `${root}.restoring`;
  await rm(fresh, { recursive: true, force: true });
  try {
    const folder = openDataFolder(fresh);
    say('Copying files');
    for (const { path } of record.files) {
      if (path === dumpName) continue;
      await mkdir(dirname(join(fresh, path)), { recursive: true, mode: 0o700 });
      await copyFile(join(backup, path), join(fresh, path));
    }
    say('Restoring the database');
    const database = await shareDatabase(folder);
    try {
      await loadDatabase(database.address, join(backup, dumpName), folder.place);
    } finally {
      await database.release();
    }
    await rm(root, { recursive: true, force: true });
    await rename(fresh, root);
  } catch (error) {
    await rm(fresh, { recursive: true, force: true });
    throw error;
  }
  return { files: record.files.length };
}

async function readRecord(backup: string): Promise<BackupRecord> {
  const file = join(backup, recordName);
  let text: string;
  try {
    text = await readFile(file, 'utf8');
  } catch (error) {
    if (codeOf(error) !== 'ENOENT') throw error;
    throw new PlainError(`${backup} is no whole backup: it has no ${recordName}, which is written last.`);
  }
  try {
    return backupRecordSchema.parse(JSON.parse(text));
  } catch (error) {
    throw new PlainError(`${file} is damaged, and nothing was restored: ${messageOf(error).slice(0, 300)}`);
  }
}

function refuseNewer({ migrations, version }: BackupRecord): void {
  const known = new Set(knownMigrations());
  const unknown = migrations.find((name) => !known.has(name));
  if (unknown !== undefined)
    throw new PlainError(
      `This backup is of a newer version of Worvel (${version}, ${unknown}): restore it with that one. Nothing was changed.`,
    );
}

async function checkFile(
  backup: string,
  { path, bytes, sha256 }: BackupRecord['files'][number],
): Promise<void> {
  const hash = createHash('sha256');
  let read = 0;
  const stream = createReadStream(join(backup, path));
  stream.on('data', (piece) => (read += piece.length));
  try {
    await pipeline(stream, hash);
  } catch (error) {
    throw new PlainError(
      `The backup is damaged, and nothing was restored: ${path} cannot be read: ${messageOf(error)}`,
    );
  }
  if (read !== bytes || hash.digest('hex') !== sha256)
    throw new PlainError(
      `The backup is damaged, and nothing was restored: ${path} is not as it was written.`,
    );
}

/** @throws PlainError where the database holds something already, or does not take it */
async function loadDatabase(address: DatabaseAddress, dump: string, place: string): Promise<void> {
  const pool = openPool(address, 2);
  try {
    const tables = await select<Record<string, string>>(pool, 'SHOW TABLES');
    if (tables.length > 0)
      throw new PlainError(`The database ${address.database} holds something already: nothing was restored.`);
    const { host, port, user, password, database } = address;
    const child = spawn(
      'mariadb',
      [
        '--no-defaults',
        `--host=${host}`,
        `--port=${port}`,
        `--user=${user}`,
        '--max-allowed-packet=64M',
        database,
      ],
      { stdio: ['pipe', 'ignore', 'pipe'], env: { ...process.env, MYSQL_PWD: password } },
    );
    let said = '';
    child.stderr.on('data', (piece: Buffer) => (said = (said + piece.toString('utf8')).slice(-2000)));
    const ended = new Promise<number | null>((done, fail) => {
      child.on('error', fail);
      child.on('close', done);
    });
    ended.catch(() => undefined);
    await pipeline(createReadStream(dump), createGunzip(), child.stdin).catch((error: unknown) => {
      // What the program says of it is told below.
      if (codeOf(error) !== 'EPIPE') throw error;
    });
    const code = await ended;
    if (code !== 0) throw new PlainError(`The database did not take the backup: ${said}`);
    await migrate(pool);
    // Nobody works at what was under way; whoever wants it goes on from here.
    await change(
      pool,
      "UPDATE jobs SET state = 'stopped', owner = NULL WHERE state IN ('waiting', 'running')",
    );
    await change(pool, 'UPDATE jobs SET place = ?', [place]);
  } finally {
    await pool.end();
  }
}
