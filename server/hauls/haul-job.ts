import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import * as z from 'zod';
import type { HaulRecord } from '../../contract/hauls.ts';
import { asItLay } from '../../contract/haul-settings.ts';
import { plural } from '../../core/figures.ts';
import { recordPage } from '../../core/hauls/record-page.ts';
import { findBuild, nameOfTitle, findTitleOf, type PlacedBuild } from '../acquire/builds/builds.ts';
import type { DescribeFile } from '../decode/operations.ts';
import { ReaderPool } from '../decode/reader-pool.ts';
import type { ReadServices } from '../decode/read-job.ts';
import { defineJob, type JobContext } from '../jobs/define-job.ts';
import { applicationRoot } from '../platform/application-root.ts';
import { selectOne } from '../platform/database/rows.ts';
import { PlainError, messageOf } from '../platform/plain-error.ts';
import type { LocalContent } from '../store/local-content.ts';
import { copyContent } from './copy-content.ts';
import type { PlannedWriting } from './plan.ts';
import { putInPlace } from './put-in-place.ts';
import {
  countWaiting,
  findRun,
  finishRun,
  keepOutcomes,
  listResults,
  listWaiting,
  type FileOutcome,
  type Run,
} from './runs.ts';
import { keptRunFolder } from './target-folder.ts';

const paramsSchema = z.object({ runId: z.number().int() });
type Context = JobContext<z.infer<typeof paramsSchema>, ReadServices>;

const secondsOfOne = 300;
const mostOnTheWay = 24;
const fetchedAtOnce = 200;
const keepMs = 1000;
const stagingName = '.worvel-part';
const listedLines = 1000;

/** Writes a haul: each file once, whole or not at all, read again and compared. Goes on where it was when it is stopped. */
export const haulJob = defineJob<z.infer<typeof paramsSchema>, ReadServices>({
  kind: 'haul',
  params: paramsSchema,
  async run(context) {
    const { pool, params, meter, signal, threads, services, folder: data } = context;
    const run = await findRun(pool, params.runId);
    const folder = run.folder || keptRunFolder(data.root, run.id);
    const staging = join(folder, stagingName);
    await rm(staging, { recursive: true, force: true });
    await mkdir(staging, { recursive: true });
    const readers = new ReaderPool(services.processes, { readers: threads, seconds: secondsOfOne, signal });
    try {
      const { total, waiting } = await countWaiting(pool, run.id);
      meter.begin('writing files', total, null);
      const writer = new HaulWriter(context, run, readers, { folder, staging, done: total - waiting });
      await writer.writeAll();
      await writeRecord(context, run, folder);
      await finishRun(pool, run.id);
      return { report: await reportOf(context, run, folder) };
    } finally {
      readers.close();
      await rm(staging, { recursive: true, force: true });
    }
  },
});

/** What a build's files are read with. */
interface Surroundings {
  build: PlacedBuild;
  describe: DescribeFile;
  findFile: ReturnType<ReadServices['findFileIn']>;
}

class HaulWriter {
  private readonly onTheWay = new Set<Promise<void>>();
  private readonly builds = new Map<string, Promise<Surroundings>>();
  private outcomes: FileOutcome[] = [];
  private done: number;
  private bytes = 0;
  private lastKeptMs = Date.now();
  private readonly folder: string;
  private readonly staging: string;

  constructor(
    private readonly context: Context,
    private readonly run: Run,
    private readonly readers: ReaderPool,
    { folder, staging, done }: { folder: string; staging: string; done: number },
  ) {
    this.folder = folder;
    this.staging = staging;
    this.done = done;
  }

  async writeAll(): Promise<void> {
    const { pool, signal } = this.context;
    try {
      for (let from = 0; ;) {
        const batch = await listWaiting(pool, this.run.id, from, fetchedAtOnce);
        const last = batch.at(-1);
        if (!last) break;
        from = last.number + 1;
        const contents = await this.context.store.ensureLocal(batch.map(({ writing }) => writing.hash));
        for (const { number, writing } of batch) {
          signal.throwIfAborted();
          this.start(number, writing, contents.get(writing.hash) ?? null);
          if (this.onTheWay.size >= mostOnTheWay) await Promise.race(this.onTheWay);
          if (Date.now() - this.lastKeptMs > keepMs) await this.keep();
        }
      }
      await Promise.all(this.onTheWay);
    } finally {
      // What was written stays written, however this ends.
      await Promise.allSettled(this.onTheWay);
      await this.keep();
    }
  }

  private start(number: number, writing: PlannedWriting, content: LocalContent | null): void {
    const work = this.write(number, writing, content).then((outcome) => {
      this.outcomes.push({ number, ...outcome });
      this.bytes += outcome.files.reduce((sum, { bytes }) => sum + bytes, 0);
      this.context.count(++this.done, this.bytes);
    });
    const settled = work.finally(() => this.onTheWay.delete(settled));
    this.onTheWay.add(settled);
    // Whoever waits for it hears of a failure; until then it must not count as nobody's.
    settled.catch(() => undefined);
  }

