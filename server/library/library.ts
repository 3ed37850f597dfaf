import type { Worker } from 'node:worker_threads';
import type { Query } from '../../core/search/query.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import type { PlacedBuild } from '../acquire/builds/builds.ts';
import { Lexicons } from './names/lexicons.ts';
import { fileFinder, type FindFile } from './references/find-file.ts';
import { NotFoundError } from '../platform/plain-error.ts';
import type { ChannelBuilds, ChannelTables, Searchable } from './search/channel-tables.ts';
import { findAssets, type FoundAssets, type Order } from './search/find-assets.ts';
import { startThread } from '../platform/threads/start-thread.ts';
import { OpenQuestions, type ThreadAnswer } from '../platform/threads/thread-questions.ts';
import type { ToLibrary } from './library-messages.ts';
import type { Question, Questions } from './questions.ts';

/** Folders and searches are looked at while somebody waits; the rest may take its time, and must not hold them up. */
const quick: ReadonlySet<string> = new Set(['folder', 'search', 'paths', 'readName']);

export interface AssetSearch {
  /** Label of a build; null looks through all, each path as it was last. */
  build: string | null;
  offset: number;
  limit: number;
  /** Hits that are counted at all. */
  most: number;
  order: Order;
}

/** What is in builds: searches of words are answered here, and whatever takes longer by threads. */
export class Library {
  private readonly pool: Pool;
  private readonly tables: ChannelTables;
  private readonly address: DatabaseAddress;
  private readonly lexicons: Lexicons;
  /** Channels with the state of their builds whose folders were made ready. */
  private readonly warmed = new Set<string>();
  private readonly threads = new Map<'quick' | 'deep', LibraryThread>();

  constructor(pool: Pool, address: DatabaseAddress, tables: ChannelTables) {
    this.pool = pool;
    this.tables = tables;
    this.address = address;
    this.lexicons = new Lexicons(pool);
  }

  /** @throws NotFoundError, QueryError */
  async search(channelId: number, query: Query, { build, ...request }: AssetSearch): Promise<FoundAssets> {
    const builds = await this.tables.builds(channelId);
    const sequence = build === null ? null : sequenceOf(builds, build);
    const searchable = await this.tables.get(channelId, builds);
    // What words do not narrow down would hold the server up.
    const isShort = query.words.some(({ text, isExcluded }) => !isExcluded && text.length > 1);
    const isSorted = request.order.by === 'path' && !request.order.isDescending;
    if (isShort && isSorted && query.contents.length === 0)
      return findAssets(searchable, builds, await this.lexicons.get(builds), {
        ...request,
        query,
        sequence,
      });
    const textFile = query.contents.length > 0 ? await this.tables.textFile(channelId, builds) : null;
    return this.threadFor('search').get(channelId, searchable, builds, sequence ?? builds.newest, {
      name: 'search',
      parameters: { request: { ...request, query, sequence }, textFile },
    });
  }

  /** @param build label of a build @throws NotFoundError */
  async get<Name extends keyof Questions>(
    name: Name,
    channelId: number,
    build: string,
    parameters: Questions[Name]['parameters'],
  ): Promise<Questions[Name]['answer']> {
    const builds = await this.tables.builds(channelId);
    const sequence = sequenceOf(builds, build);
    const searchable = await this.tables.get(channelId, builds);
    return this.threadFor(name).get(channelId, searchable, builds, sequence, {
      name,
      parameters,
    } as Question);
  }

  /** Finds what the files of a build name. */
  fileFinder(build: PlacedBuild): FindFile {
    return fileFinder(this.pool, build, async (from, reference) => {
      const [path = null] = await this.get('resolve', build.channelId, build.label, {
        from,
        texts: [reference],
      });
      return path;
    });
  }

  /** File of the texts of a channel, where a query looks into them. */
  async textFileFor(channelId: number, query: Query): Promise<string | null> {
    if (query.contents.length === 0) return null;
    return this.tables.textFile(channelId, await this.tables.builds(channelId));
  }

  /** Makes ready what people look at first: the tables, and the folders of each channel's newest build. */
  async warm(): Promise<void> {
    for (const channelId of await this.tables.warm()) {
      const builds = await this.tables.builds(channelId);
      const label = builds.labels.get(builds.newest);
      const key = `${channelId} ${builds.key}`;
      if (label === undefined || this.warmed.has(key)) continue;
      this.warmed.add(key);
      const order = { by: 'path', isDescending: false } as const;
      await this.get('folder', channelId, label, { path: '', offset: 0, limit: 1, order });
    }
  }

  async close(): Promise<void> {
    await Promise.all([...this.threads.values()].map((thread) => thread.close()));
  }

  private threadFor(name: keyof Questions): LibraryThread {
    const sort = quick.has(name) ? 'quick' : 'deep';
    const known = this.threads.get(sort);
    if (known && !known.isLost) return known;
    const thread = new LibraryThread(this.address, this.tables.storeFolder);
    this.threads.set(sort, thread);
    return thread;
  }
}

function sequenceOf(builds: ChannelBuilds, label: string): number {
  const sequence = builds.sequences.get(label);
  if (sequence === undefined) throw new NotFoundError(`There is no build ${label} in this channel.`);
  return sequence;
}

/** One thread with the questions that it has not answered yet. */
class LibraryThread {
  isLost = false;
  private readonly thread: Worker;
  private readonly told = new Map<number, string>();
  private readonly questions = new OpenQuestions(() => void this.close());

  constructor(address: DatabaseAddress, folder: string) {
    this.thread = startThread('library-thread', { workerData: { address, folder } });
    this.thread.on('message', (message: ThreadAnswer) => this.questions.settle(message));
    this.thread.on('error', (error) => this.lose(error.message));
    this.thread.on('exit', () => this.lose('its thread ended'));
  }

  get<Name extends keyof Questions>(
    channelId: number,
    { key, tables }: Searchable,
    builds: ChannelBuilds,
    sequence: number,
    question: Question & { name: Name },
  ): Promise<Questions[Name]['answer']> {
    if (this.told.get(channelId) !== key) {
      this.told.set(channelId, key);
      this.post({ type: 'tables', channelId, key, tables });
    }
    return this.questions.send((id) =>
      this.post({ type: 'question', id, channelId, key, builds, sequence, question }),
    );
  }

  async close(): Promise<void> {
    this.isLost = true;
    await this.thread.terminate();
  }

  private post(message: ToLibrary): void {
    this.thread.postMessage(message);
  }

  private lose(reason: string): void {
    this.isLost = true;
    this.questions.loseAll(`The library could not answer: ${reason}.`);
  }
}
