import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { sheetJsonSchema } from '../contract/format-sheets.ts';
import type { FormatTrial, TriedField } from '../contract/format-trials.ts';
import { functions } from '../core/formats/language/functions.ts';
import { offsetText } from '../core/formats/language/sheet-error.ts';
import { openSheet, type OpenSheet } from '../core/formats/open-sheet.ts';
import { whyNotTurned } from '../core/formats/turn/can-turn.ts';
import { packings } from '../core/formats/packings/packings.ts';
import { trySheet } from '../core/formats/try-sheet.ts';
import { texels } from '../core/kinds/picture/read/texels.ts';
import { PlainError, codeOf, messageOf } from '../server/platform/plain-error.ts';

export interface TryFormatOptions {
  json?: boolean;
  /** The version to begin with. */
  sheetVersion?: string;
}

/** Tries a sheet on files, and says what comes of it, or where they do not fit. Ends with 1 where one does not. */
export async function tryFormatCommand(
  sheetFile: string,
  files: readonly string[],
  { json, sheetVersion }: TryFormatOptions,
): Promise<void> {
  const { open } = readSheet(sheetFile);
  if (sheetVersion !== undefined && !open.versions.includes(sheetVersion))
    throw new PlainError(`${sheetFile} has no version ${sheetVersion}: it has ${open.versions.join(', ')}`);
  const trials: FormatTrial[] = [];
  for (const path of files) {
    const bytes = read(path);
    const resolve = (name: string): Promise<Uint8Array | null> => Promise.resolve(sister(path, name));
    const trial = await trySheet(open, { bytes, path, resolve }, sheetVersion ?? null);
    trials.push(trial);
    const isContainer = trial.version !== null && open.result.entries !== null;
    const whyNot = isContainer ? await whyNotTurned(open, { bytes, path, resolve }) : null;
    process.stdout.write(json ? `${JSON.stringify(trial)}\n` : trialText(trial, open, files.length === 1));
    if (isContainer && !json)
      process.stdout.write(
        whyNot === null
          ? '  files can be put back into it\n'
          : `  files cannot be put back into it: ${whyNot}\n`,
      );
  }
  if (!json && files.length > 1) process.stdout.write(`${fitText(trials, open)}\n`);
  if (trials.some(({ version }) => version === null)) process.exitCode = 1;
}

/** Prints the words that a sheet can use beside its own. */
export function formatWordsCommand(): void {
  const print = (title: string, words: [string, string][]): void => {
    const width = Math.max(...words.map(([word]) => word.length)) + 2;
    const lines = words.map(([word, says]) => `  ${word.padEnd(width)}${says}`.trimEnd());
    process.stdout.write(`${title}\n${lines.join('\n')}\n\n`);
  };
  print(
    'Functions of expressions',
    Object.entries(functions).map(([name, { says }]) => [name, says]),
  );
  print(
    'Packings, with their parameters',
    Object.entries(packings).map(([name, { says, parameters }]) => [
      name,
      `${says} (${parameters.join(', ')})`,
    ]),
  );
  print(
    'Pixel formats',
    Object.entries(texels).map(([name, { encoding }]) => [name, encoding]),
  );
}

/** Prints the JSON schema of sheets, by which editors complete and check them. */
export function formatSchemaCommand(): void {
  process.stdout.write(`${JSON.stringify(sheetJsonSchema(), null, 2)}\n`);
}

/** A sheet with its text. @throws PlainError that names the line */
export function readSheet(file: string): { open: OpenSheet; text: string } {
  const text = Buffer.from(read(file)).toString('utf8');
  const opened = openSheet(text);
  if ('sheet' in opened) return { open: opened.sheet, text };
  const lines = opened.problems.map(({ line, column, message }) => `${file}:${line}:${column}: ${message}`);
  throw new PlainError(`This sheet cannot be used:\n${lines.join('\n')}`);
}

function read(file: string): Uint8Array {
  try {
    return readFileSync(file);
  } catch (error) {
    throw new PlainError(`${file} cannot be read: ${messageOf(error)}`);
  }
}

/** A file beside another one; null where there is none. */
function sister(path: string, name: string): Uint8Array | null {
  try {
    return readFileSync(join(dirname(path), name));
  } catch (error) {
    if (codeOf(error) === 'ENOENT' || codeOf(error) === 'ENOTDIR' || codeOf(error) === 'EISDIR') return null;
    throw new PlainError(`${name}, beside ${path}, cannot be read: ${messageOf(error)}`);
  }
}

function trialText({ path, version, tried }: FormatTrial, { sheet }: OpenSheet, isAlone: boolean): string {
  const lines: string[] = [];
  for (const { version: name, error, outcome, fields } of tried) {
    const called = name === '' ? '' : `version ${name}: `;
    if (error) {
      const place = error.at === null ? '' : sheet.text ? `line ${error.at}: ` : `${offsetText(error.at)}: `;
      lines.push(
        `  ${called}does not fit: ${place}${error.where === '' ? '' : `${error.where}: `}${error.message}`,
      );
    } else {
      lines.push(`  ${called}${outcome}`);
      if (isAlone) lines.push(...fieldLines(fields, 2));
    }
  }
  return `${path}${version === null ? ' does not fit' : ''}\n${lines.join('\n')}\n`;
}

function fieldLines(fields: readonly TriedField[], depth: number): string[] {
  return fields.flatMap(({ name, value, fields: within }) => [
    `${'  '.repeat(depth)}${name}${value === '' ? '' : `: ${value}`}`,
    ...fieldLines(within, depth + 1),
  ]);
}

function fitText(trials: readonly FormatTrial[], { versions }: OpenSheet): string {
  const counts = versions
    .map((version) => ({ version, count: trials.filter((trial) => trial.version === version).length }))
    .filter(({ count }) => count > 0);
  const total = trials.length.toLocaleString('en');
  if (counts.length === 0) return `None of ${total} files fits.`;
  return counts
    .map(({ version, count }, at) => {
      const name = version === '' ? 'The sheet' : `${at === 0 ? 'Version' : 'version'} ${version}`;
      return `${name} fits ${count.toLocaleString('en')}${at === 0 ? ` of ${total}` : ''}`;
    })
    .join(', ');
}