  /** @throws when the work is stopped, or where nothing can be written any more */
  private async write(
    number: number,
    writing: PlannedWriting,
    content: LocalContent | null,
  ): Promise<Omit<FileOutcome, 'number'>> {
    const { store, signal } = this.context;
    const { path, format, from, stem } = writing;
    try {
      if (!content) throw new PlainError('the store has lost its content');
      if (format === asItLay) {
        const staged = await copyContent(content, join(this.staging, `${number}.part`), signal);
        const files = await putInPlace([staged], this.folder, stem, true);
        return { verdict: 'the same', sentence: '', files };
      }
      const { describe, findFile } = await this.surroundings(writing.build);
      const { settings } = this.run;
      const { written, reason } = await this.readers.run(
        {
          type: 'write',
          content: { path, format: from, content, ...describe(path, from) },
          writing: {
            kind: writing.kind,
            settings,
            stem: stem.slice(stem.lastIndexOf('/') + 1),
            space: writing.space,
            isNormal: writing.isNormal,
            worn: writing.worn.map((one) => ({ ...one, path: besideOf(path, one.path) })),
            leftOut: [],
            arrangement: besideSetUp(path, writing.arrangement),
            together: writing.together.map(({ path: other }) => besideOf(path, other)),
          },
          folder: this.staging,
          prefix: String(number),
        },
        async (reference) => {
          const file = await findFile(path, reference);
          return file === null ? null : ((await store.ensureLocal([file])).get(file) ?? null);
        },
      );
      if (!written)
        return { verdict: 'failed', sentence: sentence(reason ?? 'nothing came of it'), files: [] };
      const files = await putInPlace(written.files, this.folder, stem, true);
      const notes = written.notes.map(sentence).join(' ');
      return {
        verdict: written.proof.verdict,
        sentence: [written.proof.sentence, notes].filter(Boolean).join(' '),
        files,
      };
    } catch (error) {
      signal.throwIfAborted();
      // What has no place will have none for the next one either.
      if (isFull(error)) throw error;
      return { verdict: 'failed', sentence: sentence(messageOf(error)), files: [] };
    }
  }

  private surroundings(label: string): Promise<Surroundings> {
    const known = this.builds.get(label);
    if (known) return known;
    const { pool, services } = this.context;
    const making = (async () => {
      const build = await findBuild(pool, this.run.channelId, label);
      return {
        build,
        describe: await services.descriptionsOf(this.context, build),
        findFile: services.findFileIn(pool, build),
      };
    })();
    this.builds.set(label, making);
    return making;
  }

  private async keep(): Promise<void> {
    const outcomes = this.outcomes;
    this.outcomes = [];
    this.lastKeptMs = Date.now();
    await keepOutcomes(this.context.pool, this.run.id, outcomes);
  }
}

/** A path of the build as the asset would name it. */
function besideOf(from: string, path: string): string {
  const depth = from.split('/').length - 1;
  return `${'../'.repeat(depth)}${path}`;
}

/** A set-up with the paths in it as the model would name them. */
function besideSetUp(
  from: string,
  arrangement: PlannedWriting['arrangement'],
): PlannedWriting['arrangement'] {
  if (!arrangement) return null;
  const { name, setUp } = arrangement;
  return {
    name,
    setUp: {
      ...setUp,
      props: setUp.props.map((prop) => ({ ...prop, path: besideOf(from, prop.path) })),
      layers: setUp.layers.map((layer) => ({
        ...layer,
        path: layer.path === '' ? '' : besideOf(from, layer.path),
      })),
    },
  };
}

function sentence(text: string): string {
  const whole = `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
  return /[.!?]$/.test(whole) ? whole : `${whole}.`;
}

function isFull(error: unknown): boolean {
  return error instanceof PlainError && error.message.startsWith('There is no room left');
}

/** What was written, for programs and for people, so that it can be done again. */
async function writeRecord({ pool }: Context, run: Run, folder: string): Promise<void> {
  const results = await listResults(pool, run.id, '', 0, 1_000_000);
  const channel = await selectOne<{ name: string }>(pool, 'SELECT name FROM channels WHERE id = ?', [
    run.channelId,
  ]);
  const record: HaulRecord = {
    worvelHaul: 1,
    version: await versionOf(),
    name: run.name,
    title: await nameOfTitle(pool, await findTitleOf(pool, run.channelId)),
    channel: channel?.name ?? '',
    settings: run.settings,
    sources: results
      // A model that is set up is the same source once more.
      .filter(({ writing }) => writing.hash !== '' && !writing.arrangement)
      .flatMap(({ writing: { path, build, hash, together } }) =>
        [{ path, hash }, ...together].map((one) => ({ path: one.path, build, blake3: one.hash })),
      ),
    arrangements: run.settings.along.arrangements
      ? results.flatMap(({ writing: { path, arrangement } }) =>
          arrangement ? [{ path, ...arrangement }] : [],
        )
      : null,
    files: results.flatMap(({ path, verdict, sentence: said, files }) =>
      files.map((file) => ({ ...file, from: path, verdict, sentence: said })),
    ),
  };
  for (const [name, text] of [
    ['haul.json', `${JSON.stringify(record, null, 1)}\n`],
    ['haul.html', recordPage(record)],
  ] as const) {
    const part = join(folder, stagingName, name);
    await writeFile(part, text);
    await rename(part, join(folder, name));
  }
}

async function versionOf(): Promise<string> {
  const text = await readFile(join(applicationRoot, 'package.json'), 'utf8');
  return (JSON.parse(text) as { version: string }).version;
}

async function reportOf(
  { pool }: Context,
  run: Run,
  folder: string,
): Promise<{ summary: string; lines: string[] }> {
  const failed = await listResults(pool, run.id, 'failed', 0, listedLines);
  const differing = await listResults(pool, run.id, 'differs', 0, listedLines - failed.length);
  const { total } = await countWaiting(pool, run.id);
  return {
    summary: `${plural(total - failed.length, 'asset')} were written to ${folder} and read again: ${differing.length === 0 ? 'none differs' : `${plural(differing.length, 'asset')} differ in what their format cannot hold, or otherwise`}${failed.length > 0 ? `; ${plural(failed.length, 'asset')} could not be written` : ''}.`,
    lines: [...failed, ...differing].map(({ path, sentence: said }) => `${path}: ${said}`),
  };
}
