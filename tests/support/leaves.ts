import { spawnSync } from 'node:child_process';
import { lstatSync, readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { select } from '../../server/platform/database/rows.ts';
import { hashOf } from '../../server/store/hash.ts';
import type { TestHouse } from './worvel.ts';

/** `path size hash` of each file: what two ways of unpacking have to agree on. */
export type Leaves = string[];

/** What a build has, as its newest state tells. @param below paths that begin so, without that beginning */
export async function leavesOf(house: TestHouse, title: string, build: string, below = ''): Promise<Leaves> {
  const rows = await select<{ path: string; size: number; hash: Buffer | null }>(
    house.pool,
    `SELECT p.path, s.size, s.hash FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
       JOIN channels c ON c.id = s.channel_id JOIN titles t ON t.id = c.title_id
       JOIN builds b ON b.channel_id = c.id AND b.label = ?
      WHERE t.name = ? AND s.role = 0 AND s.first_sequence <= b.sequence AND s.last_sequence >= b.sequence`,
    [build, title],
  );
  return rows
    .filter(({ path }) => path.startsWith(below))
    .map(({ path, size, hash }) => `${path.slice(below.length)} ${size} ${hash?.toString('hex') ?? 'unread'}`)
    .sort();
}

/** What lies in a folder. */
export function leavesOfFolder(folder: string, prefix = ''): Leaves {
  return readdirSync(join(folder, prefix), { withFileTypes: true })
    .flatMap((item) => {
      const path = prefix === '' ? item.name : `${prefix}/${item.name}`;
      if (item.isDirectory()) return leavesOfFolder(folder, path);
      if (!item.isFile()) return [];
      return [
        `${path} ${lstatSync(join(folder, path)).size} ${hashOf(readFileSync(join(folder, path))).toString('hex')}`,
      ];
    })
    .sort();
}

/** Problems of a build: `path: reason`. */
export async function problemsOf(house: TestHouse, title: string, build: string): Promise<string[]> {
  const rows = await select<{ path: string; reason: string }>(
    house.pool,
    `SELECT p.path, q.reason FROM problems q JOIN paths p ON p.digest = q.path_digest JOIN builds b ON b.id = q.build_id
       JOIN channels c ON c.id = b.channel_id JOIN titles t ON t.id = c.title_id WHERE t.name = ? AND b.label = ?`,
    [title, build],
  );
  return rows.map(({ path, reason }) => `${path}: ${reason}`).sort();
}

/** Runs a program of Debian's, and throws with what it said when it fails. */
export function run(program: string, args: readonly string[], cwd: string, input?: string | Buffer): Buffer {
  const { status, stdout, stderr, error } = spawnSync(program, args, { cwd, input, maxBuffer: 2 ** 30 });
  if (error && 'code' in error && error.code === 'ENOENT')
    throw new Error(`This test needs the program ${program}, which is not installed.`);
  if (error) throw error;
  if (status !== 0)
    throw new Error(`${program} ${args.join(' ')} ended with ${status}: ${stderr.toString('utf8')}`);
  return stdout;
}
