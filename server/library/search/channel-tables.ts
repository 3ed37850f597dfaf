import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
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

/** The builds of a channel, as a search sees them. */
export interface ChannelBuilds {
  /** Tells one state of them from another. */
  key: string;
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
/** Of the form that the tables have in files. */
const tablesVersion = 2;

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

  /** @param key of the builds as they are */
  async get(channelId: number, key: string): Promise<Searchable> {
    const known = this.ready.get(channelId);
    if (known?.key === key) return known;
    const name = `${channelId} ${key}`;
    const making = this.making.get(name) ?? this.make(channelId, key);
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
  async textFile(channelId: number, { key, textsKey }: ChannelBuilds): Promise<string> {
    const file = join(this.place, `channel-${channelId}-${textsKey.slice(0, 16)}.texts`);
    if (existsSync(file)) return file;
    const making = this.texts.get(file) ?? this.makeTexts(channelId, key, file);
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
      await this.get(id, builds.key);
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
      changes: number;
    }>(
      this.pool,
      `SELECT t.id AS titleId, t.names_revision AS namesRevision, b.id, b.label, b.sequence, b.indexed_at AS indexedAt,
          b.facts_version AS factsVersion,
          (SELECT COUNT(*) FROM jobs j WHERE j.state = 'done' AND j.kind IN ('unlock', 'remove', 'recipes')) AS changes
         FROM channels c JOIN titles t ON t.id = c.title_id
         LEFT JOIN builds b ON b.channel_id = c.id AND b.sequence IS NOT NULL
        WHERE c.id = ? ORDER BY b.sequence`,
      [channelId],
    );
    const [first] = rows;
    if (!first) throw new NotFoundError(`There is no channel ${channelId}.`);
    const builds = rows.filter(({ id }) => id !== null);
    const held = builds.map(
      ({ id, sequence, indexedAt, changes }) =>
        `${id} ${sequence} ${indexedAt?.toISOString() ?? ''} ${changes}`,
    );
    const read = builds.map(({ factsVersion }) => String(factsVersion));
    return {
      key: digestOf([readersVersion, tablesVersion, ...held, ...read].join('\n')).toString('hex'),
      textsKey: digestOf([tablesVersion, ...held].join('\n')).toString('hex'),
      isRead: builds.at(-1)?.factsVersion !== null,
      titleId: first.titleId,
      namesRevision: first.namesRevision,
      sequences: new Map(builds.map(({ sequence, label }) => [label, sequence])),
      labels: new Map(builds.map(({ sequence, label }) => [sequence, label])),
      newest: builds.at(-1)?.sequence ?? 0,
    };
  }

  private async make(channelId: number, key: string): Promise<Searchable> {
    const file = this.fileOf(channelId);
    let tables = await readTables(file, key);
    if (!tables) {
      await this.runThread({ channelId, key, file, textFile: null });
      tables = await readTables(file, key);
    }
    if (!tables) throw new PlainError('The search could not be made ready: its file was not written.');
    return { key, tables, index: new PathIndex(tables.paths) };
  }

  private async makeTexts(channelId: number, key: string, textFile: string): Promise<string> {
    await this.runThread({ channelId, key, file: this.fileOf(channelId), textFile });
    const begin = `channel-${channelId}-`;
    for (const name of readdirSync(this.place))
      if (name.startsWith(begin) && name.endsWith('.texts') && join(this.place, name) !== textFile)
        rmSync(join(this.place, name), { force: true });
    return textFile;
  }

  private fileOf(channelId: number): string {
    return join(this.place, `channel-${channelId}.tables`);
  }

  private runThread(work: Omit<SearchWork, 'address' | 'storeFolder'>): Promise<void> {
    const data: SearchWork = { ...work, address: this.address, storeFolder: this.folder.store };
    return new Promise((resolve, reject) => {
      const thread = startThread('search-thread', { workerData: data });
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
