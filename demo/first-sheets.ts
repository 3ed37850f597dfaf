import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Sheets that the demo's title begins with, for all formats of the game but that of its sounds.
 * @param root folder of the application
 */
export function firstSheets(root: string): { text: string }[] {
  const folder = join(root, 'demo', 'format-sheets');
  return readdirSync(folder)
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((name) => ({ text: readFileSync(join(folder, name), 'utf8') }));
}
