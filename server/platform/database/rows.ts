import type { RowDataPacket, ResultSetHeader } from 'mysql2/promise';
import type { Connection, Pool, PoolConnection } from './pool.ts';
import { retryDeadlocks } from './retry-deadlocks.ts';

export type Queryable = Pool | PoolConnection | Connection;
export type Value = string | number | Buffer | Date | null;

/** Rows of a query as the caller types them: the one place where SQL's answer meets a type. */
export async function select<Row>(
  database: Queryable,
  sql: string,
  values: (Value | readonly Value[])[] = [],
): Promise<Row[]> {
  const [rows] = await database.query<RowDataPacket[]>(sql, values);
  return rows as unknown as Row[];
}

/** The first row, or null. */
export async function selectOne<Row>(
  database: Queryable,
  sql: string,
  values: Value[] = [],
): Promise<Row | null> {
  return (await select<Row>(database, sql, values))[0] ?? null;
}

/** Runs a statement that changes rows; outside of a transaction again, where the database ended it because of a deadlock. */
export async function change(
  database: Queryable,
  sql: string,
  values: (Value | readonly Value[])[] = [],
): Promise<{ changed: number; insertId: number }> {
  const run = async (): Promise<{ changed: number; insertId: number }> => {
    const [result] = await database.query<ResultSetHeader>(sql, values);
    return { changed: result.affectedRows, insertId: result.insertId };
  };
  return isInTransaction(database) ? run() : retryDeadlocks(run);
}

/** Connections of a pool are taken for transactions, which are run again as a whole. */
export function isInTransaction(database: Queryable): boolean {
  return 'release' in database;
}

/** MariaDB's JSON columns come as text. */
export function parseColumn(value: unknown): unknown {
  return typeof value === 'string' ? JSON.parse(value) : value;
}

/** 64 hex digits of a BINARY column, null for NULL. */
export function hex(value: Buffer | null): string | null {
  return value ? value.toString('hex') : null;
}

/** A pattern for LIKE that finds `text` literally, anywhere. */
export function containing(text: string): string {
  return `%${text.replace(/[\\%_]/g, '\\$&')}%`;
}
