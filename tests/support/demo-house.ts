import { spawnSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { codeOf } from '../../server/platform/plain-error.ts';
import type { DatabaseAddress } from '../../server/platform/database/pool.ts';

/** A data folder with its database, in which the demo is indexed, as it is put into others. */
export interface DemoHouse {
  /** Of the house that was copied, with its builds in it. */
  root: string;
  data: string;
  /** Where jobs of that house can reach its folders. */
  place: string;
  address: DatabaseAddress;
}

/** All groups of tests of a run share one: it takes half a minute of computing. A test that is run by itself makes its own. */
const shared = process.env.WORVEL_TEST_RUN ?? ownFolder();
const copy = join(shared, 'demo-house');

/** Where what names the house that was copied is told, for whom it is copied to. */
const namesFile = join(copy, 'names.json');
const dump = join(copy, 'database.sql');

function ownFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-test-demo-'));
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
  return folder;
}

/**
 * @param make indexes the demo, ends what works with it, and says where all lies
 * @throws Error where it could not be made, here or by whoever began first
 */
export async function copyDemoHouse(make: () => Promise<DemoHouse>, into: DemoHouse): Promise<void> {
  if (begins()) await keep(make);
  while (!existsSync(copy)) {
    if (existsSync(`${copy}.failed`)) throw new Error('the demo could not be indexed for all tests');
    await sleep(100);
  }
  const names = JSON.parse(readFileSync(namesFile, 'utf8')) as Pick<DemoHouse, 'root' | 'place'>;
  cpSync(join(copy, 'data'), into.data, { recursive: true, preserveTimestamps: true });
  for (const label of ['0.1', '0.2'])
    cpSync(join(copy, label), join(into.root, label), {
      ...{ recursive: true, preserveTimestamps: true, verbatimSymlinks: true },
    });
  const sql = readFileSync(dump, 'latin1')
    .replaceAll(names.root, into.root)
    .replaceAll(names.place, into.place);
  database('mariadb', into.address, [], sql);
}

/** Whether this process is the one that makes it. */
function begins(): boolean {
  try {
    mkdirSync(`${copy}.begun`);
    return true;
  } catch (error) {
    if (codeOf(error) === 'EEXIST') return false;
    throw error;
  }
}

async function keep(make: () => Promise<DemoHouse>): Promise<void> {
  try {
    const { root, data, place, address } = await make();
    const unfinished = `${copy}.new`;
    mkdirSync(unfinished);
    cpSync(data, join(unfinished, 'data'), {
      ...{ recursive: true, preserveTimestamps: true },
      filter: (path) => path !== join(data, 'database') && path !== join(data, 'place'),
    });
    for (const label of ['0.1', '0.2'])
      cpSync(join(root, label), join(unfinished, label), {
        ...{ recursive: true, preserveTimestamps: true, verbatimSymlinks: true },
      });
    const sql = database('mariadb-dump', address, ['--hex-blob', '--single-transaction', '--no-tablespaces']);
    writeFileSync(join(unfinished, 'database.sql'), sql, 'latin1');
    writeFileSync(join(unfinished, 'names.json'), JSON.stringify({ root, place }));
    renameSync(unfinished, copy);
  } catch (error) {
    writeFileSync(`${copy}.failed`, '');
    throw error;
  }
}

/** Runs one of MariaDB's own programs. @returns what it printed, a byte a letter */
function database(
  program: string,
  { host, port, user, password, database: name }: DatabaseAddress,
  options: readonly string[],
  input = '',
): string {
  const { status, stdout, stderr, error } = spawnSync(
    program,
    [`--host=${host}`, `--port=${port}`, `--user=${user}`, ...options, name],
    {
      input: Buffer.from(input, 'latin1'),
      env: { ...process.env, MYSQL_PWD: password },
      maxBuffer: 1024 * 1024 * 1024,
    },
  );
  if (error) throw error;
  if (status !== 0) throw new Error(`${program} ended with ${status}: ${stderr.toString('utf8')}`);
  return stdout.toString('latin1');
}
