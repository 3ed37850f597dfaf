import { openDataFolder, type DataFolder } from '../server/platform/data-folder.ts';
import { migrate } from '../server/platform/database/migrate.ts';
import { openPool, type DatabaseAddress, type Pool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';

export interface Session {
  folder: DataFolder;
  address: DatabaseAddress;
  pool: Pool;
  /** Aborted by Ctrl-C. */
  signal: AbortSignal;
}

/** Opens the data folder and its database for as long as `work` takes, and leaves both cleanly, on Ctrl-C too. */
export async function withDatabase<T>(data: string, work: (session: Session) => Promise<T>): Promise<T> {
  const interrupt = new AbortController();
  const onSignal = (): void => interrupt.abort();
  process.on('SIGINT', onSignal).on('SIGTERM', onSignal);
  const folder = openDataFolder(data);
  const database = await shareDatabase(folder);
  try {
    const pool = openPool(database.address, 10);
    try {
      await migrate(pool);
      return await work({ folder, address: database.address, pool, signal: interrupt.signal });
    } finally {
      await pool.end();
    }
  } finally {
    await database.release();
    process.off('SIGINT', onSignal).off('SIGTERM', onSignal);
  }
}
