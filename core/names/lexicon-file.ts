import papa from 'papaparse';
import * as z from 'zod';
import { lexiconEntrySchema, type LexiconEntry } from '../../contract/names.ts';

const columns = ['part', 'role', 'meaning', 'said by', 'since build'] as const;

/** What does not fit in a file of a lexicon, and where. */
export class LexiconFileError extends Error {
  override readonly name = 'LexiconFileError';
}

/** As JSON: an array of entries. */
export function lexiconToJson(entries: readonly LexiconEntry[]): string {
  return `${JSON.stringify(entries, null, 2)}\n`;
}

/** As CSV (RFC 4180), with a head line. */
export function lexiconToCsv(entries: readonly LexiconEntry[]): string {
  const data = entries.map(({ part, role, meaning, saidBy, sinceBuild }) => [
    part,
    role,
    meaning,
    saidBy,
    sinceBuild,
  ]);
  return `${papa.unparse({ fields: [...columns], data })}\r\n`;
}

/**
 * Reads a lexicon of either form; all of it, or nothing.
 * @throws LexiconFileError that names the line or the entry, and what was expected
 */
export function readLexicon(text: string): LexiconEntry[] {
  const body = text.replace(/^\ufeff/, '');
  return /^\s*[[{]/.test(body) ? fromJson(body) : fromCsv(body);
}

function fromJson(text: string): LexiconEntry[] {
  let root: unknown;
  try {
    root = JSON.parse(text);
  } catch (error) {
    throw new LexiconFileError(
      `this is not valid JSON: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  if (!Array.isArray(root)) throw new LexiconFileError('an array of entries was expected');
  return root.map((entry, at) => checked(entry, `entry ${at + 1}`));
}

function fromCsv(text: string): LexiconEntry[] {
  const { data, errors } = papa.parse<string[]>(text, { skipEmptyLines: 'greedy' });
  const [error] = errors.filter(({ code }) => code !== 'UndetectableDelimiter');
  if (error) throw new LexiconFileError(`line ${(error.row ?? 0) + 1}: ${error.message}`);
  const [head = [], ...rows] = data;
  const names = head.map((name) => name.trim().toLowerCase());
  for (const name of ['part', 'role', 'meaning'])
    if (!names.includes(name))
      throw new LexiconFileError(`line 1: a column “${name}” was expected; there are ${names.join(', ')}`);
  return rows.map((row, at) => {
    const cell = (name: string): string | undefined => row[names.indexOf(name)];
    return checked(
      {
        part: cell('part'),
        role: cell('role')?.trim(),
        meaning: cell('meaning'),
        saidBy: cell('said by'),
        sinceBuild: cell('since build'),
      },
      `line ${at + 2}`,
    );
  });
}

function checked(value: unknown, where: string): LexiconEntry {
  const parsed = lexiconEntrySchema.safeParse(value);
  if (parsed.success) return { ...parsed.data, part: parsed.data.part.toLowerCase() };
  const [issue] = parsed.error.issues;
  throw new LexiconFileError(
    `${where}: ${issue ? `${issue.path.join('.')}: ${issue.message}` : z.prettifyError(parsed.error)}`,
  );
}
