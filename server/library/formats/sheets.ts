import { keptSheetsSchema, type KeptSheet, type SheetsState } from '../../../contract/kept-sheets.ts';
import type { FormatName } from '../../../core/kinds/formats.ts';
import type { OpenSheet } from '../../../core/formats/open-sheet.ts';
import { readTitleSetting, saveTitleSetting } from '../../acquire/builds/title-settings.ts';
import { openedSheet } from '../../decode/opened-sheets.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { parseColumn, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { PlainError } from '../../platform/plain-error.ts';

/** Formats of what sheets read, by the kind that comes out. */
export const sheetFormats = {
  picture: 'sheet-picture',
  model: 'sheet-model',
  sound: 'sheet-sound',
  map: 'sheet-map',
  text: 'sheet-table',
  other: 'sheet-container',
} as const satisfies Record<string, FormatName>;

/** A title's sheets, and which state of them this is. @throws NotFoundError */
export async function readSheets(database: Queryable, titleId: number): Promise<SheetsState> {
  const { value, revision } = await readTitleSetting(database, titleId, 'format_sheets');
  return { sheets: keptSheetsSchema.parse(value ?? []), revision };
}

/** @throws PlainError where one of them cannot be used, ConflictError where somebody else saved others since this revision */
export async function saveSheets(
  pool: Pool,
  titleId: number,
  { sheets, revision }: { sheets: readonly Pick<KeptSheet, 'text'>[]; revision: string },
  by: string,
): Promise<void> {
  const named = sheets.map(({ text }): KeptSheet => ({ name: openedSheet(text).sheet.sheet, text }));
  const twice = named.find(({ name }, at) => named.findIndex((other) => other.name === name) !== at);
  if (twice) throw new PlainError(`There are two sheets named “${twice.name}”.`);
  await saveTitleSetting(pool, titleId, 'format_sheets', named, revision, by);
}

/** Sheets of the title that a job's build is of. */
export async function sheetsOfJob(database: Queryable, jobId: number): Promise<KeptSheet[]> {
  const row = await selectOne<{ sheets: unknown }>(
    database,
    `SELECT t.format_sheets AS sheets FROM jobs j JOIN builds b ON b.id = j.build_id JOIN channels c ON c.id = b.channel_id
       JOIN titles t ON t.id = c.title_id WHERE j.id = ?`,
    [jobId],
  );
  return keptSheetsSchema.parse(parseColumn(row?.sheets ?? null) ?? []);
}

/** Texts of those that describe containers. */
export function containerSheetsOf(sheets: readonly KeptSheet[]): string[] {
  return sheets.filter((sheet) => usable(sheet)?.result.entries).map(({ text }) => text);
}

/** Names of those that unpack with keys of the keyring. */
export function sheetsWithKeys(sheets: readonly KeptSheet[]): string[] {
  return sheets.filter((sheet) => usable(sheet)?.usesKeyring).map(({ name }) => name);
}

/** A sheet, and the format that its files have; files of which nothing comes that is looked at keep their own. */
export interface SheetForFile {
  sheet: KeptSheet;
  format: FormatName;
}

/** Finds the sheet for a path: of several the first. One that a newer version of the program cannot use any more is passed over. */
export function sheetFinder(sheets: readonly KeptSheet[]): (path: string) => SheetForFile | undefined {
  const finders = sheets.flatMap((sheet) => {
    const open = usable(sheet);
    const format = open && formatBy(open);
    return open && format ? [{ open, found: { sheet, format } }] : [];
  });
  return (path) => finders.find(({ open }) => open.isFor(path))?.found;
}

/** As which format its files are read; null where nothing comes out of them that readers know. */
export function formatBy({ result: { kind } }: OpenSheet): FormatName | null {
  return kind !== null && kind in sheetFormats ? sheetFormats[kind as keyof typeof sheetFormats] : null;
}

function usable({ text }: KeptSheet): OpenSheet | null {
  try {
    return openedSheet(text);
  } catch (error) {
    if (error instanceof PlainError) return null;
    throw error;
  }
}
