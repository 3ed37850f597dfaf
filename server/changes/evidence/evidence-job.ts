import * as z from 'zod';
import { plural } from '../../../core/figures.ts';
import { folderTargets, wholeMoves } from '../../../core/findings/folder-moves.ts';
import { pairByLikeness } from '../../../core/findings/likeness/pair.ts';
import { canCompare } from '../../../core/kinds/compare.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import { findBuildOf, type PlacedBuild } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { selectOne } from '../../platform/database/rows.ts';
import { findBetween } from '../findings/differences.ts';
import { readLexiconState } from '../../library/names/lexicons.ts';
import { compareSeconds } from '../../decode/on-demand.ts';
import { ReaderPool } from '../../decode/reader-pool.ts';
import type { DecodeServices } from '../../decode/reader-processes.ts';
import { readingPriority } from '../../acquire/builds/reading-state.ts';
import { fileFinder } from '../../library/references/find-file.ts';
import { readDescriptions } from '../../library/formats/descriptions.ts';
import { defineJob, type JobContext } from '../../jobs/define-job.ts';
import { addJob } from '../../jobs/queue.ts';
import { Comparer, type PlacedPair } from './comparer.ts';
import { findJudged, keepCompared, pairKey } from '../../decode/comparisons.ts';
import { joinPairs, keepProposals, likenessItems, listPairs } from './likeness-pairs.ts';
import { keptFolders } from './kept-folders.ts';
import { finishSpan } from './span-evidence.ts';

const paramsSchema = z.object({ fromId: z.number(), toId: z.number() });
const batchSize = 200;
const listedLines = 1000;
const evidencePriority = readingPriority - 1;

type Context = JobContext<z.infer<typeof paramsSchema>, DecodeServices>;

/** Has a span looked through for what is alike, and compared. Jobs that bring builds in and read them go first. */
export async function addEvidenceJob(
  pool: Pool,
  from: PlacedBuild,
  to: PlacedBuild,
  priority = evidencePriority,
): Promise<number> {
  return addJob(pool, {
    kind: 'evidence',
    buildId: to.id,
    subject: `What changed from ${from.label} to ${to.label}`,
    params: { fromId: from.id, toId: to.id },
    priority,
  });
}

/** The job that waits for a span or works on it; null where there is none. */
export async function openEvidenceJob(
  pool: Pool,
  from: PlacedBuild,
  to: PlacedBuild,
): Promise<number | null> {
  const row = await selectOne<{ id: number }>(
    pool,
    `SELECT id FROM jobs WHERE kind = 'evidence' AND build_id = ? AND state IN ('waiting', 'running', 'paused')
        AND JSON_VALUE(params, '$.fromId') = ? LIMIT 1`,
    [to.id, from.id],
  );
  return row?.id ?? null;
}

/** Looks a span through: what seems to be one thing, and how each thing changed. A pair that was compared stays so. */
export const evidenceJob = defineJob({
  kind: 'evidence',
  params: paramsSchema,
  async run(context: Context) {
    const { pool, params, store, meter, signal } = context;
    const [from, to] = [await findBuildOf(pool, params.fromId), await findBuildOf(pool, params.toId)];
    const title = await selectOne<{ id: number }>(pool, 'SELECT title_id AS id FROM channels WHERE id = ?', [
      to.channelId,
    ]);
    const titleId = title?.id ?? 0;
    await store.mend();
    meter.begin('pairing what is alike', 1, null);
    const { findings } = await findBetween(pool, from, to);
    signal.throwIfAborted();
    const { gone, fresh } = await likenessItems(pool, findings);
    const { rules } = await readLexiconState(pool, titleId);
    await keepProposals(pool, from, to, pairByLikeness(gone, fresh, rules));
    context.count(1, 0);
    const joined = joinPairs(findings, await listPairs(pool, from, to));
    const lines = await compareAll(context, [from, to], comparablePairs(joined));
    const targets = folderTargets(findings);
    await finishSpan(pool, from, to, wholeMoves(targets, await keptFolders(pool, to, targets)));
    const pairs = joined.filter(({ likeness }) => likeness).length;
    return {
      report: {
        summary: `${plural(lines.compared, 'pair')} compared, ${plural(pairs, 'renamed thing')} found.`,
        lines: lines.failed.slice(0, listedLines),
      },
    };
  },
});

/** Findings that have two contents of formats that can be compared. */
function comparablePairs(findings: readonly PlainFinding[]): PlacedPair[] {
  const pairs = new Map<string, PlacedPair>();
  for (const finding of findings) {
    const pair = pairOf(finding);
    if (pair) pairs.set(pairKey(pair), pair);
  }
  return [...pairs.values()];
}

/** The two contents of a finding; null where it has none to compare. */
export function pairOf({
  status,
  hash,
  oldHash,
  format,
  oldFormat,
  path,
  oldPath,
}: PlainFinding): PlacedPair | null {
  if (status !== 'changed' || hash === null || oldHash === null || oldPath === null) return null;
  if (!canCompare(oldFormat ?? format, format)) return null;
  return { hash, oldHash, format, oldFormat: oldFormat ?? format, path, oldPath };
}

async function compareAll(
  context: Context,
  builds: readonly [PlacedBuild, PlacedBuild],
  pairs: readonly PlacedPair[],
): Promise<{ compared: number; failed: string[] }> {
  const { pool, store, threads, signal, services } = context;
  const known = await findJudged(pool, pairs);
  const left = pairs.filter((pair) => !known.has(pairKey(pair)));
  const [lost, failed]: [string[], string[]] = [[], []];
  context.meter.begin('comparing', left.length, null);
  const readers = new ReaderPool(services.processes, { readers: threads, seconds: compareSeconds, signal });
  const comparer = new Comparer(
    store,
    (old, content, resolve) => readers.run({ type: 'compare', old, content }, resolve),
    [fileFinder(pool, builds[0]), fileFinder(pool, builds[1])],
    await readDescriptions(context, builds[1]),
  );
  try {
    let done = 0;
    let saving: Promise<void> = Promise.resolve();
    for (let from = 0; from < left.length; from += batchSize) {
      signal.throwIfAborted();
      const batch = left.slice(from, from + batchSize);
      const contents = await store.ensureLocal(batch.flatMap(({ hash, oldHash }) => [hash, oldHash]));
      const isStored = ({ hash, oldHash }: PlacedPair): boolean =>
        contents.has(hash) && contents.has(oldHash);
      // What the store has lost may be there again: nothing is written down of it.
      for (const { path } of batch.filter((pair) => !isStored(pair)))
        lost.push(`${path}: the store has lost its content`);
      const outcomes = await Promise.all(
        batch.filter(isStored).map(async (pair) => {
          const outcome = await comparer.compare(pair, contents);
          context.count(++done, 0);
          if (outcome.reason !== null) failed.push(`${pair.path}: ${outcome.reason}`);
          return { ...pair, outcome };
        }),
      );
      // A batch is saved while the next one is compared.
      await saving;
      saving = keepCompared(pool, store, outcomes);
      saving.catch(() => undefined);
    }
    await saving;
    return { compared: left.length - lost.length, failed: [...lost, ...failed] };
  } finally {
    readers.close();
  }
}
