import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { intakeRequestSchema } from '../contract/builds.ts';
import { builds, rights, writeBuild } from '../demo/mossline-ferry.ts';
import { firstEntries, firstNotes } from '../demo/first-entries.ts';
import { findChannel, listTitles } from '../server/builds/builds.ts';
import { createEntry, listEntries } from '../server/catalogue/entries.ts';
import { saveNote } from '../server/catalogue/notes.ts';
import { change } from '../server/database/rows.ts';
import { parseArguments, textOption } from './arguments.ts';
import { indexHere } from './work-here.ts';
import { printProgress } from './print-progress.ts';
import { serve } from './serve-command.ts';
import { dataPath } from './session.ts';
import type { Session } from './with-database.ts';

const title = 'Mossline Ferry';

/** Makes the builds of the invented game where they are missing, indexes them once, and serves. */
export async function demoCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { port: textOption });
  await serve(dataPath(given.text('data')), given.count('port', 1, 65_535) ?? 4310, prepareDemo);
}

async function prepareDemo(session: Session): Promise<void> {
  const known = (await listTitles(session.pool)).find(({ name }) => name === title);
  const indexed = new Set(
    known?.channels.flatMap((channel) =>
      channel.builds.filter(({ sequence }) => sequence !== null).map(({ label }) => label),
    ),
  );
  for (const { label, releasedAt } of builds) {
    if (indexed.has(label)) continue;
    const folder = await makeBuild(session.folder.root, label);
    process.stdout.write(`Indexing build ${label} of ${title}\n`);
    await indexHere(
      session,
      intakeRequestSchema.parse({ source: folder, title, build: label, releasedAt }),
      printProgress,
    );
    if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
  }
  const channelId = await findChannel(session.pool, title, 'main');
  if ((await listEntries(session.pool, [channelId])).length > 0 || (known?.rights ?? '') !== '') return;
  await change(session.pool, 'UPDATE titles SET rights = ? WHERE name = ?', [rights, title]);
  for (const { path, body } of firstNotes) await saveNote(session.pool, channelId, path, body, 0);
  for (const entry of firstEntries) await createEntry(session.pool, { ...entry, channelId });
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
