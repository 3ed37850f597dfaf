import * as z from 'zod';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { plural } from '../../../core/figures.ts';
import { headLength, identify } from '../../../core/kinds/identify.ts';
import { role } from '../../acquire/builds/spans.ts';
import { digestRanges, rangeCount } from '../../platform/database/digest-ranges.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { bumpNames } from '../names/lexicons.ts';
import { keepFacts, type ReadContent } from '../../decode/read-facts.ts';
import { failedOutcome } from '../../decode/operations.ts';
import { ReaderPool } from '../../decode/reader-pool.ts';
import type { DecodeServices } from '../../decode/reader-processes.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { LocalReader } from '../../store/local-content.ts';
import { defineJob, type JobContext } from '../../jobs/define-job.ts';
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

type Context = JobContext<{ titleId: number }, DecodeServices>;

/** Finds the placement tables of a title's builds by its recipes, and reads them. Nothing is unpacked again. */
export const recipesJob = defineJob({
  kind: 'recipes',
  params: z.object({ titleId: z.number() }),
  async run(context: Context) {
    const { pool, store, params, meter, signal } = context;
    const { titleId } = params;
    await store.mend();
    const { recipes } = await readRecipes(pool, titleId);
    const channels = await select<{ id: number }>(pool, 'SELECT id FROM channels WHERE title_id = ?', [
      titleId,
    ]);
    const tables = new Map<string, { path: string; recipe: PlacementRecipe }>();
    meter.begin('finding files', channels.length * rangeCount, null);
    let done = 0;
    for (const { id } of channels)
      for (const range of digestRanges()) {
        signal.throwIfAborted();
        await labelRange(pool, store, id, range, recipes, tables);
        context.count(++done, 0);
      }
    const lines = await readTables(context, tables);
    await bumpNames(pool, titleId);
    return {
      report: {
        summary: `${plural(tables.size, 'placement table')} ${tables.size === 1 ? 'was' : 'were'} read by ${plural(recipes.length, 'recipe')}.`,
        lines: lines.slice(0, listedLines),
      },
    };
  },
});

async function labelRange(
  pool: Pool,
  store: ContentStore,
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
  const relabelled: Relabelled[] = [];
  for (const row of rows) {
    const recipe = recipeFor(row.path);
    if (recipe) {
      tables.set(row.hash.toString('hex'), { path: row.path, recipe });
      if (row.format !== 'recipe') relabelled.push({ row, format: 'recipe', byExtension: true });
    } else if (row.format === 'recipe') none.push(row);
  }
  // What is a table no more is what its bytes say.
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
async function readTables(
  context: Context,
  tables: ReadonlyMap<string, { path: string; recipe: PlacementRecipe }>,
): Promise<string[]> {
  const { pool, store, threads, signal, services } = context;
  const readers = new ReaderPool(services.processes, { readers: threads, signal });
  const lines: string[] = [];
  try {
    context.meter.begin('reading facts', tables.size, null);
    const contents = await store.ensureLocal([...tables.keys()]);
    let done = 0;
    const read = await Promise.all(
      [...tables].map(async ([hash, { path, recipe }]): Promise<ReadContent> => {
        const content = contents.get(hash);
        const outcome = content
          ? await readers.run(
              { type: 'facts', content: { path, format: 'recipe', content, recipe } },
              async () => null,
            )
          : failedOutcome.facts('the store has lost it');
        context.count(++done, 0);
        if (outcome.reason !== null) lines.push(`${path}: ${outcome.reason}`);
        return { ...outcome, hash, format: 'recipe', path, resources: [] };
      }),
    );
    signal.throwIfAborted();
    await keepFacts(pool, store, read);
    return lines;
  } finally {
    readers.close();
  }
}
