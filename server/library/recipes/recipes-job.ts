import * as z from 'zod';
import type { KeptSheet } from '../../../contract/kept-sheets.ts';
import { plural } from '../../../core/figures.ts';
import type { FormatName } from '../../../core/kinds/formats.ts';
import { headLength, identify } from '../../../core/kinds/identify.ts';
import { buildAt } from '../../acquire/builds/builds.ts';
import { role } from '../../acquire/builds/spans.ts';
import { digestRanges, rangeCount } from '../../platform/database/digest-ranges.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { bumpNames } from '../names/lexicons.ts';
import { forgetComparisons } from '../../decode/comparisons.ts';
import { keepFacts, readFactsOf, type FactsSource, type ReadContent } from '../../decode/read-facts.ts';
import type { ReadServices } from '../../decode/read-job.ts';
import { ReaderPool } from '../../decode/reader-pool.ts';
import type { DecodeServices } from '../../decode/reader-processes.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { LocalReader } from '../../store/local-content.ts';
import { defineJob, type JobContext } from '../../jobs/define-job.ts';
import { addJob } from '../../jobs/queue.ts';
import { describedFormat, isDescribed } from '../formats/described-format.ts';
import { readDescriptions } from '../formats/descriptions.ts';
import { openContainers } from '../formats/open-containers.ts';
import { readSheets, sheetFinder, sheetFormats } from '../formats/sheets.ts';
import { readRecipes, recipeFormats } from './recipes.ts';

/**
 * Has all builds of a title looked through with its recipes and sheets as they are now.
 * @param changedSheets names of those whose files are to be read again, beside what is described otherwise than before; null for all
 */
export async function addRecipesJob(
  pool: Pool,
  titleId: number,
  title: string,
  changedSheets: readonly string[] | null = null,
): Promise<number> {
  return addJob(pool, {
    kind: 'recipes',
    buildId: null,
    subject: `Recipes and format sheets of ${title}`,
    params: { titleId, changedSheets },
    owner: null,
  });
}

interface SpanRow {
  channelId: number;
  digest: Buffer;
  first: number;
  path: string;
  format: string;
  hash: Buffer;
}

const listedLines = 1000;
const batchSize = 200;

/** What the job needs of those who come after it. */
export interface DescribedServices extends DecodeServices, Pick<ReadServices, 'findFileIn'> {
  /** Has what changed in a channel's builds looked through again. */
  lookAgain(pool: Pool, channelId: number): Promise<void>;
}

type Context = JobContext<{ titleId: number; changedSheets: string[] | null }, DescribedServices>;

