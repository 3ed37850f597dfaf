import { openDataFolder, type DataFolder } from '../server/platform/data-folder.ts';
import { migrate } from '../server/platform/database/migrate.ts';
import { openPool, type DatabaseAddress, type Pool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';
import { PlainError, messageOf } from '../server/platform/plain-error.ts';

export interface Session {
  folder: DataFolder;
  address: DatabaseAddress;
  pool: Pool;
  /** Aborted by Ctrl-C. */
  signal: AbortSignal;
  /** Looks after the database for as long as the session lasts. */
  watchDatabase: (report: (message: string) => void) => void;
}

const watchMs = 1000;

/** Opens the data folder and its database for as long as `work` takes, and leaves both cleanly, on Ctrl-C too. */
export async function withDatabase<T>(data: string, work: (session: Session) => Promise<T>): Promise<T> {
  const interrupt = new AbortController();
  const onSignal = (): void => interrupt.abort();
  process.on('SIGINT', onSignal).on('SIGTERM', onSignal);
  const folder = openDataFolder(data);
  const database = await shareDatabase(folder).catch((error: unknown) => {
    // Ctrl-C ends the programs that make the database, too: what they say then is of no use to anybody.
    if (interrupt.signal.aborted)
      throw new PlainError('It was stopped before its database was there; the next start makes it.');
    throw error;
  });
  let watch: NodeJS.Timeout | null = null;
  let lost: PlainError | null = null;
  const watchDatabase = (report: (message: string) => void): void => {
    let isLooking = false;
    watch ??= setInterval(() => {
      if (isLooking || lost) return;
      isLooking = true;
      database
        .keepAlive()
        .catch((error: unknown) => {
          lost = new PlainError(messageOf(error));
          report(lost.message);
          interrupt.abort();
        })
        .finally(() => (isLooking = false));
    }, watchMs);
  };
  try {
    const pool = openPool(database.address, 10);
    try {
      await migrate(pool);
      const done = await work({
        folder,
        pool,
        watchDatabase,
        address: database.address,
        signal: interrupt.signal,
      });
      // The sentence has been said: what is left is an exit code.
      if (lost) process.exitCode = 1;
      return done;
    } finally {
      await pool.end().catch(() => undefined);
    }
  } finally {
    if (watch) clearInterval(watch);
    await database.release();
    process.off('SIGINT', onSignal).off('SIGTERM', onSignal);
  }
}
