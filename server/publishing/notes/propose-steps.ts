import type { Build } from '../../../contract/builds.ts';
import { noteStepSchema, type NoteStep, type StepOf } from '../../../contract/notes.ts';
import type { HaulSettings } from '../../../contract/haul-settings.ts';
import { settingsDifferences } from '../../../core/hauls/settings-differences.ts';
import { findBuild, findTitleOf, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { findAt } from '../../library/assets/assets.ts';
import { findPaths } from '../../library/find-paths.ts';
import { planOfRequest, type HaulContext } from '../../hauls/begin-haul.ts';
import { listProfiles } from '../../hauls/profiles.ts';
import { findRun, listResults, newestRunOf } from '../../hauls/runs.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { haulSettingsSchema } from '../../../contract/haul-settings.ts';
import { correctionsOf } from './corrections.ts';
import { describedBy } from './described-by.ts';
import { keyNamesOf } from './key-names.ts';

const mostResults = 20_000;

/**
 * The steps that the product knows of an asset, so that nobody types them: how its build was brought in, what describes it, the
 * search that found it, where it lies, what was corrected of it, and how it was taken out last.
 * @throws NotFoundError where the build has no such asset
 */
export async function proposeSteps(
  services: HaulContext,
  channelId: number,
  label: string,
  path: string,
  query: string,
): Promise<NoteStep[]> {
  const { pool, library } = services;
  const build = await findBuild(pool, channelId, label);
  const titleId = await findTitleOf(pool, channelId);
  const found = await findAt(pool, build, path);
  if (!found) throw new NotFoundError(`The build ${label} has no asset at ${path}.`);
  const described = await describedBy(pool, titleId, path);
  const steps: unknown[] = [
    await bringInStep(pool, titleId, build),
    ...described.map((one) => ({ does: 'describe', ...one })),
  ];
  if (query !== '') {
    const { paths } = await findPaths(library, channelId, label, { text: query });
    if (paths.includes(path)) steps.push({ does: 'search', build: label, query, found: paths.length });
  }
  steps.push({ does: 'find', build: label, path, blake3: found.hash });
  for (const correction of await correctionsOf(pool, channelId, path))
    steps.push({ does: 'correct', ...correction });
  steps.push(await takeOutStep(services, build, path));
  return steps.map((step) => noteStepSchema.parse(step));
}

/** How a build was brought in, as a step. */
export async function bringInStep(
  database: Queryable,
  titleId: number,
  build: Build,
): Promise<Omit<StepOf<'bring in'>, 'words'>> {
  const { platform, contentRoot, choice, formatVersions } = build.settings;
  return {
    ...{ does: 'bring in', build: build.label, platform, contentRoot, choice, formatVersions },
    keys: await keyNamesOf(database, titleId, build),
  };
}

/** As it was taken out last, with its files where that was of this content; by the usual settings where it never was. */
async function takeOutStep(services: HaulContext, build: PlacedBuild, path: string): Promise<unknown> {
  const { pool } = services;
  const runId = await newestRunOf(pool, build.channelId, path);
  const settings = runId === null ? haulSettingsSchema.parse({}) : (await findRun(pool, runId)).settings;
  const step = { does: 'take out', build: build.label, paths: [path], settings };
  const profile = profileOf(await listProfiles(pool), settings);
  if (runId === null) return { ...step, profile };
  const plan = await planOfRequest(services, {
    ...{ channel: build.channelId, haul: null, name: path, settings },
    assets: [{ path, build: build.label }],
  });
  const results = await listResults(pool, runId, '', 0, mostResults);
  const written = plan.writings.map((wanted) =>
    results.find(
      ({ path: from, writing, files }) =>
        from === wanted.path &&
        writing.hash === wanted.hash &&
        writing.target === wanted.target &&
        files.length > 0,
    ),
  );
  const isWhole = written.every((one) => one !== undefined);
  return { ...step, profile, files: isWhole ? written.flatMap((one) => one?.files ?? []) : [] };
}

/** The name of the profile that has these settings; empty where none has. */
function profileOf(
  profiles: readonly { name: string; settings: HaulSettings }[],
  settings: HaulSettings,
): string {
  return profiles.find((one) => settingsDifferences(one.settings, settings).length === 0)?.name ?? '';
}
