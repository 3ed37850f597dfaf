import { formatOf, formats, hangsOnFiles } from '../../../core/kinds/formats.ts';
import { hasReader } from '../../../core/kinds/read.ts';
import { compareTexts, PathColumn, placeOf, type FoldedTexts } from '../../../core/search/path-column.ts';
import { firstTables, type PathTables } from '../../../core/search/path-tables.ts';
import { openEnd, role } from '../../acquire/builds/spans.ts';
import { digestRanges, digestRangesFor } from '../../platform/database/digest-ranges.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select, selectOne, type Value } from '../../platform/database/rows.ts';
import { mergeSpans } from './merge-spans.ts';
import type { SearchTables } from './search-tables.ts';
import { factColumns, figuresOf, SpanColumns, type FactsRow, type SpanRow } from './span-columns.ts';
import { since, tablesStateSchema, type Since, type TablesState } from './tables-state.ts';
import { hashAt } from './text-tables.ts';

/** What tables are to be made of, and those that were made before. */
export interface Wanted {
  channelId: number;
  state: TablesState;
  known: SearchTables | null;
}

/** Where more has come than this, or than a quarter of all, everything is read again. */
const mostChanged = 20_000;

/** Reads what lies and lay in a channel: all of it, or what has come since tables were made of it. */
export async function loadTables(pool: Pool, wanted: Wanted): Promise<SearchTables> {
  const { known } = wanted;
  const change = known && since(stateOf(known), wanted.state);
  const changes = change ? await countChanges(pool, wanted.channelId, change) : [];
  const count = changes.reduce((sum, { count }) => sum + count, 0);
  const made =
    known && change && count <= Math.max(mostChanged, known.states.first.length / 4)
      ? await widenTables(pool, wanted.channelId, known, change, changes)
      : await loadAll(pool, wanted.channelId, known);
  return { ...made, madeOf: new TextEncoder().encode(JSON.stringify(wanted.state)) };
}

function stateOf({ madeOf }: SearchTables): TablesState {
  return tablesStateSchema.parse(JSON.parse(new TextDecoder().decode(madeOf.slice())));
}

type Condition = readonly [where: string, ...values: Value[]];

/** What begins in builds that the tables do not know, and in those of which more was read. */
function conditionsOf({ newest, hasMoreBuilds, read }: Since): Condition[] {
  const came: Condition[] = hasMoreBuilds ? [['s.first_sequence > ?', newest]] : [];
  return [...came, ...read.map((sequence): Condition => ['s.first_sequence = ?', sequence])];
}

/** What has come, with how many spans there are of it. */
async function countChanges(
  pool: Pool,
  channelId: number,
  change: Since,
): Promise<{ condition: Condition; count: number }[]> {
  const counted: { condition: Condition; count: number }[] = [];
  for (const condition of conditionsOf(change)) {
    const [where, ...values] = condition;
    const row = await selectOne<{ count: number }>(
      pool,
      `SELECT COUNT(*) AS count FROM asset_spans s WHERE s.channel_id = ? AND ${where}`,
      [channelId, ...values],
    );
    counted.push({ condition, count: row?.count ?? 0 });
  }
  return counted;
}

const spansWithFacts = `SELECT p.path, s.first_sequence AS first, s.last_sequence AS last, s.format, s.size, s.hash, ${factColumns}
   FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
   LEFT JOIN content_facts f ON f.hash = s.hash AND f.format = s.format
  WHERE s.channel_id = ? AND s.role = ?`;

async function widenTables(
  pool: Pool,
  channelId: number,
  known: SearchTables,
  { newest, hasMoreBuilds, read }: Since,
  changes: readonly { condition: Condition; count: number }[],
): Promise<Omit<SearchTables, 'madeOf'>> {
  const spans = new SpanColumns();
  const containers: string[] = [];
  for (const { condition, count } of changes) {
    const [where, ...values] = condition;
    for (const [low, high] of digestRangesFor(count)) {
      const rows = await select<SpanRow>(
        pool,
        `${spansWithFacts} AND ${where} AND s.path_digest BETWEEN ? AND ?`,
        [channelId, role.file, ...values, low, high],
      );
      for (const row of rows) spans.add(row);
    }
    const found = await select<{ path: string }>(
      pool,
      `SELECT DISTINCT p.path FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
        WHERE s.channel_id = ? AND s.role = ? AND ${where}`,
      [channelId, role.container, ...values],
    );
    containers.push(...found.map(({ path }) => path));
  }
  const merged = mergeSpans(known, spans.finish());
  if (hasMoreBuilds) await endSpans(pool, channelId, merged, newest);
  if (read.length > 0) await renewFacts(pool, merged);
  const names = new Set(new TextDecoder().decode(known.containers.slice()).split('\0').slice(0, -1));
  for (const path of containers) names.add(path);
  return { ...merged, containers: namesOf(names) };
}

