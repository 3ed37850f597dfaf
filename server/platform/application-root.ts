import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The checkout: the lowest folder above this file that holds the package's own description. */
export const applicationRoot: string = findRoot(dirname(fileURLToPath(import.meta.url)));

function findRoot(folder: string): string {
  if (existsSync(join(folder, 'package.json'))) return folder;
  const above = dirname(folder);
  if (above === folder) throw new Error('applicationRoot: no package.json above the running file');
  return findRoot(above);
}
