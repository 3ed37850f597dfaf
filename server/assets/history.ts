import type { HistoryStep } from '../../contract/assets.ts';
import { select, type Queryable } from '../database/rows.ts';
import { openEnd, role } from '../builds/spans.ts';
import { pathDigest } from '../store/hash.ts';

export interface Span {
  firstSequence: number;
  lastSequence: number;
  hash: string | null;
  size: number | null;
}

/** What happened to a path along its channel's builds, oldest first. */
export async function historyOf(
  database: Queryable,
  channelId: number,
  path: string,
): Promise<HistoryStep[]> {
  const spans = await select<Omit<Span, 'hash'> & { hash: Buffer | null }>(
    database,
    `SELECT first_sequence AS firstSequence, last_sequence AS lastSequence, hash, size FROM asset_spans
      WHERE channel_id = ? AND path_digest = ? AND role = ? ORDER BY first_sequence`,
    [channelId, pathDigest(path), role.file],
  );
  const builds = await select<{ sequence: number; label: string }>(
    database,
    'SELECT sequence, label FROM builds WHERE channel_id = ? AND sequence IS NOT NULL ORDER BY sequence',
    [channelId],
  );
  return stepsOf(
    spans.map((span) => ({ ...span, hash: span.hash?.toString('hex') ?? null })),
    new Map(builds.map(({ sequence, label }) => [sequence, label])),
  );
}

/** @param spans in order; neighbours with the same content count as one */
export function stepsOf(spans: readonly Span[], labels: ReadonlyMap<number, string>): HistoryStep[] {
  const steps: HistoryStep[] = [];
  const add = (what: HistoryStep['what'], sequence: number, span: Span | null): void => {
    const build = labels.get(sequence);
    if (build !== undefined)
      steps.push({ build, sequence, what, hash: span?.hash ?? null, size: span?.size ?? null });
  };
  let before: Span | null = null;
  for (const span of spans) {
    if (before === null) {
      add('appeared', span.firstSequence, span);
    } else if (before.lastSequence + 1 < span.firstSequence) {
      add('vanished', before.lastSequence + 1, null);
      add('came back', span.firstSequence, span);
    } else if (before.hash !== span.hash) {
      add('changed', span.firstSequence, span);
    }
    before = span;
  }
  if (before && before.lastSequence !== openEnd) add('vanished', before.lastSequence + 1, null);
  return steps;
}
