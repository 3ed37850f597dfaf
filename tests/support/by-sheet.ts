import { bySheet } from '../../core/formats/by-sheet.ts';
import type { Limits } from '../../core/formats/language/budget.ts';
import type { Struct } from '../../core/formats/language/values.ts';
import { openSheet, type OpenSheet } from '../../core/formats/open-sheet.ts';
import { readFields } from '../../core/formats/read-by-sheet.ts';
import { readContent } from '../../core/kinds/read.ts';
import type { Reading } from '../../core/kinds/reading.ts';
import { nodePlatform } from '../../server/decode/platform.ts';

/** @throws Error with what is wrong with it */
export function sheetOf(text: string): OpenSheet {
  const opened = openSheet(text);
  if ('sheet' in opened) return opened.sheet;
  throw new Error(opened.problems.map(({ line, message }) => `line ${line}: ${message}`).join('\n'));
}

/** A sheet with these fields, in a version. @param more of the sheet, as YAML */
export function sheetWith(root: string, more = ''): OpenSheet {
  const indented = root.replace(/^/gm, '  ');
  return sheetOf(`sheet: Test\nlanguage: 1\nfiles: '*'\nroot:\n${indented}\n${more}`);
}

/** What fields of bytes are, by name. */
export function fieldsOf(
  sheet: OpenSheet,
  bytes: Uint8Array,
  { version = sheet.versions[0] ?? '', limits }: { version?: string; limits?: Limits } = {},
): Promise<Struct['values']> {
  const file = { bytes, path: 'folder/file.bin', resolve: () => Promise.resolve(null) };
  return readFields(sheet, version, file, ({ values }) => values, limits);
}

/** Reads bytes by a sheet as a build would have them read. @param format of the kind that comes out of it */
export function readBySheet(
  sheet: OpenSheet,
  format: string,
  bytes: Uint8Array,
  path: string,
  resolve: (name: string) => Promise<Uint8Array | null> = () => Promise.resolve(null),
): Promise<Reading> {
  return readContent(format, {
    ...{ bytes, size: bytes.length, path, platform: nodePlatform, resolve },
    part: (start, end) => bytes.subarray(start, end),
    bySheet: bySheet(sheet, null, { bytes, path, resolve }),
  });
}
