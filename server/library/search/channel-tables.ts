import { mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { readersVersion } from '../../../core/kinds/read.ts';
import { PathIndex } from '../../../core/search/path-index.ts';
import { LRUCache } from 'lru-cache';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';
import { NotFoundError, PlainError } from '../../platform/plain-error.ts';
import { digestOf } from '../../store/hash.ts';
import { startThread } from '../../platform/threads/start-thread.ts';
import { readTables, type SearchTables } from './search-tables.ts';
import type { SearchOutcome, SearchWork } from './search-work.ts';
import { tablesState, type TablesState } from './tables-state.ts';
import { areTextsThere } from './text-tables.ts';

/** The builds of a channel, as a search sees them. */
export interface ChannelBuilds {
  /** Tells one state of them from another. */
  key: string;
  /** What the key stands for. */
  state: TablesState;
  /** The same for what they hold, whatever facts are known of it. */
  textsKey: string;
  /** Whether the facts of the newest are read. */
  isRead: boolean;
  titleId: number;
  /** Counts up with every change of what people said of the title's names, links and families. */
  namesRevision: number;
  /** Labels by their place on the line of builds. */
  labels: Map<number, string>;
  sequences: Map<string, number>;
  newest: number;
}

export interface Searchable {
  key: string;
  index: PathIndex;
  tables: SearchTables;
}

/** Tables of so many channels are kept in memory; those of others are read from their files again. */
const keptChannels = 3;
const freshMs = 200;
/** Rows of the database that are done with are swept up early. */
const resourceLimits = { maxYoungGenerationSizeMb: 16 };

/**
 * What searches of channels look at: tables that a thread makes when builds have changed, and that lie in files from then
 * on, so that a server that starts reads them within a second.
 */
export class ChannelTables {
  private readonly pool: Pool;
  private readonly address: DatabaseAddress;
  private readonly folder: DataFolder;
  private readonly place: string;
  private readonly ready = new LRUCache<number, Searchable>({ max: keptChannels });
  private readonly asked = new Map<number, { at: number; builds: Promise<ChannelBuilds> }>();
  private readonly making = new Map<string, Promise<Searchable>>();
  private readonly texts = new Map<string, Promise<string>>();

  constructor(pool: Pool, address: DatabaseAddress, folder: DataFolder) {
    this.pool = pool;
    this.address = address;
    this.folder = folder;
    this.place = join(folder.root, 'search');
    mkdirSync(this.place, { recursive: true, mode: 0o700 });
  }

  /** Where contents are kept. */
  get storeFolder(): string {
    return this.folder.store;
  }

  /** Takes away what a crash left half written; what was begun of late somebody may be writing. */
  clearUnfinished(): void {
    for (const name of readdirSync(this.place)) {
      const file = join(this.place, name);
      const age = Date.now() - (statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? 0);
      if (name.endsWith('.new') && age > 3_600_000) rmSync(file, { force: true });
    }
  }

  /** While somebody types, one question after the other is answered from what was known a moment ago. */
  builds(channelId: number): Promise<ChannelBuilds> {
    const asked = this.asked.get(channelId);
    if (asked && Date.now() - asked.at < freshMs) return asked.builds;
    const builds = this.loadBuilds(channelId);
    this.asked.set(channelId, { at: Date.now(), builds });
    builds.catch(() => this.asked.delete(channelId));
    return builds;
  }

  /** To be called when a job has ended: what was known a moment ago may be wrong now. */
  forget(): void {
    this.asked.clear();
  }

  /** @param builds as they are */
  async get(channelId: number, builds: Pick<ChannelBuilds, 'key' | 'state'>): Promise<Searchable> {
    const known = this.ready.get(channelId);
    if (known?.key === builds.key) return known;
    const name = `${channelId} ${builds.key}`;
    const making = this.making.get(name) ?? this.make(channelId, builds);
    this.making.set(name, making);
    try {
      const made = await making;
      this.ready.set(channelId, made);
      return made;
    } finally {
      this.making.delete(name);
    }
  }

  /** The file of the tables that find texts by what they hold, made where it is not there. */
  async textFile(channelId: number, builds: ChannelBuilds): Promise<string> {
    const file = join(this.place, `channel-${channelId}-${builds.textsKey.slice(0, 16)}.texts`);
    if (areTextsThere(file)) return file;
    const making = this.texts.get(file) ?? this.makeTexts(channelId, builds, file);
    this.texts.set(file, making);
    try {
      return await making;
    } finally {
      this.texts.delete(file);
    }
  }

  /**
   * Makes the tables of every channel that has none for its builds as they are. Those of texts take longest, and wait until
   * facts are read, unless somebody looks for one.
   * @returns channels with builds
   */
  async warm(): Promise<number[]> {
    const warmed: number[] = [];
    for (const { id } of await select<{ id: number }>(this.pool, 'SELECT id FROM channels')) {
      const builds = await this.builds(id);
      if (builds.newest === 0) continue;
      await this.get(id, builds);
      if (builds.isRead) await this.textFile(id, builds);
      warmed.push(id);
    }
    return warmed;
  }

  private async loadBuilds(channelId: number): Promise<ChannelBuilds> {
    // Jobs that unlock or remove change what lies in a build without indexing it again.
    const rows = await select<{
      titleId: number;
      namesRevision: number;
      id: number | null;
      label: string;
      sequence: number;
      indexedAt: Date | null;
      factsVersion: number | null;
      factsRevision: number | null;
      changes: number;
    }>(
      this.pool,
      `SELECT t.id AS titleId, t.names_revision AS namesRevision, b.id, b.label, b.sequence, b.indexed_at AS indexedAt,
          b.facts_version AS factsVersion, IF(b.facts_version = ?, b.facts_revision, NULL) AS factsRevision,
          (SELECT COUNT(*) FROM jobs j WHERE j.state = 'done' AND j.kind IN ('unlock', 'remove', 'recipes')) AS changes
         FROM channels c JOIN titles t ON t.id = c.title_id
         LEFT JOIN builds b ON b.channel_id = c.id AND b.sequence IS NOT NULL
        WHERE c.id = ? ORDER BY b.sequence`,
      [readersVersion, channelId],
    );
    const [first] = rows;
    if (!first) throw new NotFoundError(`There is no channel ${channelId}.`);
    const builds = rows.flatMap(({ id, indexedAt, ...row }) =>
      id === null ? [] : [{ ...row, id, indexedAt: indexedAt?.toISOString() ?? '' }],
    );
    const state = tablesState({
      changes: first.changes,
      builds: builds.map(({ id, sequence, indexedAt, factsVersion, factsRevision }) => ({
        ...{ id, sequence, indexedAt, factsVersion, factsRevision },
      })),
    });
    const held = builds.map(({ id, sequence, indexedAt }) => `${id} ${sequence} ${indexedAt}`);
    return {
      key: digestOf(JSON.stringify(state)).toString('hex'),
      state,
      textsKey: digestOf([first.changes, ...held].join('\n')).toString('hex'),
      isRead: builds.at(-1)?.factsVersion !== null,
      titleId: first.titleId,
      namesRevision: first.namesRevision,
      sequences: new Map(builds.map(({ sequence, label }) => [label, sequence])),
      labels: new Map(builds.map(({ sequence, label }) => [sequence, label])),
      newest: builds.at(-1)?.sequence ?? 0,
    };
  }

  private async make(
    channelId: number,
    { key, state }: Pick<ChannelBuilds, 'key' | 'state'>,
  ): Promise<Searchable> {
    const file = this.fileOf(channelId);
    let tables = await readTables(file, key);
    if (!tables) {
      const known = this.ready.peek(channelId)?.tables ?? null;
      await this.runThread({ channelId, key, state, known, file, textFile: null });
      tables = await readTables(file, key);
    }
    if (!tables) throw new PlainError('The search could not be made ready: its file was not written.');
    return { key, tables, index: new PathIndex(tables.paths) };
  }

  private async makeTexts(
    channelId: number,
    { key, state }: ChannelBuilds,
    textFile: string,
  ): Promise<string> {
    await this.runThread({ channelId, key, state, known: null, file: this.fileOf(channelId), textFile });
    return textFile;
  }

  private fileOf(channelId: number): string {
    return join(this.place, `channel-${channelId}.tables`);
  }

  private runThread(work: Omit<SearchWork, 'address' | 'storeFolder'>): Promise<void> {
    const data: SearchWork = { ...work, address: this.address, storeFolder: this.folder.store };
    return new Promise((resolve, reject) => {
      const thread = startThread('search-thread', { workerData: data, resourceLimits });
      let outcome: SearchOutcome = { error: 'its thread ended.' };
      thread.on('message', (message: SearchOutcome) => (outcome = message));
      thread.on('error', reject);
      // What it held is free only then.
      thread.on('exit', () => {
        const { error } = outcome;
        if (error === null) resolve();
        else reject(new PlainError(`The search could not be made ready: ${error}`));
      });
    });
  }
}
