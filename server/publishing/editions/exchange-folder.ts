import { execFile } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { PlainError } from '../../platform/plain-error.ts';
import { isAlive, processMark } from '../../platform/process-mark.ts';
import { withLock } from '../../platform/with-lock.ts';

/** Files by which a folder is known to hold an edition, of now and of before. */
const markers = ['edition.json', 'worvel-site.json'];
const waitSeconds = 600;
/** Between the target's name and the process that writes beside it. */
const freshMark = '.worvel-writes-';
const formerMark = '.worvel-former-';

/**
 * Writes a folder beside its place, and puts it there when it is whole: at any moment the former one or the new one is there,
 * whatever stops it. One at a time for each target, whoever it is that publishes.
 * @throws PlainError where something else lies there
 */
export async function exchangeFolder<T>(out: string, write: (fresh: string) => Promise<T>): Promise<T> {
  mkdirSync(dirname(out), { recursive: true });
  return withLock({ file: `${out}.lock`, waitSeconds }, async () => {
    if (
      existsSync(out) &&
      readdirSync(out).length > 0 &&
      !markers.some((name) => existsSync(join(out, name)))
    )
      throw new PlainError(
        `The folder ${out} holds something else: choose an empty one, or one with an earlier edition.`,
      );
    await removeLeftovers(out);
    const fresh = `${out}${freshMark}${processMark() ?? process.pid}`;
    try {
      mkdirSync(fresh);
      const result = await write(fresh);
      await exchange(fresh, out);
      return result;
    } finally {
      await removeFolder(fresh);
    }
  });
}

/** What processes that were killed left beside the target, under names that nobody else gives. */
async function removeLeftovers(out: string): Promise<void> {
  for (const name of readdirSync(dirname(out))) {
    const mark = [freshMark, formerMark].find((text) => name.startsWith(`${basename(out)}${text}`));
    if (mark === undefined) continue;
    const path = join(dirname(out), name);
    if (isAlive(name.slice(basename(out).length + mark.length))) continue;
    // The only edition there is: its process was killed between the two steps of the exchange.
    if (mark === formerMark && !existsSync(out)) renameSync(path, out);
    else await removeFolder(path);
  }
}

async function exchange(fresh: string, out: string): Promise<void> {
  const former = `${out}${formerMark}${processMark() ?? process.pid}`;
  const hadFormer = existsSync(out);
  if (hadFormer) renameSync(out, former);
  try {
    renameSync(fresh, out);
  } catch (error) {
    if (hadFormer) renameSync(former, out);
    throw error;
  }
  await removeFolder(former);
}

/** By `rm`: Node’s own way takes four times as long over a hundred thousand files. */
async function removeFolder(path: string): Promise<void> {
  if (existsSync(path)) await promisify(execFile)('rm', ['-rf', '--', path]);
}
