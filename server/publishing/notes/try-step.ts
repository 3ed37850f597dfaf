import type { NoteStep, StepOf, StepOutcome } from '../../../contract/notes.ts';
import { plural } from '../../../core/figures.ts';
import { buildAt, findBuild, listProblems, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { role } from '../../acquire/builds/spans.ts';
import { findAt, pathsOfContent } from '../../library/assets/assets.ts';
import { findPaths } from '../../library/find-paths.ts';
import { beginHaul, type HaulContext } from '../../hauls/begin-haul.ts';
import { selectOne, type Queryable } from '../../platform/database/rows.ts';
import { messageOf, NotFoundError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';
import { correctionsOf } from './corrections.ts';
import { containersAnd, listDescribed } from './described-by.ts';
import { bringInStep } from './propose-steps.ts';

/** Where a step is tried. */
export interface Trial extends HaulContext {
  channelId: number;
  titleId: number;
  /** Instead of the build that the step names; empty for that one. */
  build: string;
  /** Where what is taken out goes; empty keeps it with the data. */
  target: string;
}

/** Tries a step again: whether it fits, why not, and as what it would. What takes time is put into the queue. */
export async function tryStep(trial: Trial, step: NoteStep): Promise<StepOutcome> {
  switch (step.does) {
    case 'bring in':
      return tryBringIn(trial, step);
    case 'find':
      return tryFind(trial, step);
    case 'describe':
      return tryDescribe(trial, step);
    case 'search':
      return trySearch(trial, step);
    case 'correct':
      return tryCorrect(trial, step);
    case 'take out':
      return tryTakeOut(trial, step);
    case 'by hand':
      return outcome('by hand', 'This is for a person to do.');
  }
}

function outcome(
  verdict: StepOutcome['verdict'],
  sentence: string,
  proposed: NoteStep | null = null,
  haulRun: number | null = null,
): StepOutcome {
  return { verdict, sentence, proposed, haulRun };
}

/** The build that a step is tried on, or why there is none. */
async function buildOf(
  { pool, channelId, build }: Trial,
  step: { build: string },
): Promise<PlacedBuild | StepOutcome> {
  const label = build || step.build;
  if (label === '') return outcome('does not fit', 'It does not say of which build.');
  try {
    return await findBuild(pool, channelId, label);
  } catch (error) {
    if (error instanceof NotFoundError) return outcome('does not fit', messageOf(error));
    throw error;
  }
}

const isOutcome = (value: PlacedBuild | StepOutcome): value is StepOutcome => 'verdict' in value;

/** A step as proposed, where it is another one at all. */
function ifOther<Step extends NoteStep>(step: Step, proposed: Step): Step | null {
  return JSON.stringify(step) === JSON.stringify(proposed) ? null : proposed;
}

async function tryBringIn(trial: Trial, step: StepOf<'bring in'>): Promise<StepOutcome> {
  const build = await buildOf(trial, step);
  if (isOutcome(build)) return build;
  const now = await bringInStep(trial.pool, trial.titleId, build);
  const missing = step.keys.filter((key) => !now.keys.includes(key));
  const said: StepOf<'bring in'> = { ...step, ...now };
  const [first] = missing;
  if (first !== undefined)
    return outcome(
      'does not fit',
      `The key “${first}” is not among those of build ${build.label}${missing.length > 1 ? `, nor ${plural(missing.length - 1, 'other')}` : ''}.`,
      ifOther(step, said),
    );
  const differing = (['platform', 'contentRoot', 'choice', 'formatVersions'] as const).filter(
    (name) => JSON.stringify(step[name]) !== JSON.stringify(now[name]),
  );
  const names = {
    platform: 'platform',
    contentRoot: 'content root',
    choice: 'archives chosen',
    formatVersions: 'format versions',
  };
  if (differing.length > 0)
    return outcome(
      'does not fit',
      `Build ${build.label} was brought in with other settings: ${differing.map((name) => names[name]).join(', ')}.`,
      ifOther(step, said),
    );
  return outcome(
    'fits',
    `Build ${build.label} is here, brought in as the note says.`,
    ifOther(step, { ...said, keys: step.keys }),
  );
}

async function tryFind(trial: Trial, step: StepOf<'find'>): Promise<StepOutcome> {
  const build = await buildOf(trial, step);
  if (isOutcome(build)) return build;
  const found = await findAt(trial.pool, build, step.path);
  const said = { ...step, build: build.label, blake3: found?.hash ?? step.blake3 };
  if (!found) {
    const { sentence, path } = await whereIs(trial, build, step);
    return outcome('does not fit', sentence, path === null ? null : await atPath(trial, build, step, path));
  }
  if (step.blake3 === null || found.hash === step.blake3)
    return outcome('fits', 'It lies there.', ifOther(step, said));
  return build.label === step.build
    ? outcome(
        'does not fit',
        `Build ${build.label} has another content here than the one that the note names.`,
        said,
      )
    : outcome('differs', `It lies there, with another content than in build ${step.build}.`, said);
}

async function atPath(
  { pool }: Trial,
  build: PlacedBuild,
  step: StepOf<'find'>,
  path: string,
): Promise<StepOf<'find'>> {
  return { ...step, build: build.label, path, blake3: (await findAt(pool, build, path))?.hash ?? null };
}

/** Where an asset has gone to that is not where the note says, and why. */
async function whereIs(
  trial: Trial,
  build: PlacedBuild,
  { path, blake3 }: { path: string; blake3: string | null },
): Promise<{ sentence: string; path: string | null }> {
  const { pool, library } = trial;
  const hash = blake3 ?? (await lastContent(pool, build, path));
  const [moved] = hash === null ? [] : await pathsOfContent(pool, build, hash);
  if (moved !== undefined) return { sentence: `It has moved to ${moved}.`, path: moved };
  const above = new Set(containersAnd(path));
  const locked = (await listProblems(pool, build.id)).find((one) => one.locked && above.has(one.path));
  if (locked)
    return { sentence: `${locked.path} is locked in build ${build.label}: its key is missing.`, path: null };
  const name = path.replace(/^.*\//, '');
  const { paths } = await findPaths(library, build.channelId, build.label, {
    text: `"${name.replaceAll('"', '')}"`,
  });
  const same = paths.filter((one) => one.endsWith(`/${name}`) || one === name);
  const [only] = same;
  if (only !== undefined && same.length === 1)
    return { sentence: `It is gone; ${only} has the same name, and another content.`, path: only };
  const last = await lastBuild(pool, build, path);
  return {
    sentence: `Build ${build.label} has no ${path}${last === null ? '' : `; build ${last} had it last`}.`,
    path: null,
  };
}

async function lastContent(
  database: Queryable,
  { channelId }: PlacedBuild,
  path: string,
): Promise<string | null> {
  const row = await selectOne<{ hash: Buffer | null }>(
    database,
    `SELECT hash FROM asset_spans WHERE channel_id = ? AND path_digest = ? AND role = ?
      ORDER BY first_sequence DESC LIMIT 1`,
    [channelId, pathDigest(path), role.file],
  );
  return row?.hash?.toString('hex') ?? null;
}

async function lastBuild(
  database: Queryable,
  { channelId, sequence }: PlacedBuild,
  path: string,
): Promise<string | null> {
  const row = await selectOne<{ last: number | null }>(
    database,
    'SELECT MAX(last_sequence) AS last FROM asset_spans WHERE channel_id = ? AND path_digest = ? AND last_sequence < ?',
    [channelId, pathDigest(path), sequence],
  );
  return row?.last ? ((await buildAt(database, channelId, row.last))?.label ?? null) : null;
}

async function tryDescribe({ pool, titleId }: Trial, step: StepOf<'describe'>): Promise<StepOutcome> {
  const known = await listDescribed(pool, titleId);
  const own = known.find(({ what, name }) => what === step.what && name === step.name);
  if (!own) return outcome('does not fit', `The title has no ${step.what} “${step.name}”.`);
  if (own.sha256 === step.sha256) return outcome('fits', 'It is as the note says.');
  return outcome(
    'does not fit',
    `The ${step.what} “${step.name}” is another version than the one that the note names.`,
    {
      ...step,
      sha256: own.sha256,
    },
  );
}

async function trySearch(trial: Trial, step: StepOf<'search'>): Promise<StepOutcome> {
  const build = await buildOf(trial, step);
  if (isOutcome(build)) return build;
  const { paths } = await findPaths(trial.library, trial.channelId, build.label, { text: step.query });
  const said = { ...step, build: build.label, found: paths.length };
  if (paths.length === step.found)
    return outcome('fits', `It finds ${plural(paths.length, 'asset')}.`, ifOther(step, said));
  const sentence = `It finds ${plural(paths.length, 'asset')}, where the note says ${step.found}.`;
  return outcome(paths.length > 0 && build.label !== step.build ? 'differs' : 'does not fit', sentence, said);
}

async function tryCorrect({ pool, channelId }: Trial, step: StepOf<'correct'>): Promise<StepOutcome> {
  const own = (await correctionsOf(pool, channelId, step.path)).find(
    ({ subject, where }) => subject === step.subject && where === step.where,
  );
  if (!own) return outcome('does not fit', 'Nobody has said this here.');
  if (own.is === step.is) return outcome('fits', 'It is said here, too.');
  return outcome('does not fit', `Here it is said to be ${own.is ?? 'nothing'}.`, { ...step, is: own.is });
}

async function tryTakeOut(trial: Trial, step: StepOf<'take out'>): Promise<StepOutcome> {
  const build = await buildOf(trial, step);
  if (isOutcome(build)) return build;
  const paths: string[] = [];
  const gone: string[] = [];
  for (const path of step.paths) {
    if (await findAt(trial.pool, build, path)) {
      paths.push(path);
      continue;
    }
    const { sentence, path: moved } = await whereIs(trial, build, { path, blake3: null });
    gone.push(`${path}: ${sentence}`);
    if (moved !== null) paths.push(moved);
  }
  const [first] = gone;
  if (first !== undefined)
    return outcome(
      'does not fit',
      `${first}${gone.length > 1 ? ` ${plural(gone.length - 1, 'other')} cannot be found either.` : ''}`,
      // Without sums: nothing was taken out.
      paths.length === 0 ? null : { ...step, build: build.label, paths, files: [] },
    );
  try {
    const { run } = await beginHaul(
      trial,
      {
        ...{ channel: trial.channelId, haul: null, settings: step.settings },
        name: `Note on ${step.paths[0] ?? ''}`.slice(0, 200),
        assets: paths.map((path) => ({ path, build: build.label })),
      },
      trial.target,
    );
    return outcome('running', 'It is being taken out.', null, run);
  } catch (error) {
    return outcome('does not fit', messageOf(error));
  }
}
