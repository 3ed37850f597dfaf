import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { escaped, type Truth } from './truth.ts';

const run = promisify(execFile);

/** What a script says that it did. */
export interface Told {
  key?: string;
  column?: string;
  line?: number;
  old?: string;
  new?: string;
}

/** What is true of an edit. */
export interface Edit {
  is: Truth['is'];
  says?: (told: Told) => readonly RegExp[];
  never?: readonly RegExp[];
}

export const changed = (says: Edit['says'], never: readonly RegExp[] = []): Edit => ({
  is: 'changed',
  ...(says ? { says } : {}),
  never: [...never, /The same values, written|The same text/],
});
export const same: Edit = { is: 'loss' };
export const renamed = ({ old = '', new: now = '' }: Told): readonly RegExp[] => [
  escaped(old === '' ? 'renamed' : `“${old}” renamed to “${now}”`),
];

/** Of how many files each edit is made, at a share of 1. */
export const filesOfEdit = 8;

/** Lets a script of Python edit `old` into a file beside it; null where the file holds nothing that could be edited so. */
export async function edited(script: string, group: string, old: string, round: number) {
  const now = old.replace(/old(?=\.\w+$)/, 'new');
  const path = join(applicationRoot, 'bench', 'truth', script);
  try {
    const { stdout } = await run('python3', [path, group, old, now, String(round + 1)]);
    return { told: JSON.parse(stdout) as Told, old: readFileSync(old), now: readFileSync(now) };
  } catch (error) {
    if (/IndexError|KeyError|ValueError|ParseError/.test(String(error))) return null;
    throw error;
  }
}
