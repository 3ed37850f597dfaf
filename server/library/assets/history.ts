import type { HistoryStep } from '../../../contract/assets.ts';
import { evidenceOf } from '../../../core/findings/evidence.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import { findJudged, pairKey } from '../../decode/comparisons.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { openEnd, role } from '../../acquire/builds/spans.ts';
import { pathDigest } from '../../store/hash.ts';
import { factsKey, findFacts } from './facts.ts';

export interface Span {
  firstSequence: number;
  lastSequence: number;
  hash: string | null;
  size: number | null;
  format: string;
}

/** What happened, without what is known of the contents. */
type PlainStep = Pick<HistoryStep, 'build' | 'sequence' | 'what' | 'hash' | 'size' | 'format' | 'sameAs'>;

/** What happened to a path along its channel's builds, oldest first, with what changed each time. */
export async function historyOf(
  database: Queryable,
  channelId: number,
  path: string,
): Promise<HistoryStep[]> {
  const spans = await select<Omit<Span, 'hash'> & { hash: Buffer | null }>(
    database,
    `SELECT first_sequence AS firstSequence, last_sequence AS lastSequence, hash, size, format FROM asset_spans
      WHERE channel_id = ? AND path_digest = ? AND role = ? ORDER BY first_sequence`,
    [channelId, pathDigest(path), role.file],
  );
  const builds = await select<{ sequence: number; label: string }>(
    database,
    'SELECT sequence, label FROM builds WHERE channel_id = ? AND sequence IS NOT NULL ORDER BY sequence',
    [channelId],
  );
  const steps = stepsOf(
    spans.map((span) => ({ ...span, hash: span.hash?.toString('hex') ?? null })),
    new Map(builds.map(({ sequence, label }) => [sequence, label])),
  );
  return withEvidence(database, path, steps);
}

async function withEvidence(
  database: Queryable,
  path: string,
  steps: readonly PlainStep[],
): Promise<HistoryStep[]> {
  const facts = await findFacts(database, steps);
  const changes = steps.flatMap((step, at) => {
    const before = steps[at - 1];
    if (step.what !== 'changed' || !before?.hash || !step.hash) return [];
    return [{ hash: step.hash, format: step.format, oldHash: before.hash, oldFormat: before.format }];
  });
  const judged = await findJudged(database, changes);
  return steps.map((step, at) => {
    const known = facts.get(factsKey(step.hash, step.format));
    const shown = { ...step, hasPreview: (known?.previewHash ?? null) !== null, facts: known?.facts ?? null };
    const before = steps[at - 1];
    if (step.what !== 'changed' || !before) return { ...shown, evidence: '' };
    const { hash, format } = step;
    const earlier = facts.get(factsKey(before.hash, before.format));
    const isRepacked = known?.fingerprint != null && known.fingerprint === earlier?.fingerprint;
    if (isRepacked && formatOf(format).kind === formatOf(before.format).kind)
      return { ...shown, what: 'repacked', evidence: 'Other bytes, same decoded content.' };
    const pair =
      hash && before.hash ? { hash, format, oldHash: before.hash, oldFormat: before.format } : null;
    const finding = {
      status: 'changed' as const,
      kind: formatOf(format).kind,
      format,
      path,
      oldPath: path,
      size: step.size,
      oldSize: before.size,
      hash,
      oldHash: before.hash,
    };
    const old = earlier?.facts ?? null;
    const sentence = (pair && judged.get(pairKey(pair))?.sentence) || evidenceOf(finding, shown.facts, old);
    return { ...shown, evidence: sentence };
  });
}

/** @param spans in order; neighbours with the same content count as one */
export function stepsOf(spans: readonly Span[], labels: ReadonlyMap<number, string>): PlainStep[] {
  const steps: PlainStep[] = [];
  // The build in which a content was met first; another one lies between where it is met again.
  const met = new Map<string, string>();
  const add = (what: HistoryStep['what'], sequence: number, span: Span | null): void => {
    const build = labels.get(sequence);
    if (build === undefined) return;
    const hash = span?.hash ?? null;
    const sameAs = hash === null ? null : (met.get(hash) ?? null);
    if (hash !== null && sameAs === null) met.set(hash, build);
    steps.push({ build, sequence, what, hash, size: span?.size ?? null, format: span?.format ?? '', sameAs });
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
