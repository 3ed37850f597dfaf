import { formatOf, formats } from '../../../core/kinds/formats.ts';
import { makePathTables, type PathTables } from '../../../core/search/path-tables.ts';
import type { RangeField } from '../../../core/search/query.ts';
import { role } from '../../acquire/builds/spans.ts';
import { digestRanges } from '../../platform/database/digest-ranges.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';
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

type Row = {
  path: string;
  first: number;
  last: number;
  format: string;
  size: number | null;
  hash: Buffer | null;
  hasPreview: number;
} & Partial<Record<RangeField, string | null>>;

/**
 * Reads what lies and lay in a channel, and makes the tables of it.
 * @param known of paths, made before: where the paths are the same, what finds them stays
 */
export async function loadTables(
  pool: Pool,
  channelId: number,
  known: PathTables | null,
): Promise<SearchTables> {
  const spans = new SpanColumns();
  const figures = factPaths
    .map(([field, place]) => `JSON_VALUE(f.facts, '${place}') AS \`${field}\``)
    .join(', ');
  for (const [low, high] of digestRanges()) {
    const rows = await select<Row>(
      pool,
      `SELECT p.path, s.first_sequence AS first, s.last_sequence AS last, s.format, s.size, s.hash, f.preview_hash IS NOT NULL AS hasPreview, ${figures}
         FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
         LEFT JOIN content_facts f ON f.hash = s.hash AND f.format = s.format
        WHERE s.channel_id = ? AND s.role = ? AND s.path_digest BETWEEN ? AND ?
        ORDER BY s.path_digest, s.first_sequence`,
      [channelId, role.file, low, high],
    );
    for (const row of rows) spans.add(row);
  }
  const containers = await select<{ path: string }>(
    pool,
    `SELECT DISTINCT p.path FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.role = ?`,
    [channelId, role.container],
  );
  return {
    ...spans.finish(known),
    containers: new TextEncoder().encode(containers.map(({ path }) => `${path}\0`).join('')),
  };
}

/** Columns that grow, in the order in which rows come; then in that of their paths. */
class SpanColumns {
  private readonly paths: string[] = [];
  /** First row of each path. */
  private readonly begins: number[] = [];
  private readonly idOfFormat = new Map<string, number>(formats.map(({ name, id }) => [name, id]));
  private count = 0;
  private first = new Uint32Array(1024);
  private last = new Uint32Array(1024);
  private format = new Uint16Array(1024);
  private previews = new Uint8Array(1024);
  private hashes = new Uint8Array(32 * 1024);
  private readonly figures = new Map<RangeField, Float64Array>([['size', new Float64Array(1024)]]);

  add(row: Row): void {
    if (this.count === this.first.length) this.grow();
    if (this.paths.at(-1) !== row.path) {
      this.paths.push(row.path);
      this.begins.push(this.count);
    }
    const at = this.count++;
    this.first[at] = row.first;
    this.last[at] = row.last;
    this.format[at] = this.idOfFormat.get(row.format) ?? formatOf('binary').id;
    this.previews[at] = row.hasPreview;
    if (row.hash) this.hashes.set(row.hash, at * 32);
    this.put('size', at, row.size ?? NaN);
    for (const [field] of factPaths) {
      const value = row[field];
      if (value !== null && value !== undefined) this.put(field, at, Number(value));
    }
  }

  finish(known: PathTables | null): Omit<SearchTables, 'containers'> {
    const order = Uint32Array.from(this.paths, (_, number) => number).sort((a, b) =>
      (this.paths[a] ?? '') < (this.paths[b] ?? '') ? -1 : 1,
    );
    const rows = new Uint32Array(this.count);
    const spanAt = new Uint32Array(order.length + 1);
    let place = 0;
    order.forEach((number, at) => {
      const end = this.begins[number + 1] ?? this.count;
      for (let row = this.begins[number] ?? 0; row < end; row++) rows[place++] = row;
      spanAt[at + 1] = place;
    });
    const hashes = new Uint8Array(this.count * 32);
    rows.forEach((row, at) => hashes.set(this.hashes.subarray(row * 32, row * 32 + 32), at * 32));
    return {
      paths: makePathTables(
        Array.from(order, (number) => this.paths[number] ?? ''),
        known,
      ),
      states: {
        spanAt,
        oldest: 0,
        first: rows.map((row) => this.first[row] ?? 0),
        last: rows.map((row) => this.last[row] ?? 0),
        format: Uint16Array.from(rows, (row) => this.format[row] ?? 0),
        figures: Object.fromEntries(
          [...this.figures].map(([field, column]) => [
            field,
            Float64Array.from(rows, (row) => column[row] ?? NaN),
          ]),
        ),
      },
      hashes,
      previews: Uint8Array.from(rows, (row) => this.previews[row] ?? 0),
    };
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
