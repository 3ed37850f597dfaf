import { isScalar, LineCounter, parseDocument, visit, type Document } from 'yaml';
import { formatSheetSchema, type FormatSheet } from '../../contract/format-sheets.ts';
import { compileNameGlob, type Matches } from '../globs.ts';
import { compileBinary } from './language/compile.ts';
import { SheetError } from './language/sheet-error.ts';
import { compileText } from './language/text-lines.ts';
import { keyringWord } from './packings/packings.ts';
import { offsetOfNames } from './place-in-sheet.ts';
import type { ReadOne } from './language/plain-types.ts';
import { compileResult, type CompiledResult } from './results/compile-result.ts';

/** What is wrong with a sheet, and where in its text. */
export interface SheetProblem {
  /** From 1. */
  line: number;
  column: number;
  message: string;
}

/** A sheet that is ready to read files. */
export interface OpenSheet {
  sheet: FormatSheet;
  /** The oldest first; one without a name where the sheet names none. */
  versions: readonly string[];
  /** Fields in a version. */
  fields: (version: string) => ReadOne;
  result: CompiledResult;
  /** Whether it reads other files with a file. */
  usesSisters: boolean;
  /** Whether it unpacks with keys of the keyring. */
  usesKeyring: boolean;
  /** Whether it is for a path. */
  isFor: Matches;
}

/** Longer ones are no sheet: a long one has some hundred lines. */
export const longestSheet = 256 * 1024;

/** Fields of all versions together. */
const mostFields = 20_000;

type Opened = { sheet: OpenSheet } | { problems: SheetProblem[] };

/** Reads a sheet and looks through all of it. @returns it, or what is wrong with it */
export function openSheet(text: string): Opened {
  try {
    return lookThrough(text);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return { problems: [{ line: 1, column: 1, message: `it cannot be read: ${error.message}` }] };
  }
}

function lookThrough(text: string): Opened {
  if (text.length > longestSheet)
    return { problems: [{ line: 1, column: 1, message: `a sheet has at most ${longestSheet} letters` }] };
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, uniqueKeys: false });
  const at = (offset: number, message: string): SheetProblem => {
    const { line, col } = lines.linePos(offset);
    return { line: Math.max(1, line), column: Math.max(1, col), message };
  };
  const [broken] = document.errors;
  if (broken)
    return { problems: document.errors.map(({ pos, message }) => at(pos[0], message.split('\n')[0] ?? '')) };
  const twice = repeatedKeys(document);
  if (twice.length > 0)
    return { problems: twice.map(({ name, offset }) => at(offset, `“${name}” stands there twice`)) };
  // They could make a small text very large.
  const alias = firstAlias(document);
  if (alias !== null)
    return { problems: [at(alias, 'names that stand for other parts, with & and *, are not read')] };
  const plain: unknown = document.toJS({ maxAliasCount: 0 });
  const parsed = formatSheetSchema.safeParse(plain);
  if (!parsed.success)
    return {
      problems: parsed.error.issues.map(({ path, message }) =>
        at(offsetOf(document, path), `${pathText(path)}${message}`),
      ),
    };
  const sheet = parsed.data;
  const versions = sheet.versions ?? [''];
  const ready = new Map<string, ReadOne>();
  try {
    if (sheet.root && sheet.text) throw new SheetError('root and text exclude each other');
    const compile = sheet.text ? compileText : compileBinary;
    const budget = { fields: mostFields };
    for (const version of versions) ready.set(version, compile(sheet, version, budget));
    const isFor = matcherOf(sheet.files);
    const result = compileResult(sheet.result);
    const fields = (version: string): ReadOne => {
      const found = ready.get(version);
      if (!found) throw new SheetError(`there is no version ${version} in the sheet`);
      return found;
    };
    const words = JSON.stringify(sheet);
    const usesKeyring = words.includes(`"key":"${keyringWord}"`);
    const usesSisters = words.includes('sister(');
    return { sheet: { sheet, versions, fields, result, usesKeyring, usesSisters, isFor } };
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    const place = error.where.split('.').filter((part) => part !== '');
    return {
      problems: [
        at(offsetOfNames(document, place), `${error.where === '' ? '' : `${error.where}: `}${error.message}`),
      ],
    };
  }
}

/** @throws SheetError */
function matcherOf(files: FormatSheet['files']): Matches {
  try {
    const globs = [files].flat().map(compileNameGlob);
    return (path) => globs.some((matches) => matches(path));
  } catch (error) {
    throw new SheetError(error instanceof Error ? error.message : String(error), null, 'files');
  }
}

function pathText(path: readonly PropertyKey[]): string {
  return path.length === 0 ? '' : `${path.map(String).join('.')}: `;
}

interface Ranged {
  range?: [number, number, number] | null;
}

/** Keys that a mapping has twice. The package compares each with each: minutes for a long sheet. */
function repeatedKeys(document: Document): { name: string; offset: number }[] {
  const twice: { name: string; offset: number }[] = [];
  visit(document, {
    Map(_key, { items }) {
      const seen = new Set<unknown>();
      for (const { key } of items) {
        if (!isScalar(key)) continue;
        if (seen.has(key.value)) twice.push({ name: String(key.value), offset: key.range?.[0] ?? 0 });
        seen.add(key.value);
      }
    },
  });
  return twice;
}

/** Where a name stands for another part; null where none does. */
function firstAlias(document: Document): number | null {
  let found: number | null = null;
  visit(document, {
    Alias(_key, { range }) {
      found = range?.[0] ?? 0;
      return visit.BREAK;
    },
  });
  return found;
}

/** Where a part of a document begins; the nearest that is there. */
function offsetOf(document: Document, path: readonly PropertyKey[]): number {
  for (let length = path.length; length > 0; length--) {
    const node = document.getIn(path.slice(0, length), true) as Ranged | undefined;
    if (node?.range) return node.range[0];
  }
  return 0;
}
