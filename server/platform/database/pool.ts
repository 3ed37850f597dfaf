import {
  createConnection,
  createPool,
  type Connection,
  type Pool,
  type PoolConnection,
} from 'mysql2/promise';
import { ConflictError } from '../plain-error.ts';
import { retryDeadlocks } from './retry-deadlocks.ts';

/** How to reach the database: an URL as `WORVEL_DATABASE_URL` has it. */
export interface DatabaseAddress {
  host: string;
  port: number;
  user: string;
  password: string;
  database: string;
}

export type { Connection, Pool, PoolConnection };

const options = {
  charset: 'utf8mb4',
  timezone: 'Z',
  supportBigNumbers: true,
  dateStrings: false,
  // BIGINT columns hold sizes and counts far below 2 ** 53.
  bigNumberStrings: false,
} as const;

export function openPool(address: DatabaseAddress, connections: number): Pool {
  const pool = createPool({ ...address, ...options, connectionLimit: connections });
  // READ COMMITTED keeps workers that append to the same tables from waiting for one another's gaps.
  pool.on('connection', (connection) => {
    void connection.query('SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED');
  });
  return pool;
}

export async function openConnection(address: DatabaseAddress): Promise<Connection> {
  const connection = await createConnection({ ...address, ...options });
  await connection.query('SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED');
  return connection;
}

/**
 * Runs `work` in one transaction, undone as a whole where it throws. Where the database ends it to get out of a deadlock, it
 * is run again: `work` must do nothing but what the transaction undoes.
 */
export async function inTransaction<T>(
  pool: Pool,
  work: (connection: PoolConnection) => Promise<T>,
): Promise<T> {
  return retryDeadlocks(async () => {
    const connection = await pool.getConnection();
    try {
      return await transact(connection, work);
    } finally {
      connection.release();
    }
  });
}

const lockSeconds = 20;

/**
 * The same, while nobody else runs one under the same name, in any process: they go one after the other, and what one reads
 * the other has committed. For what locks of rows cannot hold, since the rows are not there yet.
 * @param name at most 64 characters
 */
export async function inLockedTransaction<T>(
  pool: Pool,
  name: string,
  work: (connection: PoolConnection) => Promise<T>,
): Promise<T> {
  return retryDeadlocks(async () => {
    const connection = await pool.getConnection();
    try {
      const [rows] = await connection.query('SELECT GET_LOCK(?, ?) AS got', [name, lockSeconds]);
      if ((rows as { got: number | null }[])[0]?.got !== 1)
        throw new ConflictError('Somebody else is changing the same things: try again in a moment.');
      try {
        return await transact(connection, work);
      } finally {
        await connection.query('SELECT RELEASE_LOCK(?)', [name]);
      }
    } finally {
      connection.release();
    }
  });
}

async function transact<T>(
  connection: PoolConnection,
  work: (connection: PoolConnection) => Promise<T>,
): Promise<T> {
  try {
    await connection.beginTransaction();
    const result = await work(connection);
    await connection.commit();
    return result;
  } catch (error) {
    await connection.rollback();
    throw error;
  }
}
