import { availableParallelism } from 'node:os';
import { z } from 'zod';
import type { JobReport } from '../../../contract/work.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { plural } from '../../../core/figures.ts';
import { headLength, identify } from '../../../core/kinds/identify.ts';
import { role } from '../../acquire/builds/spans.ts';
import { digestRanges, rangeCount } from '../../platform/database/digest-ranges.ts';
import { openPool, type Pool } from '../../platform/database/pool.ts';
import { change, parseColumn, select, selectOne } from '../../platform/database/rows.ts';
import type { IndexOptions } from '../../ingest/run-index.ts';
import { bumpNames } from '../names/lexicons.ts';
import { keepFacts, type ReadContent } from '../../decode/read-facts.ts';
import { nothingRead } from '../../decode/messages.ts';
import { ReaderPool } from '../../decode/reader-pool.ts';
import { mendStore } from '../../store/mend.ts';
import { PackWriter } from '../../store/pack-writer.ts';
import { ContentReader, findContents } from '../../store/read-content.ts';
import { JobLease } from '../../jobs/job-lease.ts';
import { addJob } from '../../jobs/queue.ts';
import { readRecipes, recipeFinder, recipeFormats } from './recipes.ts';

/** Has all builds of a title looked through with its recipes as they are now. */
export async function addRecipesJob(pool: Pool, titleId: number, title: string): Promise<number> {
  return addJob(pool, {
    kind: 'recipes',
    buildId: null,
    subject: `Placement recipes of ${title}`,
    params: { titleId },
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

/** Finds the placement tables of a title's builds by its recipes, and reads them. Nothing is unpacked again. */
export async function runRecipes(options: IndexOptions): Promise<JobReport> {
  const pool = openPool(options.address, 4);
  const lease = new JobLease(pool, options);
  try {
    const job = await selectOne<{ params: unknown }>(pool, 'SELECT params FROM jobs WHERE id = ?', [
      options.jobId,
    ]);
    const { titleId } = z.object({ titleId: z.number() }).parse(parseColumn(job?.params ?? null));
    await mendStore(pool, options.folder.store);
    const recipes = await readRecipes(pool, titleId);
    const channels = await select<{ id: number }>(pool, 'SELECT id FROM channels WHERE title_id = ?', [
      titleId,
    ]);
    const tables = new Map<string, { path: string; recipe: PlacementRecipe }>();
    lease.meter.begin('finding files', channels.length * rangeCount, null);
    let done = 0;
    for (const { id } of channels)
      for (const range of digestRanges()) {
        lease.signal.throwIfAborted();
        await labelRange(pool, options.folder.store, id, range, recipes, tables);
        lease.count(++done, 0);
      }
    const lines = await readTables(pool, options, lease, tables);
    await bumpNames(pool, titleId);
    return {
      summary: `${plural(tables.size, 'placement table')} ${tables.size === 1 ? 'was' : 'were'} read by ${plural(recipes.length, 'recipe')}.`,
      lines: lines.slice(0, listedLines),
    };
  } finally {
    lease.close();
    await pool.end();
  }
}

async function labelRange(
  pool: Pool,
  store: string,
  channelId: number,
  [low, high]: readonly [Buffer, Buffer],
  recipes: readonly PlacementRecipe[],
  tables: Map<string, { path: string; recipe: PlacementRecipe }>,
): Promise<void> {
  const rows = await select<SpanRow>(
    pool,
    `SELECT s.channel_id AS channelId, s.path_digest AS digest, s.first_sequence AS first, p.path, s.format, s.hash
       FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.role = ? AND s.hash IS NOT NULL AND s.format IN (?) AND s.path_digest BETWEEN ? AND ?`,
    [channelId, role.file, recipeFormats, low, high],
  );
  const recipeFor = recipeFinder(recipes);
  const none: SpanRow[] = [];
  for (const row of rows) {
    const recipe = recipeFor(row.path);
    if (recipe) {
      tables.set(row.hash.toString('hex'), { path: row.path, recipe });
      if (row.format !== 'recipe') await setFormat(pool, row, 'recipe', true);
    } else if (row.format === 'recipe') none.push(row);
  }
  // What is a table no more is what its bytes say.
  const places = await findContents(
    pool,
    none.map(({ hash }) => hash.toString('hex')),
  );
  const reader = new ContentReader(store);
  for (const row of none) {
    const place = places.get(row.hash.toString('hex'));
    if (!place) continue;
    const { format, byExtension } = identify(
      reader.read(place, 0, Math.min(place.size, headLength)),
      row.path,
    );
    await setFormat(pool, row, format, byExtension);
  }
  reader.close();
}

async function setFormat(
  pool: Pool,
  { channelId, digest, first }: SpanRow,
  format: string,
  isByExtension: boolean,
): Promise<void> {
  await change(
    pool,
    'UPDATE asset_spans SET format = ?, by_extension = ? WHERE channel_id = ? AND path_digest = ? AND first_sequence = ?',
    [format, isByExtension ? 1 : 0, channelId, digest, first],
  );
}

/** @returns what is wrong with some of them, a line each */
async function readTables(
  pool: Pool,
  { folder, threads }: IndexOptions,
  lease: JobLease,
  tables: ReadonlyMap<string, { path: string; recipe: PlacementRecipe }>,
): Promise<string[]> {
  const readers = new ReaderPool(folder.store, threads ?? availableParallelism());
  const packs = new PackWriter(folder.store);
  const lines: string[] = [];
  try {
    lease.meter.begin('reading facts', tables.size, null);
    const places = await findContents(pool, [...tables.keys()]);
    let done = 0;
    const read = await Promise.all(
      [...tables].map(async ([hash, { path, recipe }]): Promise<ReadContent> => {
        const place = places.get(hash);
        const content = { hash, format: 'recipe', path, resources: [] };
        const outcome = place
          ? await readers.read({ path, format: 'recipe', place, recipe, resolve: async () => null })
          : { ...nothingRead, reason: 'the store has lost it' };
        lease.count(++done, 0);
        if (outcome.reason !== null) lines.push(`${path}: ${outcome.reason}`);
        return { ...outcome, ...content };
      }),
    );
    lease.signal.throwIfAborted();
    await keepFacts(pool, packs, read);
    return lines;
  } finally {
    await readers.close();
    await packs.seal(pool);
  }
}
