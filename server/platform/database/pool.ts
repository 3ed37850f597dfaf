import {
  createConnection,
  createPool,
  type Connection,
  type Pool,
  type PoolConnection,
} from 'mysql2/promise';

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

/** Runs `work` in one transaction, undone as a whole where it throws. */
export async function inTransaction<T>(
  pool: Pool,
  work: (connection: PoolConnection) => Promise<T>,
): Promise<T> {
  const connection = await pool.getConnection();
  try {
    await connection.beginTransaction();
    const result = await work(connection);
    await connection.commit();
    return result;
  } catch (error) {
    await connection.rollback();
    throw error;
  } finally {
    connection.release();
  }
}
