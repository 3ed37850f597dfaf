import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import * as z from 'zod';
import type { BackupRecord } from '../../../contract/backups.ts';
import { bytesText } from '../../../core/figures.ts';
import { defineJob, type JobContext } from '../../jobs/define-job.ts';
import { applicationRoot } from '../../platform/application-root.ts';
import type { DatabaseAddress } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';
import { PlainError, codeOf } from '../../platform/plain-error.ts';

export const recordName = 'backup.json';
export const dumpName = 'database.sql.gz';

/**
 * What of a data folder is kept: contents, what was published, what was taken out. What is fetched anew or made anew is not:
 * copies of what is followed, the tables of the search.
 */
const keptFolders = ['store', 'published', 'hauls'] as const;
const leftOut = ['store/temporary/'];

/**
 * Writes all that lasts into a folder, while people work: first the database as it is at one moment, then the files, which that
 * moment's tables need and which only grow. What removes contents waits meanwhile, as it does for every job.
 */
export const backupJob = defineJob({
  kind: 'backup',
  params: z.object({ folder: z.string() }),
  async run(context: JobContext<{ folder: string }, unknown>) {
    const { params, folder: data, pool, address, meter, signal, count } = context;
    const { folder } = params;
    await mkdir(folder, { recursive: true, mode: 0o700 });
    if ((await readdir(folder)).some((name) => name !== recordName && !name.endsWith('.part')))
      throw new PlainError(
        `The folder ${folder} holds something already: choose an empty one, or a new one.`,
      );
    meter.begin('backing up', null, null);
    const migrations = (
      await select<{ name: string }>(pool, 'SELECT name FROM migrations ORDER BY name')
    ).map(({ name }) => name);
    const files: BackupRecord['files'] = [];
    let bytes = 0;
    const keep = async (
      path: string,
      write: (file: string) => Promise<{ bytes: number; sha256: string }>,
    ): Promise<void> => {
      signal.throwIfAborted();
      const file = join(folder, path);
      await mkdir(dirname(file), { recursive: true, mode: 0o700 });
      const kept = await write(`${file}.part`);
      await rename(`${file}.part`, file);
      files.push({ path, ...kept });
      count(files.length, (bytes += kept.bytes));
    };
    await keep(dumpName, (file) => dumpDatabase(address, file, signal));
    const isStoreElsewhere = Boolean(process.env.WORVEL_STORE);
    for (const path of await filesBelow(data.root, isStoreElsewhere))
      await keep(path, (file) => copy(join(data.root, path), file, signal));
    const hasMasterKey = await keep('master.key', (file) =>
      copy(join(data.root, 'master.key'), file, signal),
    ).then(
      () => true,
      (error: unknown) => {
        // None is there before something is locked or signed, or where it comes from the environment.
        if (codeOf(error) === 'ENOENT') return false;
        throw error;
      },
    );
    const record: BackupRecord = {
      ...{ worvelBackup: 1, version: await versionOf(), madeAt: new Date().toISOString() },
      ...{ migrations, isStoreElsewhere, hasMasterKey, files },
    };
    const part = join(folder, `${recordName}.part`);
    await writeFile(part, `${JSON.stringify(record, null, 1)}\n`, { mode: 0o600 });
    await rename(part, join(folder, recordName));
    return {
      report: {
        summary: `A backup of ${bytesText(bytes)} in ${files.length.toLocaleString('en')} files is in ${folder}.`,
        lines: [
          ...(isStoreElsewhere ? ['Contents lie in an object store, and are not in it.'] : []),
          ...(hasMasterKey
            ? ['It holds the master key: whoever has the backup opens every key of the keyring.']
            : []),
        ],
      },
    };
  },
});

async function versionOf(): Promise<string> {
  const text = await readFile(join(applicationRoot, 'package.json'), 'utf8');
  return (JSON.parse(text) as { version: string }).version;
}

/** All files of a data folder that are kept, by their paths in there. */
async function filesBelow(root: string, isStoreElsewhere: boolean): Promise<string[]> {
  const found: string[] = [];
  for (const folder of keptFolders) {
    if (folder === 'store' && isStoreElsewhere) continue;
    const entries = await readdir(join(root, folder), { recursive: true, withFileTypes: true }).catch(
      (error: unknown) => {
        if (codeOf(error) === 'ENOENT') return [];
        throw error;
      },
    );
    for (const entry of entries)
      if (entry.isFile()) found.push(join(entry.parentPath, entry.name).slice(root.length + 1));
  }
  return found.filter((path) => !leftOut.some((begin) => path.startsWith(begin))).sort();
}

/** Copies what there is now: whoever appends meanwhile appends nothing that the tables of the backup name. */
async function copy(
  from: string,
  to: string,
  signal: AbortSignal,
): Promise<{ bytes: number; sha256: string }> {
  const { measure, result } = measured();
  await pipeline(createReadStream(from), measure, createWriteStream(to, { mode: 0o600 }), { signal });
  return result();
}

/** The database as it is at one moment, by MariaDB's own program. @throws PlainError */
async function dumpDatabase(
  { host, port, user, password, database }: DatabaseAddress,
  to: string,
  signal: AbortSignal,
): Promise<{ bytes: number; sha256: string }> {
  const options = ['--single-transaction', '--quick', '--hex-blob', '--no-tablespaces', '--skip-dump-date'];
  const child = spawn(
    'mariadb-dump',
    ['--no-defaults', `--host=${host}`, `--port=${port}`, `--user=${user}`, ...options, database],
    { stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, MYSQL_PWD: password }, signal },
  );
  let said = '';
  child.stderr.on('data', (piece: Buffer) => (said = (said + piece.toString('utf8')).slice(-2000)));
  const ended = new Promise<number | null>((resolve, reject) => {
    child.on('error', reject);
    child.on('close', resolve);
  });
  ended.catch(() => undefined);
  const { measure, result } = measured();
  await pipeline(child.stdout, createGzip({ level: 3 }), measure, createWriteStream(to, { mode: 0o600 }), {
    signal,
  });
  const code = await ended;
  if (code !== 0)
    throw new PlainError(
      `The database could not be read: mariadb-dump ended with ${code ?? 'a signal'}: ${said}`,
    );
  return result();
}

function measured(): { measure: Transform; result: () => { bytes: number; sha256: string } } {
  const hash = createHash('sha256');
  let bytes = 0;
  const measure = new Transform({
    transform(piece: Buffer, _encoding, done) {
      hash.update(piece);
      bytes += piece.length;
      done(null, piece);
    },
  });
  return { measure, result: () => ({ bytes, sha256: hash.digest('hex') }) };
}
