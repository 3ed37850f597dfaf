import { listTitles, type PlacedBuild } from '../builds/builds.ts';
import type { Queryable } from '../database/rows.ts';
import { findBetween, type Findings } from './differences.ts';

const keptSpans = 6;

/** Findings of the spans that were asked for last, and of each channel's newest update: they are ready when it is in. */
export class RecentSpans {
  private readonly database: Queryable;
  private readonly spans = new Map<string, Promise<Findings>>();
  private warmed = '';

  constructor(database: Queryable) {
    this.database = database;
  }

  async of(from: PlacedBuild, to: PlacedBuild): Promise<Findings> {
    const key = `${from.id} ${from.indexedAt ?? ''} ${to.id} ${to.indexedAt ?? ''}`;
    const span = this.spans.get(key) ?? findBetween(this.database, from, to);
    this.spans.delete(key);
    this.spans.set(key, span);
    for (const oldest of this.spans.keys()) {
      if (this.spans.size <= keptSpans) break;
      this.spans.delete(oldest);
    }
    try {
      return await span;
    } catch (error) {
      this.spans.delete(key);
      throw error;
    }
  }

  /** Makes the findings of updates that came in since it was last called, whoever indexed them. */
  async warm(): Promise<void> {
    for (const { channels } of await listTitles(this.database)) {
      for (const { builds } of channels) {
        const [from, to] = builds.filter((build): build is PlacedBuild => build.sequence !== null).slice(-2);
        if (!from || !to || (to.indexedAt ?? '') <= this.warmed) continue;
        this.warmed = to.indexedAt ?? '';
        await this.of(from, to);
      }
    }
  }
}
