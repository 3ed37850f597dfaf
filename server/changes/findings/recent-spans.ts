import { LRUCache } from 'lru-cache';
import { listTitles, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { spanEvidence, spanState } from '../evidence/span-evidence.ts';
import { addEvidenceJob, openEvidenceJob } from '../evidence/evidence-job.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { selectOne } from '../../platform/database/rows.ts';
import { readRules } from '../noise/rules.ts';
import { findBetween, type Findings } from './differences.ts';
import { makeSpanView, type SpanView } from './span-view.ts';

const keptSpans = 6;

/** Values that were asked for last, made once each. */
class Recent<Value> {
  private readonly values = new LRUCache<string, Promise<Value>>({ max: keptSpans });

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
): Promise<{ state: 'none' | 'running' | 'done'; job: number | null }> {
  const job = await openEvidenceJob(pool, from, to);
  if (job !== null) return { state: 'running', job };
  const known = await spanEvidence(pool, from, to);
  return { state: known?.state === spanState(from, to) ? 'done' : 'none', job: null };
}

/** Has a span compared, unless that was done or is being done. @returns the job, null where none is needed */
export async function startEvidence(pool: Pool, from: PlacedBuild, to: PlacedBuild): Promise<number | null> {
  const { state, job } = await evidenceState(pool, from, to);
  return state === 'none' ? addEvidenceJob(pool, from, to) : job;
}

/** Findings of the spans that were asked for last, and of each channel's newest update: they are ready when it is in. */
export class RecentSpans {
  private readonly pool: Pool;
  private readonly exact = new Recent<Findings>();
  private readonly views = new Recent<SpanView>();
  /** When the newest build that was looked at came in, by channel. */
  private readonly warmed = new Map<number, string>();

  constructor(pool: Pool) {
    this.pool = pool;
  }

  /** What differs, to the byte and to the decoded content. */
  async get(from: PlacedBuild, to: PlacedBuild): Promise<Findings> {
    return this.exact.get(`${from.id} ${to.id} ${spanState(from, to)}`, () =>
      findBetween(this.pool, from, to),
    );
  }

  /** The same with what is alike joined, and what is noise folded away. */
  async view(from: PlacedBuild, to: PlacedBuild): Promise<SpanView> {
    return (await this.keyed(from, to)).view;
  }

  /** @returns the view with a key that tells one state of it from another */
  async keyed(from: PlacedBuild, to: PlacedBuild): Promise<{ key: string; view: SpanView }> {
    const title = await selectOne<{ id: number; names: number }>(
      this.pool,
      'SELECT t.id, t.names_revision AS names FROM channels c JOIN titles t ON t.id = c.title_id WHERE c.id = ?',
      [to.channelId],
    );
    const titleId = title?.id ?? 0;
    const { rules } = await readRules(this.pool, titleId);
    const evidence = await spanEvidence(this.pool, from, to);
    const key = [
      from.id,
      to.id,
      spanState(from, to),
      evidence?.revision ?? 0,
      title?.names ?? 0,
      JSON.stringify(rules),
    ].join(' ');
    const view = await this.views.get(key, async () =>
      makeSpanView(this.pool, await this.get(from, to), from, to, titleId, rules, evidence?.moves ?? []),
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
        const [from, to] = builds.filter((build): build is PlacedBuild => build.sequence !== null).slice(-2);
        if (!from || !to || to.indexedAt === null || to.indexedAt === this.warmed.get(id)) continue;
        await this.get(from, to);
        hasWork = (await startEvidence(this.pool, from, to)) !== null || hasWork;
        this.warmed.set(id, to.indexedAt);
      }
    }
    return hasWork;
  }
}
