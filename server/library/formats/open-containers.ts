import type { KeptSheet } from '../../../contract/kept-sheets.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { Choice } from '../../../core/containers/choice.ts';
import { containerMark } from '../../../core/containers/entry-name.ts';
import type { OpenSheet } from '../../../core/formats/open-sheet.ts';
import { buildAt } from '../../acquire/builds/builds.ts';
import { role } from '../../acquire/builds/spans.ts';
import { findBase } from '../../ingest/base-build.ts';
import { FileSource, PartSource } from '../../ingest/containers/byte-source.ts';
import { KnownBuild } from '../../ingest/known-build.ts';
import { noCounts } from '../../ingest/messages.ts';
import { mostSisterBytes, openSheets } from '../../ingest/read-by-sheet.ts';
import { readStored } from '../../ingest/read-unit.ts';
import { Recorder, type FoundAsset } from '../../ingest/recorder.ts';
import { clearStaging } from '../../ingest/staging.ts';
import type { UnitContext } from '../../ingest/unit-context.ts';
import type { JobContext } from '../../jobs/define-job.ts';
import type { Connection, Pool } from '../../platform/database/pool.ts';
import { select, selectOne } from '../../platform/database/rows.ts';
import type { ContentWriter } from '../../store/content-store.ts';
import { pathDigest } from '../../store/hash.ts';
import { LocalReader } from '../../store/local-content.ts';
import { labelStaged } from '../recipes/label-staged.ts';
import { pathBeside } from '../references/find-file.ts';
import { keysOf } from './descriptions.ts';
import { containerSheetsOf, sheetFormats } from './sheets.ts';
import {
  refreshBuilds,
  writeEntries,
  type ContainerSpan,
  type EntrySpan,
  type FoundProblem,
  type Opened,
} from './write-entries.ts';

interface Described {
  recipes: readonly PlacementRecipe[];
  sheets: readonly KeptSheet[];
}

type Context = Pick<
  JobContext<unknown, unknown>,
  'pool' | 'store' | 'folder' | 'jobId' | 'meter' | 'signal' | 'count'
>;

/**
 * Opens containers by the sheets of today, from the store: what is in them joins all builds that have them, as if it had
 * always been there. Of those that no sheet describes any more, what was in them goes.
 * @returns how many were opened, with how many files, and what is wrong with some, a line each
 */
export async function openContainers(
  context: Context,
  containers: readonly { channelId: number; path: string }[],
  described: Described,
): Promise<{ containers: number; entries: number; lines: string[] }> {
  const { pool, store, jobId, meter, signal } = context;
  const sums = { containers: 0, entries: 0, lines: [] as string[] };
  if (containers.length === 0) return sums;
  meter.begin('opening containers', containers.length, null);
  const sheets = openSheets(containerSheetsOf(described.sheets));
  const connection = await pool.getConnection();
  const writer = store.openWriter();
  let done = 0;
  try {
    for (const channelId of new Set(containers.map((container) => container.channelId))) {
      const paths = outermost(
        containers.filter((one) => one.channelId === channelId).map(({ path }) => path),
      );
      const base = await findBase(pool, channelId);
      const before = await entriesWithin(pool, channelId, paths);
      const reading: Reading = {
        ...{ context, connection: connection, writer, sheets, described, channelId },
        known: await KnownBuild.load(pool, {
          ...{ channelId, base: null, isBase: false, isSameSource: false, isSameChoice: false },
        }),
        choice: new Choice(base?.settings.choice ?? { only: [], without: [] }),
        surroundings: surroundingsIn(context, channelId, sheets),
      };
      const touched = new Set<number>();
      for (const path of paths) {
        signal.throwIfAborted();
        const spans = await spansOf(pool, channelId, path);
        const opened = await openSpans(reading, spans);
        sums.entries += new Set(opened.entries.map(({ digest }) => digest.toString('hex'))).size;
        if (spans.some(({ format }) => format === sheetFormats.other)) sums.containers++;
        for (const { path: at, reason } of opened.problems) sums.lines.push(`${at}: ${reason}`);
        const old = before.get(path) ?? [];
        for (const sequence of await writeEntries(pool, channelId, spans, opened, old)) touched.add(sequence);
        context.count(++done, 0);
      }
      await refreshBuilds(pool, channelId, touched);
    }
    return sums;
  } finally {
    await writer.seal();
    connection.release();
    await clearStaging(pool, jobId);
  }
}

