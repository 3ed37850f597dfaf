import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { SearchHit } from '../../contract/assets.ts';
import { formats, formatOf } from '../../core/kinds/formats.ts';
import { readersVersion } from '../../core/kinds/read.ts';
import { PathIndex } from '../../core/search/path-index.ts';
import type { Query } from '../../core/search/query.ts';
import { search, whyFound } from '../../core/search/search.ts';
import type { DataFolder } from '../data-folder.ts';
import type { DatabaseAddress, Pool } from '../database/pool.ts';
import { select } from '../database/rows.ts';
import { NotFoundError, PlainError } from '../plain-error.ts';
import { digestOf } from '../store/hash.ts';
import { startThread } from '../work/start-thread.ts';
import { readTables, type SearchTables } from './search-tables.ts';
import type { SearchOutcome, SearchWork } from './search-thread.ts';

export interface FoundAsset extends SearchHit {
  format: string;
  hasPreview: boolean;
  why: string;
}

interface Builds {
  key: string;
  /** Labels by their place on the line of builds. */
  labels: Map<number, string>;
  sequences: Map<string, number>;
  newest: number;
}

interface Searchable {
  key: string;
  index: PathIndex;
  tables: SearchTables;
}

/** Tables of so many channels are kept in memory; those of others are read from their files again. */
const keptChannels = 3;
const freshMs = 200;

/**
 * Searches channels, each by tables that a thread makes when its builds have changed, and that lie in a file from then on:
 * a server that starts reads them within a second.
 */
export class ChannelSearches {
  private readonly pool: Pool;
  private readonly address: DatabaseAddress;
  private readonly place: string;
  private readonly ready = new Map<number, Searchable>();
  private readonly asked = new Map<number, { at: number; builds: Promise<Builds> }>();
  private readonly making = new Map<string, Promise<Searchable>>();

  constructor(pool: Pool, address: DatabaseAddress, folder: DataFolder) {
    this.pool = pool;
    this.address = address;
    this.place = join(folder.root, 'search');
    mkdirSync(this.place, { recursive: true, mode: 0o700 });
  }

  /**
   * @param build label of a build; null looks through all, each path as it was last
   * @param most hits that are counted at all
   * @returns the hits from `offset` on, sorted by path, and how many there are
   */
  async search(
    channelId: number,
    query: Query,
    { build, offset, limit, most }: { build: string | null; offset: number; limit: number; most: number },
  ): Promise<{ assets: FoundAsset[]; total: number; isCut: boolean }> {
    const builds = await this.builds(channelId);
    const sequence = build === null ? null : builds.sequences.get(build);
    if (sequence === undefined) throw new NotFoundError(`There is no build ${build ?? ''} in this channel.`);
    const { index, tables } = await this.searchable(channelId, builds.key);
    const { hits, total, isCut } = search(index, tables.states, query, sequence, { offset, limit, most });
    const assets = hits.map(({ number, span }): FoundAsset => {
      const path = index.path(number);
      const format = formats[tables.states.format[span] ?? 0]?.name ?? 'binary';
      const size = tables.states.figures.size?.[span] ?? NaN;
      const hash = tables.hashes.subarray(span * 32, span * 32 + 32);
      const last = Math.min(builds.newest, tables.states.last[span] ?? 0);
      return {
        path,
        build: builds.labels.get(sequence ?? last) ?? '',
        kind: formatOf(format).kind,
        format,
        size: Number.isNaN(size) ? null : size,
        hash: hash.some((byte) => byte > 0) ? Buffer.from(hash).toString('hex') : null,
        hasPreview: tables.previews[span] === 1,
        why: whyFound(query, path, (field) => tables.states.figures[field]?.[span]),
      };
    });
    return { assets, total, isCut };
  }

  /** To be called when a job has ended: what was known a moment ago may be wrong now. */
  forget(): void {
    this.asked.clear();
  }

  /** Makes the tables of every channel that has none for its builds as they are. */
  async warm(): Promise<void> {
    for (const { id } of await select<{ id: number }>(this.pool, 'SELECT id FROM channels')) {
      const { key, newest } = await this.builds(id);
      if (newest > 0) await this.searchable(id, key);
    }
  }

  /** While somebody types, one question after the other is answered from what was known a moment ago. */
  private builds(channelId: number): Promise<Builds> {
    const asked = this.asked.get(channelId);
    if (asked && Date.now() - asked.at < freshMs) return asked.builds;
    const builds = this.askForBuilds(channelId);
    this.asked.set(channelId, { at: Date.now(), builds });
    builds.catch(() => this.asked.delete(channelId));
    return builds;
  }

  private async askForBuilds(channelId: number): Promise<Builds> {
    // Jobs that unlock or remove change what lies in a build without indexing it again.
    const rows = await select<{ id: number; label: string; sequence: number; indexedAt: Date | null; changes: number }>(
      this.pool,
      `SELECT id, label, sequence, indexed_at AS indexedAt,
          (SELECT COUNT(*) FROM jobs j WHERE j.state = 'done' AND j.kind IN ('unlock', 'remove')) AS changes
         FROM builds WHERE channel_id = ? AND sequence IS NOT NULL ORDER BY sequence`,
      [channelId],
    );
    const state = rows.map(({ id, sequence, indexedAt, changes }) => `${id} ${sequence} ${indexedAt?.toISOString() ?? ''} ${changes}`);
    return {
      key: digestOf([readersVersion, formats.length, ...state].join('\n')).toString('hex'),
      sequences: new Map(rows.map(({ sequence, label }) => [label, sequence])),
      labels: new Map(rows.map(({ sequence, label }) => [sequence, label])),
      newest: rows.at(-1)?.sequence ?? 0,
    };
  } // prettier-ignore

  private async searchable(channelId: number, key: string): Promise<Searchable> {
    const known = this.ready.get(channelId);
    if (known?.key === key) return known;
    const name = `${channelId} ${key}`;
    const making = this.making.get(name) ?? this.make(channelId, key);
    this.making.set(name, making);
    try {
      const made = await making;
      this.ready.delete(channelId);
      this.ready.set(channelId, made);
      for (const oldest of this.ready.keys()) {
        if (this.ready.size <= keptChannels) break;
        this.ready.delete(oldest);
      }
      return made;
    } finally {
      this.making.delete(name);
    }
  }

  private async make(channelId: number, key: string): Promise<Searchable> {
    const file = join(this.place, `channel-${channelId}.tables`);
    let tables = await readTables(file, key);
    if (!tables) {
      await this.runThread({ address: this.address, channelId, file, key });
      tables = await readTables(file, key);
    }
    if (!tables) throw new PlainError('The search could not be made ready: its file was not written.');
    return { key, tables, index: new PathIndex(tables.paths) };
  }

  private runThread(work: SearchWork): Promise<void> {
    return new Promise((resolve, reject) => {
      const thread = startThread('search-thread', { workerData: work });
      thread.on('message', ({ error }: SearchOutcome) =>
        error === null ? resolve() : reject(new PlainError(`The search could not be made ready: ${error}`)),
      );
      thread.on('error', reject);
      thread.on('exit', () =>
        reject(new PlainError('The search could not be made ready: its thread ended.')),
      );
    });
  }
}
