import type { TextData } from './data-tree.ts';

/** A string that a table or definition keeps beside the name of a sound. */
export interface Spoken {
  /** Where it stands: the key or the column. */
  key: string;
  text: string;
}

const mostDeep = 64;
const mostFound = 40;

/** A sound’s name as tables write it: without folders and extension, in lower case. */
export function soundStem(name: string): string {
  const last = name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\'), name.lastIndexOf('!')) + 1);
  return last.replace(/\.[a-z0-9]{1,5}$/i, '').toLowerCase();
}

/**
 * Strings that belong to a sound: those under a key that is called as it is, and those beside a value that names it.
 * @param stem see `soundStem`
 */
export function spokenIn(data: TextData, stem: string): Spoken[] {
  const found: Spoken[] = [];
  if ('table' in data) {
    const { columns, rows } = data.table;
    for (const row of rows) {
      if (!row.some((cell) => soundStem(cell) === stem)) continue;
      row.forEach((text, at) => {
        if (isSaid(text) && soundStem(text) !== stem) found.push({ key: columns[at] ?? '', text });
      });
      if (found.length >= mostFound) break;
    }
  } else walk(data.root, '', stem, found, 0);
  return found.slice(0, mostFound);
}

function walk(value: unknown, key: string, stem: string, found: Spoken[], depth: number): void {
  if (depth > mostDeep || found.length >= mostFound || typeof value !== 'object' || value === null) return;
  const entries = Object.entries(value as Record<string, unknown>);
  const names = entries.some(([, inner]) => typeof inner === 'string' && soundStem(inner) === stem);
  for (const [name, inner] of entries) {
    if (typeof inner === 'string') {
      const isOwn = soundStem(name) === stem;
      if ((isOwn || names) && isSaid(inner) && soundStem(inner) !== stem)
        found.push({ key: isOwn ? key || name : name, text: inner });
    } else if (soundStem(name) === stem && typeof inner === 'object' && inner !== null) {
      for (const [part, text] of Object.entries(inner as Record<string, unknown>))
        if (typeof text === 'string' && isSaid(text)) found.push({ key: part, text });
    } else walk(inner, name, stem, found, depth + 1);
  }
}

/** Whether somebody could say it: it has letters, and is no path and no number. */
function isSaid(text: string): boolean {
  return /\p{L}{2}/u.test(text) && !/^[\w./\\!-]*[/\\.][\w./\\!-]*$/.test(text);
}
