import type { FormatTrial, VersionTrial } from '../../contract/format-trials.ts';
import { SheetError } from './language/sheet-error.ts';
import type { Limits } from './language/budget.ts';
import { valueText } from './language/value-text.ts';
import { List, Rows, Struct, Table, countOf, itemOf, type Value } from './language/values.ts';
import type { OpenSheet } from './open-sheet.ts';
import { outcomeOf } from './outcome.ts';
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