/** Finds what recipes and sheets of a title describe in its builds, and reads it. Nothing is unpacked again. */
export const recipesJob = defineJob({
  kind: 'recipes',
  params: z.object({ titleId: z.number(), changedSheets: z.array(z.string()).nullable().default(null) }),
  async run(context: Context) {
    const { pool, store, params, meter, signal } = context;
    const { titleId } = params;
    await store.mend();
    const { recipes } = await readRecipes(pool, titleId);
    const { sheets } = await readSheets(pool, titleId);
    const formatFor = describedFormat(recipes, sheets);
    const isChanged = changedFinder(sheets, params.changedSheets);
    // Recipes are for few formats; a sheet may be for any.
    const formats = sheets.length > 0 ? null : [...recipeFormats, ...Object.values(sheetFormats)];
    const channels = await select<{ id: number }>(pool, 'SELECT id FROM channels WHERE title_id = ?', [
      titleId,
    ]);
    const found: Found = new Map();
    meter.begin('finding files', channels.length * rangeCount, null);
    let done = 0;
    const relabelled = new Set<number>();
    const containers: { channelId: number; path: string }[] = [];
    for (const { id } of channels)
      for (const range of digestRanges()) {
        signal.throwIfAborted();
        const rules = { formatFor, isChanged, formats };
        const labelled = await labelRange(pool, store, id, range, rules, found);
        if (labelled.isChanged) relabelled.add(id);
        for (const path of labelled.containers) containers.push({ channelId: id, path });
        context.count(++done, 0);
      }
    await forgetComparisons(
      pool,
      [...found.values()].map(({ hash }) => hash),
    );
    const opened = await openContainers(context, containers, { recipes, sheets });
    const lines = [...opened.lines, ...(await readAll(context, found))];
    await bumpNames(pool, titleId);
    // Views of findings that were made of the facts of before are made again.
    const read = new Set([...found.values()].map(({ channelId }) => channelId));
    for (const id of new Set([...read, ...relabelled])) {
      await change(pool, 'UPDATE builds SET facts_revision = facts_revision + 1 WHERE channel_id = ?', [id]);
      await context.services.lookAgain(pool, id);
    }
    return {
      report: {
        summary: [
          `${plural(found.size, 'file')} ${found.size === 1 ? 'was' : 'were'} read by ${plural(recipes.length, 'recipe')} and ${plural(sheets.length, 'format sheet')}.`,
          ...(opened.containers > 0
            ? [
                `${plural(opened.containers, 'container')} ${opened.containers === 1 ? 'was' : 'were'} opened, with ${plural(opened.entries, 'file')} in all.`,
              ]
            : []),
        ].join(' '),
        lines: lines.slice(0, listedLines),
      },
    };
  },
});

/** Whether what is said of a path may be other than before. */
function changedFinder(
  sheets: readonly KeptSheet[],
  changed: readonly string[] | null,
): (path: string) => boolean {
  if (changed === null) return () => true;
  const names = new Set(changed);
  const sheetFor = sheetFinder(sheets);
  return (path) => names.has(sheetFor(path)?.sheet.name ?? '');
}

/** Contents that are described, by hash and format, each with a place where it lies in the newest build that has it. */
type Found = Map<
  string,
  { hash: string; path: string; format: FormatName; channelId: number; sequence: number }
>;

interface Rules {
  formatFor: ReturnType<typeof describedFormat>;
  isChanged: (path: string) => boolean;
  /** Of files that may be described, before and after; null for all. */
  formats: readonly string[] | null;
}

/** @returns whether some are of another format now, and the containers that are to be opened, or are none any more */
async function labelRange(
  pool: Pool,
  store: ContentStore,
  channelId: number,
  [low, high]: readonly [Buffer, Buffer],
  { formatFor, isChanged, formats }: Rules,
  found: Found,
): Promise<{ isChanged: boolean; containers: Set<string> }> {
  const rows = await select<SpanRow>(
    pool,
    `SELECT s.channel_id AS channelId, s.path_digest AS digest, s.first_sequence AS first, p.path, s.format, s.hash
       FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.role = ? AND s.hash IS NOT NULL AND s.path_digest BETWEEN ? AND ?
        ${formats ? 'AND s.format IN (?)' : ''}
      ORDER BY s.first_sequence`,
    [channelId, role.file, low, high, ...(formats ? [formats] : [])],
  );
  const none: SpanRow[] = [];
  const relabelled: Relabelled[] = [];
  const containers = new Set<string>();
  for (const row of rows) {
    const format = formatFor(row.path, row.format);
    if (format !== null) {
      if (row.format === format && !isChanged(row.path)) continue;
      if ([row.format, format].includes(sheetFormats.other)) containers.add(row.path);
      const hash = row.hash.toString('hex');
      if (format !== sheetFormats.other)
        found.set(`${hash} ${format}`, {
          hash,
          path: row.path,
          format,
          channelId,
          sequence: row.first,
        });
      if (row.format !== format) relabelled.push({ row, format, byExtension: true });
    } else if (isDescribed(row.format)) {
      none.push(row);
      if (row.format === sheetFormats.other) containers.add(row.path);
    }
  }
  // What nobody describes any more is what its bytes say.
  const contents = await store.ensureLocal(none.map(({ hash }) => hash.toString('hex')));
  const reader = new LocalReader();
  for (const row of none) {
    const content = contents.get(row.hash.toString('hex'));
    if (!content) continue;
    const { format, byExtension } = identify(
      reader.read(content, 0, Math.min(content.size, headLength)),
      row.path,
    );
    relabelled.push({ row, format, byExtension });
  }
  reader.close();
  await setFormats(pool, channelId, relabelled);
  return { isChanged: relabelled.length > 0, containers };
}

