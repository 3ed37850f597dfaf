import { formatOf, formats } from '../../../core/kinds/formats.ts';
import { compareTexts, PathColumn, sortedTexts, type FoldedTexts } from '../../../core/search/path-column.ts';
import type { RangeField } from '../../../core/search/query.ts';
import type { StateTables } from '../../../core/search/search.ts';
import type { SearchTables } from './search-tables.ts';

/** Figures that facts hold, by where they stand in them; the size is the asset's own. */
const factPaths: readonly [Exclude<RangeField, 'size'>, string][] = [
  ['triangles', '$.triangles'],
  ['vertices', '$.vertices'],
  ['bones', '$.bones'],
  ['width', '$.width'],
  ['height', '$.height'],
  ['seconds', '$.seconds'],
  ['placements', '$.placements'],
  ['lines', '$.lines'],
  ['values', '$.values'],
  ['glyphs', '$.glyphs'],
];

/** What a question for facts selects of `content_facts f`: one column for all figures, since rows of many are slow to read. */
export const factColumns = `f.preview_hash IS NOT NULL AS hasPreview, IF(f.facts IS NULL, NULL, CONCAT_WS(',', ${factPaths
  .map(([, place]) => `IFNULL(JSON_VALUE(f.facts, '${place}'), '')`)
  .join(', ')})) AS figures`;

export interface FactsRow {
  hasPreview: number;
  /** One after the other, by commas, empty where there is none. */
  figures: string | null;
}

export interface SpanRow extends FactsRow {
  path: string;
  first: number;
  last: number;
  format: string;
  size: number | null;
  hash: Buffer | null;
}

/** What lies at paths over spans of builds, without what finds the paths. */
export interface Spans extends Pick<SearchTables, 'states' | 'hashes' | 'previews'> {
  paths: FoldedTexts;
}

/** Figures of facts, by field. */
export function figuresOf({ figures }: FactsRow): [RangeField, number][] {
  if (figures === null) return [];
  const values = figures.split(',');
  return factPaths.flatMap(([field], at): [RangeField, number][] => {
    const value = values[at] ?? '';
    return value === '' ? [] : [[field, Number(value)]];
  });
}

/** Columns that grow, in the order in which rows come; then in that of their paths. */
export class SpanColumns {
  private paths = new PathColumn(1024);
  private lastPath: string | null = null;
  /** First row of each text. */
  private begins: number[] = [];
  private readonly idOfFormat = new Map<string, number>(formats.map(({ name, id }) => [name, id]));
  private count = 0;
  private first = new Uint32Array(1024);
  private last = new Uint32Array(1024);
  private format = new Uint16Array(1024);
  private previews = new Uint8Array(1024);
  private hashes = new Uint8Array(32 * 1024);
  private readonly figures = new Map<RangeField, Float64Array>([['size', new Float64Array(1024)]]);

  /** Of two rows of a path that begin with the same build, the later one counts. */
  add(row: SpanRow): void {
    if (this.count === this.first.length) this.grow();
    if (this.lastPath !== row.path) {
      this.paths.add(row.path);
      this.begins.push(this.count);
      this.lastPath = row.path;
    }
    const at = this.count++;
    this.first[at] = row.first;
    this.last[at] = row.last;
    this.format[at] = this.idOfFormat.get(row.format) ?? formatOf('binary').id;
    this.previews[at] = row.hasPreview;
    if (row.hash) this.hashes.set(row.hash, at * 32);
    this.put('size', at, row.size ?? NaN);
    for (const [field, value] of figuresOf(row)) this.put(field, at, value);
  }

  /** The rows in the order of their paths; then there are none. */
  finish(): Spans {
    const texts = this.paths.finish();
    const order = sortedTexts(texts);
    const rows = new Uint32Array(this.count);
    const spanAt = new Uint32Array(order.length + 1);
    const kept = new Uint32Array(order.length);
    let place = 0;
    let count = 0;
    for (let at = 0; at < order.length;) {
      const number = order[at] ?? 0;
      const begin = place;
      // The same path may have come several times.
      for (; at < order.length && compareTexts(texts, number, texts, order[at] ?? 0) === 0; at++) {
        const from = this.begins[order[at] ?? 0] ?? 0;
        const end = this.begins[(order[at] ?? 0) + 1] ?? this.count;
        for (let row = from; row < end; row++) rows[place++] = row;
      }
      if (place > begin + 1) place = begin + this.settle(rows.subarray(begin, place));
      kept[count++] = number;
      spanAt[count] = place;
    }
    const used = rows.subarray(0, place);
    const paths = this.paths.finish(kept.subarray(0, count));
    const states: StateTables = {
      spanAt: spanAt.subarray(0, count + 1),
      oldest: 0,
      first: used.map((row) => this.first[row] ?? 0),
      last: used.map((row) => this.last[row] ?? 0),
      format: Uint16Array.from(used, (row) => this.format[row] ?? 0),
      figures: {},
    };
    const previews = Uint8Array.from(used, (row) => this.previews[row] ?? 0);
    // Of a million rows both would not fit beside each other: what is put in order is let go.
    for (const [field, column] of this.figures) {
      states.figures[field] = Float64Array.from(used, (row) => column[row] ?? NaN);
      this.figures.delete(field);
    }
    const hashes = new Uint8Array(place * 32);
    used.forEach((row, at) => hashes.set(this.hashes.subarray(row * 32, row * 32 + 32), at * 32));
    this.clear();
    return { paths, states, hashes, previews };
  }

  /** Begins again, without rows. */
  private clear(): void {
    this.paths = new PathColumn(1024);
    this.lastPath = null;
    this.begins = [];
    this.count = 0;
    this.first = new Uint32Array(1024);
    this.last = new Uint32Array(1024);
    this.format = new Uint16Array(1024);
    this.previews = new Uint8Array(1024);
    this.hashes = new Uint8Array(32 * 1024);
    this.figures.clear();
    this.figures.set('size', new Float64Array(1024));
  }

  /** Puts rows of one path in the order of their builds. @returns how many stay */
  private settle(rows: Uint32Array): number {
    const isSettled = rows.every((row, at) => at === 0 || this.firstOf(rows[at - 1]) < this.firstOf(row));
    if (isSettled) return rows.length;
    const byFirst = new Map<number, number>();
    for (const row of rows) byFirst.set(this.firstOf(row), row);
    const settled = [...byFirst].sort(([a], [b]) => a - b).map(([, row]) => row);
    rows.set(settled);
    return settled.length;
  }

  private firstOf(row = 0): number {
    return this.first[row] ?? 0;
  }

  private put(field: RangeField, at: number, value: number): void {
    let column = this.figures.get(field);
    if (!column) this.figures.set(field, (column = new Float64Array(this.first.length).fill(NaN)));
    column[at] = value;
  }

  private grow(): void {
    const length = this.first.length * 2;
    const longer = <Column extends Uint8Array | Uint16Array | Uint32Array | Float64Array>(
      column: Column,
      made: Column,
    ): Column => {
      made.set(column);
      return made;
    };
    this.first = longer(this.first, new Uint32Array(length));
    this.last = longer(this.last, new Uint32Array(length));
    this.format = longer(this.format, new Uint16Array(length));
    this.previews = longer(this.previews, new Uint8Array(length));
    this.hashes = longer(this.hashes, new Uint8Array(length * 32));
    for (const [field, column] of this.figures)
      this.figures.set(field, longer(column, new Float64Array(length).fill(NaN)));
  }
}
