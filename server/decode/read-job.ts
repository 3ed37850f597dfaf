import * as z from 'zod';
import { plural } from '../../core/figures.ts';
import {
  findBuildOf,
  isNewestBuild,
  newestBuild,
  placedBefore,
  type PlacedBuild,
} from '../acquire/builds/builds.ts';
import { bumpFacts, finishReading, isRead } from '../acquire/builds/reading-state.ts';
import { defineJob, type JobContext } from '../jobs/define-job.ts';
import type { DescribeFile } from './operations.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Pool } from '../platform/database/pool.ts';
import { forgetProblems, listReaderProblems } from './build-problems.ts';
import { keepFacts, readFactsOf, type FactsSource, type FindFile, type ReadContent } from './read-facts.ts';
import { ReaderPool } from './reader-pool.ts';
import type { DecodeServices } from './reader-processes.ts';
import { countUnread, findStale, findUnread, groupsOf, type Unread } from './unread.ts';

/** What reading a build needs of those who come after it. */
export interface ReadServices extends DecodeServices {
  /** Finds what files of a build name. */
  findFileIn(pool: Pool, build: PlacedBuild): FindFile;
  /** What the team of a build's title says of how files are built. */
  descriptionsOf(where: { pool: Pool; folder: DataFolder }, build: PlacedBuild): Promise<DescribeFile>;
}

type Context = JobContext<null, ReadServices>;

/** So many are on their way at once: readers never wait, and what is in memory stays little. */
const mostOnTheWay = 64;
const savedAtOnce = 400;
const saveMs = 1500;
/** What was made of earlier facts is made anew after so long, the next time after half as long again. */
const firstBumpMs = 2000;
const longestBumpMs = 60_000;

/**
 * Reads the facts of all that a build holds and that was never read: first what is new or changed, then the rest. What was
 * read stays when it is stopped.
 */
export const readJob = defineJob<null, ReadServices>({
  kind: 'read',
  params: z.null(),
  async run(context) {
    const { pool, store, meter, signal, threads, services } = context;
    const build = await findBuildOf(pool, context.buildId ?? 0);
    const before = await placedBefore(pool, build);
    const readers = new ReaderPool(services.processes, { readers: threads, signal });
    const source = {
      pool,
      store,
      readers,
      findFile: services.findFileIn(pool, build),
      describe: await services.descriptionsOf(context, build),
    };
    try {
      await store.mend();
      const groups = groupsOf(build, before);
      const stale = await findStale(pool, build, source.findFile, await isNewestBuild(pool, build));
      const counts = await Promise.all(groups.map((group) => countUnread(pool, group)));
      const left = stale.length + counts.reduce((sum, { unread }) => sum + unread, 0);
      // What was read before it was interrupted counts, so that it goes on where it was.
      const [{ files, unread } = { files: 0, unread: 0 }] = counts;
      const done = files - unread;
      meter.begin('reading facts', done + left, null);
      context.count(done, 0);
      const reading = new Reading(context, source, build, done);
      for (const [at, group] of groups.entries()) {
        // What names files that changed has changed too.
        if (at === 1) await reading.addAll(stale);
        const { unread } = counts[at] ?? { unread: 0 };
        if (unread === 0) continue;
        for await (const items of findUnread(pool, group, unread)) {
          signal.throwIfAborted();
          await reading.addAll(items);
          // What comes up again among the next paths is known by then.
          await reading.save();
        }
      }
      if (groups.length === 1) await reading.addAll(stale);
      await reading.save();
      // What builds before it have too was listed there, and what was read when the job was killed was listed nowhere.
      await listReaderProblems(pool, build);
      await finishReading(pool, build.id, build.indexedAt ?? '');
      await readNewestAgain(context, source, build.channelId, done + left);
      return { report: { summary: `Facts of ${plural(left, 'file')} were read.`, lines: [] } };
    } finally {
      readers.close();
    }
  },
});

/**
 * Two builds of a channel may be read at once, by two machines: what one of them reads with the files of the older build comes
 * after the other has looked for that. So whoever ends looks once more at the newest build, where that has been read.
 * @param done files that were read for the job's own build, so that its progress does not go back
 */
async function readNewestAgain(
  context: Context,
  source: FactsSource,
  channelId: number,
  done: number,
): Promise<void> {
  const { pool, services } = context;
  const newest = await newestBuild(pool, channelId);
  if (!isRead(newest)) return;
  const findFile = services.findFileIn(pool, newest);
  const stale = await findStale(pool, newest, findFile, true);
  if (stale.length === 0) return;
  const reading = new Reading(context, { ...source, findFile }, newest, done);
  await reading.addAll(stale);
  await reading.save();
  await bumpFacts(pool, newest.id);
}

/** Contents on their way through the readers, and from there into the tables. */
class Reading {
  private readonly context: Context;
  private readonly source: FactsSource;
  private readonly build: PlacedBuild;
  private readonly onTheWay = new Set<Promise<void>>();
  private read: ReadContent[] = [];
  private done: number;
  private lastSaveMs = Date.now();
  private lastBumpMs = Date.now();
  private bumpMs = firstBumpMs;

  /** @param done files that had been read before */
  constructor(context: Context, source: FactsSource, build: PlacedBuild, done: number) {
    this.context = context;
    this.source = source;
    this.build = build;
    this.done = done;
  }

  async addAll(items: readonly Unread[]): Promise<void> {
    for (let from = 0; from < items.length; from += savedAtOnce) {
      const batch = items.slice(from, from + savedAtOnce);
      const contents = await this.source.store.ensureLocal(batch.map(({ hash }) => hash));
      for (const item of batch) {
        const reading = readFactsOf(this.source, item, contents.get(item.hash)).then((outcome) => {
          this.read.push(outcome);
          this.done += item.files;
          this.context.count(this.done, 0);
        });
        const settled = reading.finally(() => this.onTheWay.delete(settled));
        this.onTheWay.add(settled);
        // Whoever waits for it below hears of a failure; until then it must not count as nobody's.
        settled.catch(() => undefined);
        if (this.onTheWay.size >= mostOnTheWay) await Promise.race(this.onTheWay);
        if (this.read.length >= savedAtOnce || Date.now() - this.lastSaveMs > saveMs) await this.keep();
      }
    }
  }

  /** Waits for what is on its way, and writes it down. */
  async save(): Promise<void> {
    await Promise.all(this.onTheWay);
    await this.keep();
  }

  private async keep(): Promise<void> {
    const read = this.read;
    this.read = [];
    this.lastSaveMs = Date.now();
    if (read.length === 0) return;
    const { pool, store } = this.source;
    const hashes = read.map(({ hash }) => Buffer.from(hash, 'hex'));
    await forgetProblems(pool, this.build, hashes);
    await keepFacts(pool, store, read, await isNewestBuild(pool, this.build));
    const failed = read.filter(({ reason }) => reason !== null).map(({ hash }) => Buffer.from(hash, 'hex'));
    await listReaderProblems(pool, this.build, failed);
    if (Date.now() - this.lastBumpMs < this.bumpMs) return;
    this.lastBumpMs = Date.now();
    this.bumpMs = Math.min(longestBumpMs, this.bumpMs * 1.5);
    await bumpFacts(pool, this.build.id);
  }
}
