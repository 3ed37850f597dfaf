import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mysql2/promise';
import { openDataFolder } from '../../server/platform/data-folder.ts';
import type { DatabaseAddress } from '../../server/platform/database/pool.ts';
import { shareDatabase, type SharedDatabase } from '../../server/platform/database/private-mariadb.ts';

interface Shared {
  socket: string;
  database: SharedDatabase;
}

let shared: Promise<Shared> | null = null;
let count = 0;

async function start(): Promise<Shared> {
  const root = mkdtempSync(join(tmpdir(), 'worvel-test-'));
  const folder = openDataFolder(join(root, 'data'));
  const database = await shareDatabase(folder);
  const pid = Number(readFileSync(join(folder.database, 'mariadb.pid'), 'utf8'));
  // Nothing in it is worth a proper end, and whoever runs tests may be ended at any moment.
  process.on('exit', () => {
    process.kill(pid, 'SIGKILL');
    rmSync(root, { recursive: true, force: true });
  });
  process.on('SIGTERM', () => process.exit(1));
  return { socket: join(folder.database, 'data', 'worvel.sock'), database };
}

/** Says something to the shared MariaDB as its administrator: the account of the product sees its own database only. */
async function administer({ socket }: Shared, sql: string): Promise<void> {
  const connection = await createConnection({ socketPath: socket, user: 'root' });
  try {
    await connection.query(sql);
  } finally {
    await connection.end();
  }
}

/** An empty database in the MariaDB that all tests share: making one takes milliseconds, where a MariaDB takes seconds. */
export async function createDatabase(): Promise<DatabaseAddress> {
  const running = await (shared ??= start());
  const { address } = running.database;
  const database = `worvel_test_${++count}`;
  await administer(running, `CREATE DATABASE ${database} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin`);
  await administer(running, `GRANT ALL ON ${database}.* TO '${address.user}'@'127.0.0.1'`);
  return { ...address, database };
}

export async function dropDatabase({ database }: DatabaseAddress): Promise<void> {
  if (shared) await administer(await shared, `DROP DATABASE ${database}`);
}

/** As `WORVEL_DATABASE_URL` says it. */
export function addressUrl({ host, port, user, password, database }: DatabaseAddress): string {
  return `mysql://${encodeURIComponent(user)}:${encodeURIComponent(password)}@${host}:${port}/${database}`;
}
