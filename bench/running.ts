import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { openDataFolder } from '../server/platform/data-folder.ts';
import { openPool, type Pool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';
import { PlainError } from '../server/platform/plain-error.ts';

export interface Timed {
  seconds: number;
  output: string;
}

/**
 * Runs a program to its end and times it.
 * @param pids is told of its number, for the watch over memory
 */
export function run(
  program: string,
  args: readonly string[],
  pids?: Set<number>,
  environment: NodeJS.ProcessEnv = {},
): Promise<Timed> {
  return new Promise((resolve, reject) => {
    const start = process.hrtime.bigint();
    const child = spawn(program, args, {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...environment },
    });
    if (child.pid !== undefined) pids?.add(child.pid);
    const output: Buffer[] = [];
    const errors: Buffer[] = [];
    child.stdout.on('data', (piece: Buffer) => output.push(piece));
    child.stderr.on('data', (piece: Buffer) => errors.push(piece));
    child.on('error', reject);
    child.on('close', (code) => {
      const seconds = Number(process.hrtime.bigint() - start) / 1e9;
      if (code === 0) resolve({ seconds, output: Buffer.concat(output).toString('utf8') });
      else
        reject(
          new PlainError(
            `${program} ${args.join(' ')} failed: ${Buffer.concat(errors).toString('utf8').slice(-2000)}`,
          ),
        );
    });
  });
}

/** @throws PlainError when nothing answers within two minutes */
export async function waitFor(url: string): Promise<void> {
  for (const end = Date.now() + 120_000; Date.now() < end; await sleep(100)) {
    try {
      if ((await fetch(url)).ok) return;
    } catch {
      // Not listening yet.
    }
  }
  throw new PlainError('The server did not start.');
}

/** MariaDB leaves its starter's family, and is found by its sign. */
export function databasePids(data: string): number[] {
  try {
    const { mark } = JSON.parse(readFileSync(join(data, 'database', 'running.json'), 'utf8')) as {
      mark: string;
    };
    return [Number.parseInt(mark, 10)];
  } catch {
    return [];
  }
}

export function median(values: number[]): number {
  return values.sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
}

/** Does something with the database of a data folder, beside a server where one runs. */
export async function withPool(data: string, work: (pool: Pool) => Promise<void>): Promise<void> {
  const database = await shareDatabase(openDataFolder(data));
  const pool = openPool(database.address, 2);
  try {
    await work(pool);
  } finally {
    await pool.end();
    await database.release();
  }
}