/** What lies in a container that is opened comes with it. */
function outermost(paths: readonly string[]): string[] {
  const all = new Set(paths);
  return [...all].filter((path) => !containersOf(path).some((outer) => all.has(outer)));
}

/** Paths of the containers that a path lies in. */
function containersOf(path: string): string[] {
  const outer: string[] = [];
  for (let at = path.indexOf(containerMark); at >= 0; at = path.indexOf(containerMark, at + 1))
    outer.push(path.slice(0, at));
  return outer;
}

/** Digests of all that was ever in containers, by their paths. */
async function entriesWithin(
  pool: Pool,
  channelId: number,
  paths: readonly string[],
): Promise<Map<string, Buffer[]>> {
  const rows = await select<{ path: string; digest: Buffer }>(
    pool,
    `SELECT DISTINCT p.path, s.path_digest AS digest FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND p.path LIKE '%!/%'`,
    [channelId],
  );
  const wanted = new Set(paths);
  const within = new Map<string, Buffer[]>();
  for (const { path, digest } of rows) {
    const container = containersOf(path).find((outer) => wanted.has(outer));
    if (container === undefined) continue;
    const known = within.get(container);
    if (known) known.push(digest);
    else within.set(container, [digest]);
  }
  return within;
}

async function spansOf(pool: Pool, channelId: number, path: string): Promise<ContainerSpan[]> {
  const rows = await select<Omit<ContainerSpan, 'path'>>(
    pool,
    `SELECT u.path AS unit, s.unit_digest AS unitDigest, s.first_sequence AS first, s.last_sequence AS last, s.hash, s.format
       FROM asset_spans s JOIN paths u ON u.digest = s.unit_digest
      WHERE s.channel_id = ? AND s.path_digest = ? AND s.role = ? AND s.hash IS NOT NULL ORDER BY s.first_sequence`,
    [channelId, pathDigest(path), role.file],
  );
  return rows.map((row) => ({ ...row, path }));
}

interface Reading {
  context: Context;
  connection: Connection;
  writer: ContentWriter;
  sheets: readonly OpenSheet[];
  described: Described;
  channelId: number;
  choice: Choice;
  surroundings: (sequence: number) => Promise<Surroundings>;
  /** Of nothing: all that comes out is written down. */
  known: KnownBuild;
}

type Surroundings = Pick<UnitContext, 'keys' | 'formatVersions'>;

/** Keys and versions for what a build has. */
function surroundingsIn(
  context: Context,
  channelId: number,
  sheets: readonly OpenSheet[],
): Reading['surroundings'] {
  const needsKeys = sheets.some(({ usesKeyring }) => usesKeyring);
  const made = new Map<number, Promise<Surroundings>>();
  const make = async (sequence: number): Promise<Surroundings> => {
    const build = await buildAt(context.pool, channelId, sequence);
    if (!build) return { keys: [], formatVersions: {} };
    const { formatVersions } = build.settings;
    return { keys: needsKeys ? await keysOf(context, build) : [], formatVersions };
  };
  return (sequence) => {
    let known = made.get(sequence);
    if (!known) made.set(sequence, (known = make(sequence)));
    return known;
  };
}

async function openSpans(reading: Reading, spans: readonly ContainerSpan[]): Promise<Opened> {
  const entries = new Map<string, EntrySpan[]>();
  const problems: FoundProblem[] = [];
  for (const span of spans) {
    if (span.format !== sheetFormats.other) continue;
    const { first, last } = span;
    const staged = await stage(reading, span);
    problems.push(...staged.problems.map((problem) => ({ ...problem, first, last })));
    for (const row of staged.rows) {
      const key = row.digest.toString('hex');
      const known = entries.get(key);
      const before = known?.at(-1);
      if (before && before.last + 1 === first && isSame(before, row)) before.last = last;
      else if (known) known.push({ ...row, first, last });
      else entries.set(key, [{ ...row, first, last }]);
    }
  }
  return { entries: [...entries.values()].flat(), problems };
}

