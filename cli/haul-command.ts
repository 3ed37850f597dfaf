import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import * as z from 'zod';
import type { Build } from '../contract/builds.ts';
import { pathListSchema } from '../contract/collecting.ts';
import {
  haulPlanSchema,
  haulRecordSchema,
  haulRunSchema,
  haulsSchema,
  namedAssetsSchema,
  profilesSchema,
  startedRunSchema,
  type HaulPlan,
  type HaulRequest,
} from '../contract/hauls.ts';
import { jobSchema } from '../contract/work.ts';
import { bytesText, plural } from '../core/figures.ts';
import { PlainError, messageOf } from '../server/platform/plain-error.ts';
import { dataPath, getJson, withApplication, type Connection } from './connection.ts';
import { findChannel, findTitle } from './find-title.ts';
import { settingsWith } from './haul-settings.ts';
import type { CommonOptions } from './options.ts';
import { clearProgress, showProgress } from './progress.ts';
import { UsageError } from './usage-error.ts';

export interface HaulOptions extends CommonOptions {
  title?: string;
  channel: string;
  build?: string;
  /** What players call it. */
  name?: string;
  search?: string;
  haul?: string;
  profile?: string;
  set: string[];
  out?: string;
  json?: boolean;
}

/** Prints the hauls of a channel. */
export async function listHaulsCommand({ title, channel, data, json }: HaulOptions): Promise<void> {
  const hauls = await withApplication(dataPath(data), async (application) => {
    const { id } = findChannel(await findTitle(application, named(title)), channel);
    return haulsSchema.parse(await getJson(application, `hauls?channel=${id}`));
  });
  for (const haul of hauls)
    process.stdout.write(
      json
        ? `${JSON.stringify(haul)}\n`
        : `${haul.name}: ${plural(haul.assets, 'asset')}, ${bytesText(haul.bytes)}\n`,
    );
}

/** Prints what would come out, and writes nothing. */
export async function planHaulCommand(options: HaulOptions): Promise<void> {
  const plan = await withApplication(dataPath(options.data), async (application) =>
    haulPlanSchema.parse(
      await getJson(application, 'hauls/plan', {
        body: { ...(await requestOf(application, options)), limit: 100_000 },
      }),
    ),
  );
  process.stdout.write(options.json ? `${JSON.stringify(plan)}\n` : planText(plan));
}

/** Writes a haul to a folder. Ends with 1 where something could not be written. */
export async function runHaulCommand(record: string | undefined, options: HaulOptions): Promise<void> {
  if (options.out === undefined)
    throw new UsageError('--out FOLDER is needed: an empty folder, or a new one.');
  const folder = resolve(options.out);
  const run = await withApplication(dataPath(options.data), async (application) => {
    const started = startedRunSchema.parse(
      record === undefined
        ? await getJson(application, 'hauls/run', {
            body: { ...(await requestOf(application, options)), folder },
          })
        : await getJson(application, 'hauls/again', { body: { record: await readRecord(record), folder } }),
    );
    const job = jobSchema.parse(await getJson(application, `work/${started.job}`));
    try {
      const ended = await application.follow(job, showProgress);
      if (!options.json && ended.report)
        process.stdout.write(`${[ended.report.summary, ...ended.report.lines].join('\n')}\n`);
    } finally {
      clearProgress();
    }
    return haulRunSchema.parse(await getJson(application, `hauls/runs/${started.run}`));
  });
  if (options.json) process.stdout.write(`${JSON.stringify(run)}\n`);
  if (run.failed > 0) process.exitCode = 1;
}

async function readRecord(file: string): Promise<unknown> {
  try {
    return haulRecordSchema.parse(JSON.parse(await readFile(file, 'utf8')));
  } catch (error) {
    if (error instanceof z.ZodError) {
      const [issue] = error.issues;
      throw new PlainError(
        `${file} is no record of a haul: ${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}`,
      );
    }
    throw new PlainError(`${file} cannot be read: ${messageOf(error)}`);
  }
}

