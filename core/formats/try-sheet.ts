import type { FormatTrial, VersionTrial } from '../../contract/format-trials.ts';
import { SheetError } from './language/sheet-error.ts';
import type { Limits } from './language/budget.ts';
import { isNumbers, List, Rows, Struct, Table, countOf, itemOf, type Value } from './language/values.ts';
import type { OpenSheet } from './open-sheet.ts';
import { readFields, type FileToRead } from './read-by-sheet.ts';

/** Versions of a sheet in the order in which they are tried: the one that is meant, then its neighbours, near ones first. */
export function versionsFrom({ versions }: OpenSheet, meant: string | null): string[] {
  const at = meant === null ? versions.length - 1 : versions.indexOf(meant);
  if (at < 0) return [...versions].reverse();
  return versions
    .map((version, place) => ({ version, place }))
    .sort((a, b) => Math.abs(a.place - at) - Math.abs(b.place - at) || b.place - a.place)
    .map(({ version }) => version);
}

/**
 * Tries a sheet on a file, version after version until one fits.
 * @param meant the version that the build’s settings name; null where they name none
 */
export async function trySheet(
  open: OpenSheet,
  file: FileToRead,
  meant: string | null = null,
  limits?: Limits,
): Promise<FormatTrial> {
  const tried: VersionTrial[] = [];
  for (const version of versionsFrom(open, meant)) {
    const trial = await tryVersion(open, version, file, limits);
    tried.push(trial);
    if (trial.error === null) break;
  }
  const fitting = tried.find(({ error }) => error === null) ?? null;
  return { path: file.path, version: fitting?.version ?? null, tried };
}

async function tryVersion(
  open: OpenSheet,
  version: string,
  file: FileToRead,
  limits?: Limits,
): Promise<VersionTrial> {
  try {
    const made = await readFields(
      open,
      version,
      file,
      (root) => ({ fields: treeOf(root), outcome: outcomeOf(open, root) }),
      limits,
    );
    return { version, error: null, ...made };
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    const { message, at, where } = error;
    return { version, error: { message, at, where }, fields: [], outcome: '' };
  }
}

const shownFields = 200;
const shownItems = 3;

/** Fields with their values, as deep as somebody reads at once. */
function treeOf(struct: Struct, depth = 0): VersionTrial['fields'] {
  const fields: VersionTrial['fields'] = [];
  for (const [name, value] of Object.entries(struct.values)) {
    if (fields.length > shownFields) break;
    fields.push({ name, value: valueText(value), fields: depth < 4 ? within(value, depth) : [] });
  }
  return fields;
}

function within(value: Value, depth: number): VersionTrial['fields'] {
  if (value instanceof Struct) return treeOf(value, depth + 1);
  if (!(value instanceof List || value instanceof Rows || value instanceof Table)) return [];
  const count = Math.min(shownItems, countOf(value) ?? 0);
  return Array.from({ length: count }, (_, at) => {
    const item = itemOf(value, at) ?? null;
    return {
      name: `[${at}]`,
      value: valueText(item),
      fields: item instanceof Struct ? treeOf(item, depth + 1) : [],
    };
  });
}

function valueText(value: Value): string {
  if (value === null) return 'not there';
  if (value instanceof Struct) return '';
  if (value instanceof Uint8Array && value.length <= 16 && value.every((byte) => byte >= 32 && byte < 127))
    return `“${String.fromCharCode(...value)}”`;
  if (isNumbers(value)) {
    const first = Array.from({ length: Math.min(8, value.length) }, (_, at) => String(value[at]));
    return `${value.length.toLocaleString('en')} numbers${value.length > 0 ? `: ${first.join(' ')}${value.length > 8 ? ' …' : ''}` : ''}`;
  }
  if (typeof value === 'object') return `${(countOf(value) ?? 0).toLocaleString('en')} of it`;
  return typeof value === 'string' ? `“${value.slice(0, 200)}”` : String(value);
}

/** What comes out of it, in a few words. @throws SheetError */
function outcomeOf({ result }: OpenSheet, root: Struct): string {
  const { picture, sound, model, entries, table, placements, mentions } = result;
  const count = (number: number): string => number.toLocaleString('en');
  const parts: string[] = [];
  if (picture) {
    const { width, height, encoding, levels, layers } = picture(root);
    parts.push(
      `a picture of ${width} × ${height}, ${encoding}${levels > 1 ? `, ${levels} levels` : ''}${layers > 1 ? `, ${layers} layers` : ''}`,
    );
  }
  if (sound) {
    const { sound: made } = sound(root);
    const seconds = (made.frames / made.sampleRate).toFixed(3);
    parts.push(`a sound of ${seconds} s, ${made.channels} × ${made.sampleRate} Hz, ${made.coding}`);
  }
  if (model) {
    const { parts: made, bones, clips } = model(root);
    const triangles = made.reduce((sum, { indices }) => sum + (indices?.length ?? 0) / 3, 0);
    parts.push(
      `a model of ${count(triangles)} triangles in ${count(made.length)} parts, ${count(bones?.length ?? 0)} bones, ${count(clips.length)} clips`,
    );
  }
  if (entries) {
    const made = entries(root);
    for (const { bytes } of made.slice(0, 20)) bytes();
    parts.push(`a container of ${count(made.length)} entries`);
  }
  if (table) parts.push(`a table of ${count(table(root).length)} bytes as CSV`);
  if (placements) parts.push(`${count(placements(root).length)} placements`);
  const named = mentions?.(root).length ?? 0;
  if (named > 0) parts.push(`${count(named)} other files named`);
  return parts.join('; ') || 'fields alone';
}
