import { LRUCache } from 'lru-cache';
import type { EvidenceState } from '../../../contract/findings.ts';
import { listTitles, placedBefore, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { isRead, openReading, startReading } from '../../acquire/builds/reading-state.ts';
import { comparersVersion } from '../../../core/kinds/compare.ts';
import { spanEvidence, spanState } from '../evidence/span-evidence.ts';
import { addEvidenceJob, openEvidenceJob } from '../evidence/evidence-job.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { selectOne } from '../../platform/database/rows.ts';
import { readRules } from '../noise/rules.ts';
import { findBetween, type Findings } from './differences.ts';
import { makeSpanView, type SpanView } from './span-view.ts';

const keptSpans = 6;

/** The state of the facts of two builds: it counts up while they come in. */
function factsRevisionOf(from: PlacedBuild, to: PlacedBuild): number {
  return from.factsRevision + to.factsRevision;
}

function factsKey(from: PlacedBuild, to: PlacedBuild, asOf = factsRevisionOf(from, to)): string {
  return [from.id, from.indexedAt, to.id, to.indexedAt, comparersVersion, asOf].join(' ');
}

/** A view, the state of facts that it was made by, and the newest one. */
export interface AsOf {
  view: SpanView;
  asOf: number;
  newestFacts: number;
}

/** Values that were asked for last, made once each. */
class Recent<Value> {
  private readonly values = new LRUCache<string, Promise<Value>>({ max: keptSpans });

  /** What was made, or is being made; undefined where it was forgotten. */
  recall(key: string): Promise<Value> | undefined {
    return this.values.get(key);
  }

  async get(key: string, make: () => Promise<Value>): Promise<Value> {
    const value = this.values.get(key) ?? make();
    this.values.set(key, value);
    try {
      return await value;
    } catch (error) {
      this.values.delete(key);
      throw error;
    }
  }
}

async function evidenceState(
  pool: Pool,
  from: PlacedBuild,
  to: PlacedBuild,
): Promise<{ state: EvidenceState; job: number | null }> {
  for (const build of [to, from]) {
    const reading = isRead(build) ? null : await openReading(pool, build.id);
    if (reading !== null) return { state: 'reading', job: reading };
  }
  const job = await openEvidenceJob(pool, from, to);
  if (job !== null) return { state: 'running', job };
  const known = await spanEvidence(pool, from, to);
  return { state: known?.state === spanState(from, to) ? 'done' : 'none', job: null };
}

/**
 * Has a span compared, unless that was done or is being done, and read before that, where its facts are left to be read.
 * @returns the job, null where none is needed
 */
export async function startEvidence(pool: Pool, from: PlacedBuild, to: PlacedBuild): Promise<number | null> {
  // Reading a build reads what it took the place of, too: of the build right before it, nothing else is asked.
  const isNext = (await placedBefore(pool, to))?.id === from.id;
  for (const build of isNext ? [to] : [from, to]) if (!isRead(build)) await startReading(pool, build.id);
  const job = await openEvidenceJob(pool, from, to);
  if (job !== null) return job;
  const { state } = await evidenceState(pool, from, to);
  return state === 'done' ? null : addEvidenceJob(pool, from, to);
}

/** Findings of the spans that were asked for last, and of each channel's newest update: they are ready when it is in. */
export class RecentSpans {
  private readonly exact = new Recent<Findings>();
  private readonly views = new Recent<SpanView>();
  /** When the newest build that was looked at came in, by channel. */
  private readonly warmed = new Map<number, string>();
  private readonly pool: Pool;

  constructor(pool: Pool) {
    this.pool = pool;
  }

  /** What differs, to the byte and to the decoded content. */
  async get(from: PlacedBuild, to: PlacedBuild): Promise<Findings> {
    return this.exact.get(factsKey(from, to), () => findBetween(this.pool, from, to));
  }

  /** The same with what is alike joined, and what is noise folded away. */
  async view(from: PlacedBuild, to: PlacedBuild): Promise<SpanView> {
    return (await this.keyed(from, to)).view;
  }

  /**
   * The view as it was when facts were in a certain state, as long as that is remembered: who goes through a list while they
   * come in keeps its order. @param asOf the state; the newest where nobody says
   */
  async viewAsOf(from: PlacedBuild, to: PlacedBuild, asOf: number | undefined): Promise<AsOf> {
    const newestFacts = factsRevisionOf(from, to);
    if (asOf !== undefined && asOf !== newestFacts) {
      const kept = this.exact.recall(factsKey(from, to, asOf));
      if (kept)
        return { view: (await this.keyed(from, to, { asOf, findings: await kept })).view, asOf, newestFacts };
    }
    return { view: await this.view(from, to), asOf: newestFacts, newestFacts };
  }

  /** @returns the view with a key that tells one state of it from another */
  async keyed(
    from: PlacedBuild,
    to: PlacedBuild,
    kept?: { asOf: number; findings: Findings },
  ): Promise<{ key: string; view: SpanView }> {
    const title = await selectOne<{ id: number; names: number }>(
      this.pool,
      'SELECT t.id, t.names_revision AS names FROM channels c JOIN titles t ON t.id = c.title_id WHERE c.id = ?',
      [to.channelId],
    );
    const titleId = title?.id ?? 0;
    const { rules } = await readRules(this.pool, titleId);
    const evidence = await spanEvidence(this.pool, from, to);
    const key = [
      factsKey(from, to, kept?.asOf),
      evidence?.revision ?? 0,
      title?.names ?? 0,
      JSON.stringify(rules),
    ].join(' ');
    const view = await this.views.get(key, async () =>
      makeSpanView(
        this.pool,
        kept?.findings ?? (await this.get(from, to)),
        from,
        to,
        titleId,
        rules,
        evidence?.moves ?? [],
      ),
    );
    return { key, view };
  }

  /** How far comparing the span's contents is. */
  async evidence(from: PlacedBuild, to: PlacedBuild): ReturnType<typeof evidenceState> {
    return evidenceState(this.pool, from, to);
  }

  /** Makes the findings of updates that came in since it was last called, whoever indexed them. @returns whether there is work */
  async warm(): Promise<boolean> {
    let hasWork = false;
    for (const { channels } of await listTitles(this.pool)) {
      for (const { id, builds } of channels) {
        const [newest, before] = builds
          .filter((build): build is PlacedBuild => build.sequence !== null)
          .slice(-2)
          .reverse();
        if (!newest) continue;
        const state = `${newest.indexedAt ?? ''} ${newest.factsVersion ?? ''} ${before?.factsVersion ?? ''}`;
        if (state === this.warmed.get(id)) continue;
        if (before) await this.get(before, newest);
        // Facts first, also where the readers have learned something; what comes of them is compared when they are there.
        if (!isRead(newest)) await startReading(this.pool, newest.id);
        else if (before) await startEvidence(this.pool, before, newest);
        hasWork = true;
        this.warmed.set(id, state);
      }
    }
    return hasWork;
  }
}