async function requestOf(application: Connection, options: HaulOptions): Promise<HaulRequest> {
  const title = await findTitle(application, named(options.title));
  const channel = findChannel(title, options.channel);
  const kept = options.haul === undefined ? null : await haulNamed(application, channel.id, options.haul);
  const settings = await settingsOf(application, options, kept?.settings);
  if (kept) return { channel: channel.id, haul: kept.id, name: kept.name, assets: [], settings };
  const build = options.build ?? newestOf(channel.builds);
  const { paths, name } = await chosenPaths(application, channel.id, build, options);
  return {
    ...{ channel: channel.id, haul: null, name, settings },
    assets: paths.map((path) => ({ path, build })),
  };
}

async function chosenPaths(
  application: Connection,
  channel: number,
  build: string,
  { name, search }: HaulOptions,
): Promise<{ paths: string[]; name: string }> {
  if (name === undefined && search === undefined)
    throw new UsageError('Say what is to be taken out: --name TEXT, --search QUERY or --haul NAME.');
  const text = name ?? search ?? '';
  const query = new URLSearchParams({ channel: String(channel), build, text });
  const { paths } =
    name === undefined
      ? pathListSchema.parse(await getJson(application, `paths?${query}`))
      : namedAssetsSchema.parse(await getJson(application, `hauls/named?${query}`));
  if (paths.length === 0) throw new PlainError(`Nothing in build ${build} is called or found by “${text}”.`);
  return { paths, name: text };
}

async function haulNamed(application: Connection, channel: number, name: string) {
  const hauls = haulsSchema.parse(await getJson(application, `hauls?channel=${channel}`));
  const found = hauls.find((haul) => haul.name === name);
  if (!found) throw new PlainError(`There is no haul named ${name}.`);
  return found;
}

/** The haul's own, or a profile's, with what was said beside. @throws UsageError for what is no setting */
async function settingsOf(
  application: Connection,
  { profile, set }: HaulOptions,
  own: HaulRequest['settings'] | undefined,
): Promise<HaulRequest['settings']> {
  let settings: Record<string, unknown> = { ...own };
  if (profile !== undefined) {
    const known = profilesSchema.parse(await getJson(application, 'profiles'));
    const found = known.find(({ name }) => name === profile);
    if (!found)
      throw new UsageError(
        `There is no profile “${profile}”: ${known.map(({ name }) => name).join('; ')} are there.`,
      );
    settings = { ...found.settings };
  }
  return settingsWith(settings, set);
}

function newestOf(builds: readonly Build[]): string {
  const newest = builds.filter(({ sequence }) => sequence !== null).at(-1);
  if (!newest) throw new PlainError('This channel has no build yet.');
  return newest.label;
}

function named(title: string | undefined): string {
  if (title === undefined || title.trim() === '') throw new UsageError('--title NAME is needed.');
  return title;
}

function planText(plan: HaulPlan): string {
  const lines = plan.files.map(
    ({ target, bytes, format, path, losses, insteadOf, why }) =>
      `${target}  ${format === 'as it lay' ? '' : 'about '}${bytesText(bytes)}, ${format}, from ${path} (${why})${insteadOf ? `; ${insteadOf} is taken` : ''}${losses.length > 0 ? `; without ${losses.join(', ')}` : ''}`,
  );
  return `${[
    ...lines,
    ...plan.missing.map(
      ({ from, text, candidates }) =>
        `Missing: ${text}, named by ${from}${candidates.length > 0 ? `; it may be ${candidates.map(({ path }) => path).join(' or ')}` : ''}`,
    ),
    ...plan.refused.map(({ path, reason }) => `Not taken out: ${path}: ${reason}`),
    `${plural(plan.totalFiles, 'file')} of ${plural(plan.totalAssets, 'asset')}, about ${bytesText(plan.bytes)}, in some ${Math.max(1, Math.round(plan.seconds))} s. ${plan.clashes === 0 ? 'No names clash' : `${plural(plan.clashes, 'name')} told apart by numbers`}.`,
    ...plan.losses.map(({ what, assets }) => `${plural(assets, 'asset')} without ${what}`),
  ].join('\n')}\n`;
}
