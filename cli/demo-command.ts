import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type * as z from 'zod';
import { intakeRequestSchema, type IntakeRequest } from '../contract/builds.ts';
import { followerRequestSchema } from '../contract/ways-in.ts';
import { firstBuilds, rights, writeBuild, type builds } from '../demo/mossline-ferry.ts';
import { serveStandIns, type StandIns } from '../demo/stand-ins/serve-stand-ins.ts';
import { firstLexicon, firstRecipes } from '../demo/first-names.ts';
import { firstSheets } from '../demo/first-sheets.ts';
import { lexiconChangeSchema } from '../contract/names.ts';
import { firstEntries } from '../demo/first-entries.ts';
import { firstNotes } from '../demo/first-notes.ts';
import { createJob } from '../server/acquire/builds/index-jobs.ts';
import { Runner } from '../server/jobs/runner.ts';
import { findBuild, findChannel, findTitleOf, listTitles } from '../server/acquire/builds/builds.ts';
import { startReading } from '../server/acquire/builds/reading-state.ts';
import { createEntry, listEntries } from '../server/publishing/entries/entries.ts';
import { saveNote } from '../server/publishing/notes/notes.ts';
import { change } from '../server/platform/database/rows.ts';
import { changeLexicon } from '../server/library/names/lexicons.ts';
import { readRecipes, saveRecipes } from '../server/library/recipes/recipes.ts';
import { addRecipesJob } from '../server/library/recipes/recipes-job.ts';
import { readSheets, saveSheets } from '../server/library/formats/sheets.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { addFollower, changeFollower, listFollowers } from '../server/acquire/ways-in/followers.ts';
import { clearProgress, showProgress } from './progress.ts';
import { dataPath } from './connection.ts';
import { serve, type ServeOptions } from './serve-command.ts';
import { sendRequest } from './server-client.ts';
import { UsageError } from './usage-error.ts';
import type { Session } from './with-database.ts';

const title = 'Mossline Ferry';
const demoTeam = 'the demo team';

/**
 * Makes the builds of the invented game where they are missing, indexes them once, starts the stand-ins for outside services,
 * and serves. `demo publish` has the depot publish the next build.
 */
export async function demoCommand(verb: string | undefined, { port, data }: ServeOptions): Promise<void> {
  if (verb === 'publish') await publishNext(port);
  else if (verb === undefined) await serve(dataPath(data), port, (session) => prepareDemo(session, port));
  else throw new UsageError('After “demo” comes nothing, or publish.');
}

async function publishNext(port: number): Promise<void> {
  try {
    const { status } = await sendRequest(`http://127.0.0.1:${port + 1}/publish`, { body: {} });
    if (status !== 303) throw new PlainError(`The depot answered with ${status}.`);
  } catch (error) {
    if (error instanceof PlainError) throw error;
    throw new PlainError('The demo does not run: its depot cannot be reached.');
  }
  process.stdout.write('The depot has published its next build, where it had one.\n');
}

async function prepareDemo(session: Session, port: number): Promise<StandIns> {
  await indexDemo(session);
  const standIns = await serveStandIns(join(session.folder.root, 'demo'), port + 1);
  await followStandIns(session, standIns);
  process.stdout.write(`The depot of the invented game is at ${standIns.depot}\n`);
  return standIns;
}

/** Follows the depot, and has the device at hand. */
async function followStandIns({ pool }: Session, { depot, device, keyPost }: StandIns): Promise<void> {
  const followed = new Set((await listFollowers(pool)).map(({ url }) => url));
  const add = async (request: z.input<typeof followerRequestSchema>): Promise<number | null> =>
    followed.has(request.url) ? null : (await addFollower(pool, followerRequestSchema.parse(request))).id;
  await add({ title, kind: 'depot', url: depot, keyPostUrl: keyPost, intervalSeconds: 15 });
  const id = await add({ title, channel: 'disc', kind: 'device', url: device, intervalSeconds: 3600 });
  if (id !== null) await changeFollower(pool, id, { paused: true });
}

async function indexDemo(session: Session): Promise<void> {
  const known = (await listTitles(session.pool)).find(({ name }) => name === title);
  const indexed = new Set(
    known?.channels.flatMap((channel) =>
      channel.builds.filter(({ sequence }) => sequence !== null).map(({ label }) => label),
    ),
  );
  for (const { label, releasedAt } of firstBuilds) {
    if (indexed.has(label)) continue;
    const folder = await makeBuild(session.folder.root, label);
    process.stdout.write(`Indexing build ${label} of ${title}\n`);
    await indexBuild(session, intakeRequestSchema.parse({ source: folder, title, build: label, releasedAt }));
    clearProgress();
  }
  const channelId = await findChannel(session.pool, title, 'main');
  if ((await listEntries(session.pool, [channelId])).length > 0 || (known?.rights ?? '') !== '') return;
  await change(session.pool, 'UPDATE titles SET rights = ? WHERE name = ?', [rights, title]);
  for (const note of firstNotes(applicationRoot))
    await saveNote(session.pool, { ...note, channel: channelId, revision: 0 }, demoTeam);
  const titleId = await findTitleOf(session.pool, channelId);
  await changeLexicon(session.pool, titleId, lexiconChangeSchema.parse({ put: firstLexicon }), {
    by: demoTeam,
    seen: null,
  });
  const { revision } = await readRecipes(session.pool, titleId);
  await saveRecipes(session.pool, titleId, { recipes: [...firstRecipes], revision }, demoTeam);
  const kept = await readSheets(session.pool, titleId);
  const sheets = firstSheets(applicationRoot);
  await saveSheets(session.pool, titleId, { sheets, revision: kept.revision }, demoTeam);
  await addRecipesJob(session.pool, titleId, title);
  for (const entry of firstEntries) await createEntry(session.pool, { ...entry, channelId }, demoTeam);
}

async function indexBuild({ pool, address, folder, signal }: Session, request: IntakeRequest): Promise<void> {
  const report = (message: string): void => void process.stderr.write(`${message}\n`);
  const runner = new Runner(pool, { address, folder }, { report });
  try {
    const jobId = await createJob(pool, request, null, folder.place);
    await runner.runOne(jobId, signal, showProgress);
    const { id } = await findBuild(
      pool,
      await findChannel(pool, request.title, request.channel),
      request.build,
    );
    await runner.runOne(await startReading(pool, id), signal, showProgress);
  } finally {
    await runner.close();
  }
}

/** The folder appears whole: a build that was cut short is made again. */
async function makeBuild(root: string, label: (typeof builds)[number]['label']): Promise<string> {
  const folder = join(root, 'demo', label);
  if (existsSync(folder)) return folder;
  process.stdout.write(`Making build ${label} of the invented game ${title}\n`);
  const fresh = `${folder}.new`;
  rmSync(fresh, { recursive: true, force: true });
  mkdirSync(fresh, { recursive: true });
  await writeBuild(label, fresh);
  renameSync(fresh, folder);
  return folder;
}