/** Writes down where spans end that went on when the tables were made. */
async function endSpans(
  pool: Pool,
  channelId: number,
  { paths, states }: Pick<SearchTables, 'paths' | 'states'>,
  newest: number,
): Promise<void> {
  // The server thinks of the other indexes that many more rows fit, where few have ended.
  const from = `FROM asset_spans s FORCE INDEX (spans_by_last) JOIN paths p ON p.digest = s.path_digest
    WHERE s.channel_id = ? AND s.role = ? AND s.last_sequence >= ? AND s.last_sequence < ?`;
  const values = [channelId, role.file, newest, openEnd];
  const counted = await selectOne<{ count: number }>(pool, `SELECT COUNT(*) AS count ${from}`, values);
  for (const [low, high] of digestRangesFor(counted?.count ?? 0)) {
    const rows = await select<{ path: string; first: number; last: number }>(
      pool,
      `SELECT p.path, s.first_sequence AS first, s.last_sequence AS last ${from} AND s.path_digest BETWEEN ? AND ?`,
      [...values, low, high],
    );
    const column = new PathColumn(rows.length * 64);
    for (const { path } of rows) column.add(path);
    const texts = column.finish();
    rows.forEach(({ first, last }, row) => {
      const number = placeOf(paths, texts, row);
      if (number === paths.begin.length || compareTexts(paths, number, texts, row) !== 0) return;
      for (let span = states.spanAt[number] ?? 0; span < (states.spanAt[number + 1] ?? 0); span++)
        if (states.first[span] === first) states.last[span] = last;
    });
  }
}

const namesFiles = new Uint8Array(Math.max(...formats.map(({ id }) => id)) + 1);
for (const { id, name } of formats) if (hasReader(name) && hangsOnFiles(name)) namesFiles[id] = 1;

/** What names other files is read anew where these have changed, whatever build it came with. */
async function renewFacts(
  pool: Pool,
  { states, hashes, previews }: Pick<SearchTables, 'states' | 'hashes' | 'previews'>,
): Promise<void> {
  const spansOf = new Map<string, number[]>();
  for (let span = 0; span < states.format.length; span++) {
    if (namesFiles[states.format[span] ?? 0] !== 1) continue;
    const hash = hashAt(hashes, span);
    const spans = spansOf.get(hash);
    if (spans) spans.push(span);
    else spansOf.set(hash, [span]);
  }
  const all = [...spansOf.keys()];
  for (let from = 0; from < all.length; from += 1000) {
    const rows = await select<FactsRow & { hash: Buffer; format: string }>(
      pool,
      `SELECT f.hash, f.format, ${factColumns} FROM content_facts f WHERE f.hash IN (?) AND f.resources IS NOT NULL`,
      [all.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
    );
    for (const row of rows)
      for (const span of spansOf.get(row.hash.toString('hex')) ?? []) {
        if (states.format[span] !== formatOf(row.format).id) continue;
        previews[span] = row.hasPreview;
        for (const [field, column] of Object.entries(states.figures))
          if (field !== 'size') column[span] = NaN;
        for (const [field, value] of figuresOf(row)) {
          const column = (states.figures[field] ??= new Float64Array(states.format.length).fill(NaN));
          column[span] = value;
        }
      }
  }
}

async function loadAll(
  pool: Pool,
  channelId: number,
  known: SearchTables | null,
): Promise<Omit<SearchTables, 'madeOf'>> {
  const spans = new SpanColumns();
  for (const [low, high] of digestRanges()) {
    const rows = await select<SpanRow>(
      pool,
      `${spansWithFacts} AND s.path_digest BETWEEN ? AND ? ORDER BY s.path_digest, s.first_sequence`,
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
  const { paths, ...rest } = spans.finish();
  return {
    ...rest,
    paths: known && areSame(known.paths, paths) ? known.paths : { ...paths, ...firstTables(paths) },
    containers: namesOf(containers.map(({ path }) => path)),
  };
}

/** Whether paths are those that tables were made of before, of which none came later. */
function areSame(known: PathTables, paths: FoldedTexts): boolean {
  return (
    known.later.length === 0 &&
    known.begin.length === paths.begin.length &&
    paths.begin.every((_, number) => compareTexts(known, number, paths, number) === 0)
  );
}

function namesOf(paths: Iterable<string>): Uint8Array {
  return new TextEncoder().encode([...paths].map((path) => `${path}\0`).join(''));
}