interface Relabelled {
  row: SpanRow;
  format: string;
  byExtension: boolean;
}

/** Under the channel's lock, as everybody who writes its spans: a build that comes in meanwhile closes and opens some. */
async function setFormats(pool: Pool, channelId: number, relabelled: readonly Relabelled[]): Promise<void> {
  if (relabelled.length === 0) return;
  await inTransaction(pool, async (connection) => {
    await selectOne(connection, 'SELECT id FROM channels WHERE id = ? FOR UPDATE', [channelId]);
    for (const { row, format, byExtension } of relabelled)
      await setFormat(connection, row, format, byExtension);
  });
}

async function setFormat(
  database: Queryable,
  { channelId, digest, first, hash }: SpanRow,
  format: string,
  isByExtension: boolean,
): Promise<void> {
  await change(
    database,
    `UPDATE asset_spans SET format = ?, by_extension = ?
      WHERE channel_id = ? AND path_digest = ? AND first_sequence = ? AND hash = ?`,
    [format, isByExtension ? 1 : 0, channelId, digest, first, hash],
  );
}

/** @returns what is wrong with some of them, a line each */
async function readAll(context: Context, found: Found): Promise<string[]> {
  const { pool, store, threads, signal, services } = context;
  const readers = new ReaderPool(services.processes, { readers: threads, signal });
  const lines: string[] = [];
  const all = [...found.values()];
  const surroundings = buildSurroundings(context);
  try {
    context.meter.begin('reading facts', all.length, null);
    let done = 0;
    for (let from = 0; from < all.length; from += batchSize) {
      signal.throwIfAborted();
      const batch = all.slice(from, from + batchSize);
      const contents = await store.ensureLocal(batch.map(({ hash }) => hash));
      const read = await Promise.all(
        batch.map(async ({ hash, path, format, channelId, sequence }): Promise<ReadContent> => {
          const outcome = await readFactsOf(
            { pool, store, readers, ...(await surroundings(channelId, sequence)) },
            { hash, format, path },
            contents.get(hash),
          );
          context.count(++done, 0);
          if (outcome.reason !== null && lines.length < listedLines) lines.push(`${path}: ${outcome.reason}`);
          return outcome;
        }),
      );
      signal.throwIfAborted();
      await keepFacts(pool, store, read);
    }
    return lines;
  } finally {
    readers.close();
  }
}

type Surroundings = Pick<FactsSource, 'findFile' | 'describe'>;

/** What files of builds name, and how these are built; made once a build, since it keeps what it has looked up. */
function buildSurroundings(context: Context): (channelId: number, sequence: number) => Promise<Surroundings> {
  const { pool, services } = context;
  const made = new Map<string, Promise<Surroundings>>();
  const make = async (channelId: number, sequence: number): Promise<Surroundings> => {
    const build = await buildAt(pool, channelId, sequence);
    // It may just have been removed: then nothing that it names is there.
    if (!build) return { findFile: () => Promise.resolve(null), describe: () => ({}) };
    return {
      findFile: services.findFileIn(pool, build),
      describe: await readDescriptions(context, build),
    };
  };
  return (channelId, sequence) => {
    const key = `${channelId} ${sequence}`;
    let known = made.get(key);
    if (!known) made.set(key, (known = make(channelId, sequence)));
    return known;
  };
}
