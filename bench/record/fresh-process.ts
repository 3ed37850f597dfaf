import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { PlainError, messageOf } from '../../server/platform/plain-error.ts';
import { benchMinutes, type BenchName } from '../../cli/bench-names.ts';
import { benchResultSchema, type BenchResult } from '../result.ts';
import { endProcessesOf } from './end-processes.js';

/**
 * Runs a benchmark in a process of its own, whose files lie in a folder of their own. When it is through, or its time is, what
 * it left running is ended: servers and databases name that folder.
 * @param share of everything, from 0 to 1
 * @throws PlainError when it failed, or took longer than it says
 */
export async function runFresh(
  name: BenchName,
  share: number,
  say: (line: string) => void,
): Promise<BenchResult> {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-bench-run-'));
  try {
    return await new Promise((resolve, reject) => {
      const program = join(applicationRoot, 'dist', 'node', 'cli.js');
      const child = spawn(process.execPath, [program, 'bench', name, '--json'], {
        stdio: ['ignore', 'pipe', 'pipe'],
        env: { ...process.env, TMPDIR: folder, WORVEL_BENCH_SHARE: String(share) },
      });
      let output = '';
      let last = '';
      child.stdout.on('data', (piece: Buffer) => (output += piece.toString('utf8')));
      child.stderr.on('data', (piece: Buffer) => {
        const text = piece.toString('utf8');
        last = text.trim().split('\n').at(-1) ?? '';
        for (const line of text.trimEnd().split('\n')) say(`  ${line}`);
      });
      const minutes = benchMinutes[name];
      const timer = setTimeout(() => {
        reject(new PlainError(`it took more than ${minutes} minutes and was ended; it said last: ${last}`));
        endProcessesOf(folder);
        child.kill('SIGKILL');
      }, minutes * 60_000);
      child.on('error', reject);
      child.on('close', (code) => {
        clearTimeout(timer);
        if (code !== 0) reject(new PlainError(`it ended with ${code ?? 'a signal'}: ${last}`));
        try {
          resolve(benchResultSchema.parse(JSON.parse(output.trim().split('\n').at(-1) ?? '')));
        } catch (error) {
          reject(new PlainError(`what it said is no result: ${messageOf(error)}`));
        }
      });
    });
  } finally {
    endProcessesOf(folder);
    rmSync(folder, { recursive: true, force: true, maxRetries: 10, retryDelay: 100 });
  }
}
