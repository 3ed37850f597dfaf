import { formats } from '../../core/kinds/formats.ts';
import { hasReader, readersVersion } from '../../core/kinds/read.ts';
import type { Pool } from '../platform/database/pool.ts';
import { parseColumn, select } from '../platform/database/rows.ts';
import type { PlacementRecipe } from '../../contract/recipes.ts';
import { role } from '../acquire/builds/spans.ts';
import type { ContentStore } from '../store/content-store.ts';
import { hashOf } from '../store/hash.ts';
import type { LocalContent } from '../store/local-content.ts';
import { failedOutcome, type FactsOutcome } from './operations.ts';
import { ReaderPool } from './reader-pool.ts';
import type { ReaderProcesses } from './reader-processes.ts';
import {
  findReading,
  isSame,
  keepReadings,
  resourcesSchema,
  restoreReading,
  type Resources,
} from './readings.ts';

interface Unread {
  hash: string;
  format: string;
  path: string;
}

const batchSize = 500;

export interface FactsRequest {
  pool: Pool;
  store: ContentStore;
  jobId: number;
  /** Hash of the file that another one of the job's build names. */
  findFile: (from: string, reference: string) => Promise<string | null>;
  processes: ReaderProcesses;
  /** How many readers work at the same time. */
  readers: number;
  signal: AbortSignal;
  onProgress: (done: number, total: number) => void;
  /** The recipe by which a file is a placement table. */
  recipeFor: (path: string) => PlacementRecipe | undefined;
}

/**
 * Reads the facts of every content that a job found and of which none are known yet. Once per content, never
 * again for a later build that holds it.
 */
export async function readFacts(request: FactsRequest): Promise<void> {
  const { pool, store, jobId, processes, signal, onProgress, findFile, recipeFor } = request;
  const unread = [...(await findUnread(pool, jobId)), ...(await findStale(pool, jobId, findFile))];
  if (unread.length === 0) return;
  onProgress(0, unread.length);
  const readers = new ReaderPool(processes, { readers: request.readers, signal });
  try {
    let done = 0;
    let saving: Promise<void> = Promise.resolve();
    for (let from = 0; from < unread.length; from += batchSize) {
      signal.throwIfAborted();
      const batch = unread.slice(from, from + batchSize);
      const contents = await store.ensureLocal(batch.map(({ hash }) => hash));
      const outcomes = await Promise.all(
        batch.map(async (item) => {
          const outcome = await readOne(store, readers, item, contents, findFile, recipeFor);
          onProgress(++done, unread.length);
          return { ...outcome, ...item };
        }),
      );
      // A batch is saved while the next one is read.
      await saving;
      saving = keepFacts(pool, store, outcomes);
      // It is awaited above or below; until then a failure must not count as nobody's.
      saving.catch(() => undefined);
    }
    await saving;
  } finally {
    readers.close();
  }
}

async function findUnread(pool: Pool, jobId: number): Promise<Unread[]> {
  const readable = formats.filter(({ name }) => hasReader(name)).map(({ name }) => name);
  const rows = await select<{ hash: Buffer; format: string; path: string }>(
    pool,
    `SELECT i.hash, i.format, MIN(p.path) AS path FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
       LEFT JOIN content_facts f ON f.hash = i.hash AND f.format = i.format AND f.readers_version = ?
      WHERE i.job_id = ? AND i.role = ? AND i.hash IS NOT NULL AND i.format IN (?) AND f.hash IS NULL
      GROUP BY i.hash, i.format`,
    [readersVersion, jobId, role.file, readable],
  );
  return rows.map((row) => ({ ...row, hash: row.hash.toString('hex') }));
}

/** What was read before with files that are other ones by now, and never with these. */
async function findStale(pool: Pool, jobId: number, findFile: FactsRequest['findFile']): Promise<Unread[]> {
  const rows = await select<{ hash: Buffer; format: string; path: string; resources: unknown }>(
    pool,
    `SELECT i.hash, i.format, p.path, f.resources FROM intake_assets i JOIN paths p ON p.digest = i.path_digest
       JOIN content_facts f ON f.hash = i.hash AND f.format = i.format AND f.readers_version = ?
      WHERE i.job_id = ? AND f.resources IS NOT NULL`,
    [readersVersion, jobId],
  );
  const stale: Unread[] = [];
  for (const { hash, format, path, resources } of rows) {
    const find = (reference: string): Promise<string | null> => findFile(path, reference);
    if (await isSame(resourcesSchema.parse(parseColumn(resources)), find)) continue;
    const item = { hash: hash.toString('hex'), format, path };
    const known = await findReading(pool, item.hash, format, find);
    if (known) await restoreReading(pool, item.hash, format, known);
    else stale.push(item);
  }
  return stale;
}

async function readOne(
  store: ContentStore,
  readers: ReaderPool,
  { hash, format, path }: Unread,
  contents: ReadonlyMap<string, LocalContent>,
  findFile: FactsRequest['findFile'],
  recipeFor: (path: string) => PlacementRecipe | undefined,
): Promise<FactsOutcome & { resources: Resources }> {
  const resources: Resources = [];
  const content = contents.get(hash);
  if (!content) return { ...failedOutcome.facts('the store has lost it'), resources };
  const outcome = await readers.run(
    {
      type: 'facts',
      content: { path, format, content, recipe: format === 'recipe' ? recipeFor(path) : undefined },
    },
    async (reference) => {
      const found = await findFile(path, reference);
      resources.push([reference, found]);
      return found === null ? null : ((await store.ensureLocal([found])).get(found) ?? null);
    },
  );
  return { ...outcome, resources };
}

/** What was found out about a content. */
export type ReadContent = FactsOutcome & Unread & { resources: Resources };

/** Writes down what was found out, and stores the previews. */
export async function keepFacts(
  pool: Pool,
  store: ContentStore,
  outcomes: readonly ReadContent[],
): Promise<void> {
  const previews = new Map<string, { hash: Buffer; bytes: Uint8Array }>();
  const rows = outcomes.map(
    ({ hash, format, facts, reason, preview, resources, fingerprint, signature, mentions }) => {
      const previewHash = preview ? hashOf(preview) : null;
      if (preview && previewHash)
        previews.set(previewHash.toString('hex'), { hash: previewHash, bytes: preview });
      const values = [
        Buffer.from(hash, 'hex'),
        format,
        readersVersion,
        facts ? JSON.stringify(facts) : null,
        reason,
        previewHash,
        resources.length > 0 ? JSON.stringify(resources) : null,
        fingerprint && Buffer.from(fingerprint),
        signature && Buffer.from(signature),
        mentions.length > 0 ? JSON.stringify(mentions) : null,
      ];
      return { values, resources };
    },
  );
  await store.putMany(previews.values());
  await keepReadings(pool, rows);
}
