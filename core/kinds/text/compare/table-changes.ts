import type { Table } from '../table.ts';
import { changeOf, type DataChange, type DataComparison } from '../../data/data-change.ts';
import { DataIds } from '../../data/data-ids.ts';
import { inOrder } from '../../data/in-order.ts';
import { commonShare, keyValue } from '../../data/key-field.ts';
import { compareByKey, compareInOrder } from '../../data/list-changes.ts';
import { quoted, shownValue } from '../../data/shown-value.ts';

/** So many of a column's values are equal, row by row, where it is the same under another name. */
const leastEqual = 0.8;
const leastCommon = 0.6;

/** The differences of two tables: columns by name, rows by what names them, cells by both. */
export function tableChanges(old: Table, now: Table): DataChange[] {
  const changes: DataChange[] = [];
  const renamed = renamedColumns(old, now);
  const nameOf = (column: string): string => renamed.get(column) ?? column;
  const oldColumns = old.columns.map(nameOf);
  for (const [before, after] of renamed) changes.push(changeOf('renamed', after, before, after, 1));
  const added = now.columns.filter((column) => !oldColumns.includes(column));
  const gone = oldColumns.filter((column) => !now.columns.includes(column));
  for (const column of added) changes.push(ofColumn('added', column, now));
  for (const column of gone) changes.push(ofColumn('gone', column, old));
  const common = now.columns.filter((column) => oldColumns.includes(column));
  const places = common.map((column) => oldColumns.indexOf(column));
  if (inOrder(places) < places.length)
    changes.push({ ...changeOf('moved', '', '', '', 1), field: 'columns' });
  changes.push(
    ...rowChanges(recordsOf(old, oldColumns, common), recordsOf(now, now.columns, common), common),
  );
  return changes;
}

function ofColumn(status: 'added' | 'gone', column: string, { rows }: Table): DataChange {
  return { ...changeOf(status, column, '', '', Math.max(1, rows.length)), field: 'column' };
}

type Row = Record<string, string>;

function recordsOf({ rows }: Table, names: readonly string[], wanted: readonly string[]): Row[] {
  const places = wanted.map((name) => names.indexOf(name));
  return rows.map((row) => Object.fromEntries(wanted.map((name, at) => [name, row[places[at] ?? 0] ?? ''])));
}

function rowChanges(old: Row[], now: Row[], columns: readonly string[]): DataChange[] {
  const changes: DataChange[] = [];
  const comparison: DataComparison = {
    ids: new DataIds(),
    changes,
    compare: (before, after, path) => {
      const [was, is] = [before as Row, after as Row];
      for (const column of Object.keys(is)) {
        const [then, value] = [was[column] ?? '', is[column] ?? ''];
        if (then === value) continue;
        const isClear = shownValue(then) !== shownValue(value);
        const shown = (text: string): string => (isClear ? shownValue(text) : quoted(text));
        changes.push({
          ...changeOf('changed', `${path}.${column}`, shown(then), shown(value), 1),
          field: column,
        });
      }
    },
  };
  const key = keyColumn(old, now, columns);
  if (key === null) compareInOrder(old, now, '', comparison, (index) => `row ${index + 1}`);
  else compareByKey(old, now, key, '', comparison, (index, rows) => keyValue(rows[index], key) ?? '');
  return changes.map((change) =>
    change.status === 'changed' ? change : { ...change, field: change.status === 'moved' ? 'rows' : 'row' },
  );
}

/** The first column that tells rows apart. */
function keyColumn(old: Row[], now: Row[], columns: readonly string[]): string | null {
  if (old.length === 0 || now.length === 0) return null;
  return columns.find((column) => commonShare(old, now, column) >= leastCommon) ?? null;
}

/** @returns newer names by older ones */
function renamedColumns(old: Table, now: Table): Map<string, string> {
  const renamed = new Map<string, string>();
  const gone = old.columns.filter((column) => !now.columns.includes(column));
  const added = now.columns.filter((column) => !old.columns.includes(column));
  if (gone.length === 0 || added.length === 0 || !old.isNamed || !now.isNamed) return renamed;
  const common = old.columns.filter((column) => now.columns.includes(column));
  const pairs = pairedRows(old, now, common);
  const taken = new Set<string>();
  for (const column of added) {
    const at = now.columns.indexOf(column);
    let best: { name: string; share: number } | null = null;
    for (const name of gone) {
      if (taken.has(name)) continue;
      const before = old.columns.indexOf(name);
      const equal = pairs.filter(([a, b]) => (a[before] ?? '') === (b[at] ?? '')).length;
      const share = equal / Math.max(1, pairs.length);
      if (share >= leastEqual && (!best || share > best.share)) best = { name, share };
    }
    if (!best) continue;
    taken.add(best.name);
    renamed.set(best.name, column);
  }
  return renamed;
}

/** Rows of both by the first column that tells them apart, else by their place. */
function pairedRows(old: Table, now: Table, common: readonly string[]): [string[], string[]][] {
  const key = keyColumn(recordsOf(old, old.columns, common), recordsOf(now, now.columns, common), common);
  if (key === null) return now.rows.slice(0, old.rows.length).map((row, at) => [old.rows[at] ?? [], row]);
  const [before, after] = [old.columns.indexOf(key), now.columns.indexOf(key)];
  const byKey = new Map(old.rows.map((row) => [row[before] ?? '', row]));
  return now.rows.flatMap((row): [string[], string[]][] => {
    const then = byKey.get(row[after] ?? '');
    return then ? [[then, row]] : [];
  });
}