function isSame(a: EntrySpan, b: Omit<EntrySpan, 'first' | 'last'>): boolean {
  const equal = (one: Buffer | null, other: Buffer | null): boolean =>
    one === null || other === null ? one === other : one.equals(other);
  return (
    a.role === b.role &&
    a.format === b.format &&
    a.size === b.size &&
    equal(a.hash, b.hash) &&
    equal(a.targetDigest, b.targetDigest)
  );
}

type StagedRow = Omit<EntrySpan, 'first' | 'last'>;

/** Reads one state of a container, and gathers what came out of it. */
async function stage(
  reading: Reading,
  span: ContainerSpan,
): Promise<{ rows: StagedRow[]; problems: Omit<FoundProblem, 'first' | 'last'>[] }> {
  const { context, connection, writer, described, channelId } = reading;
  const { pool, jobId } = context;
  await clearStaging(pool, jobId);
  const recorder = new Recorder(connection, writer, jobId, reading.known);
  const unit: UnitContext = {
    ...{ recorder, source: '', temporary: context.folder.temporary, counts: { ...noCounts } },
    ...{ choice: reading.choice, contentRoot: '', holeMark: null, unlocking: null },
    ...{ containerSheets: reading.sheets, ...(await reading.surroundings(span.first)) },
    sister: (path, name) => sisterAt(context, channelId, span.first, pathBeside(path, name)),
    // Stops between two entries, and lets the thread hear that it is to.
    async checkpoint() {
      await new Promise((resolve) => setImmediate(resolve));
      context.signal.throwIfAborted();
    },
  };
  const found: FoundAsset = {
    ...{
      path: span.path,
      unit: span.unit,
      role: role.file,
      format: span.format,
      byExtension: true,
      size: null,
    },
  };
  const content = await context.store.getLocal(span.hash.toString('hex'));
  // Read in place: what is too large is refused before it is in memory.
  const file = new FileSource(content.file);
  try {
    await readStored(unit, found, new PartSource(file, content.offset, content.size));
    await recorder.flush();
  } finally {
    file.close();
  }
  await labelStaged(pool, jobId, described.recipes, described.sheets);
  const rows = await select<StagedRow>(
    pool,
    `SELECT path_digest AS digest, role, format, by_extension AS byExtension, size, hash, target_digest AS targetDigest
       FROM intake_assets WHERE job_id = ?`,
    [jobId],
  );
  const problems = await select<Omit<FoundProblem, 'first' | 'last'>>(
    pool,
    `SELECT q.path_digest AS digest, p.path, q.reason, q.locked FROM intake_problems q JOIN paths p ON p.digest = q.path_digest
      WHERE q.job_id = ?`,
    [jobId],
  );
  return { rows, problems };
}

/** A file beside a container, as it was in the first build of these. */
async function sisterAt(
  { pool, store }: Context,
  channelId: number,
  sequence: number,
  path: string,
): Promise<Uint8Array | null> {
  const row = await selectOne<{ hash: Buffer }>(
    pool,
    `SELECT s.hash FROM asset_spans s WHERE s.channel_id = ? AND s.path_digest = ? AND s.first_sequence <= ?
        AND s.last_sequence >= ? AND s.role = ? AND s.hash IS NOT NULL`,
    [channelId, pathDigest(path), sequence, sequence, role.file],
  );
  const hash = row?.hash.toString('hex');
  const content = hash === undefined ? undefined : (await store.ensureLocal([hash])).get(hash);
  if (!content || content.size > mostSisterBytes) return null;
  const reader = new LocalReader();
  try {
    return reader.read(content);
  } finally {
    reader.close();
  }
}
