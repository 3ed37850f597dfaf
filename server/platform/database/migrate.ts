import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { applicationRoot } from '../application-root.ts';
import { PlainError } from '../plain-error.ts';
import type { Pool } from './pool.ts';
import { change, select } from './rows.ts';

const folder = join(applicationRoot, 'server', 'platform', 'database', 'migrations');

/** Names of the migrations that this version knows, in their order. */
export function knownMigrations(): string[] {
  return readdirSync(folder)
    .filter((name) => name.endsWith('.sql'))
    .sort();
}

/**
 * Brings the tables up to date: numbered files, each run once, in order, one process at a time.
 * @throws PlainError where a newer version has been at them: nothing is changed
 */
export async function migrate(pool: Pool): Promise<void> {
  const connection = await pool.getConnection();
  try {
    await connection.query("SELECT GET_LOCK('worvel-migrations', 60)");
    await connection.query('CREATE TABLE IF NOT EXISTS migrations (name VARCHAR(100) NOT NULL PRIMARY KEY)');
    const done = new Set(
      (await select<{ name: string }>(connection, 'SELECT name FROM migrations')).map((row) => row.name),
    );
    const known = knownMigrations();
    const newer = [...done].find((name) => !known.includes(name));
    if (newer !== undefined)
      throw new PlainError(
        `This database was brought up to date by a newer version of Worvel (${newer}): start that one. Nothing was changed.`,
      );
    for (const name of known) {
      if (done.has(name)) continue;
      for (const statement of statements(readFileSync(join(folder, name), 'utf8')))
        await connection.query(statement);
      await change(connection, 'INSERT INTO migrations (name) VALUES (?)', [name]);
    }
  } finally {
    await connection.query("SELECT RELEASE_LOCK('worvel-migrations')");
    connection.release();
  }
}

/** Statements end with a semicolon at the end of a line; comments stand on lines of their own. */
function statements(sql: string): string[] {
  return sql
    .replace(/^\s*--.*$/gm, '')
    .split(/;\s*$/m)
    .map((statement) => statement.trim())
    .filter((statement) => statement !== '');
}
