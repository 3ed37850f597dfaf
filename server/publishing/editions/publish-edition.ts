import { existsSync, mkdirSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type * as z from 'zod';
import type { EditionProblem, editionChangesSchema } from '../../../contract/catalogue.ts';
import type { Title } from '../../../contract/builds.ts';
import { editionRecordSchema, type EditionRecord, type KeptEntry } from '../../../contract/editions.ts';
import { buildsOf } from '../../../core/catalogue/builds-of.ts';
import { OnDemandReaders } from '../../decode/on-demand.ts';
import type { ReadServices } from '../../decode/read-job.ts';
import type { JobContext } from '../../jobs/define-job.ts';
import { addDeed } from '../../people/history/audit.ts';
import { applicationRoot } from '../../platform/application-root.ts';
import { PlainError, codeOf } from '../../platform/plain-error.ts';
import { withLock } from '../../platform/with-lock.ts';
import { readSite } from '../site-settings.ts';
import { AssetFiles } from './asset-files.ts';
import { collectEntries } from './collect-entries.ts';
import { addEdition, formerAddresses, keepAddresses, nextNumber } from './editions.ts';
import { exchangeFolder } from './exchange-folder.ts';
import { keepState, readState } from './kept-states.ts';
import { signingKeyOf } from './signing-key.ts';
import { SiteFolder } from './site-folder.ts';
import { publicKeyName, signatureName } from './verify-edition.ts';
import { readWithheld } from './withheld.ts';
import { writeSite } from './write-site.ts';

export interface EditionToPublish {
  title: Title;
  out: string;
  by: string;
  /** Only to be looked at: it is no edition, and nothing signs it. */
  isPreview: boolean;
  /** An edition whose state is published again; null for the state of now. */
  backTo: number | null;
  /** ISO 8601. */
  at: string;
}

type Context = Pick<
  JobContext<unknown, ReadServices>,
  'pool' | 'folder' | 'store' | 'services' | 'signal' | 'meter' | 'count'
>;

const waitSeconds = 3600;

export interface Published {
  number: number;
  entries: number;
  problems: EditionProblem[];
  /** Files that were written, and those that are as they were. */
  written: number;
  kept: number;
}

/**
 * Publishes the entries of a title as an edition: a folder of static files with the sums of all of them, signed. It appears
 * whole; the edition before stays as it is until then, and lends what did not change.
 * @throws PlainError where the folder holds something else
 */
export async function publishEdition(context: Context, edition: EditionToPublish): Promise<Published> {
  const { pool, folder: data } = context;
  const { title, out, by, isPreview, backTo, at } = edition;
  if (!existsSync(join(applicationRoot, 'dist', 'catalogue-site', 'site.js')))
    throw new PlainError('The site’s own files are not built: run ./worvel build first.');
  // One edition of a title at a time, wherever it goes: they are numbered.
  const lock = { file: join(data.root, 'published', `${title.id}.lock`), waitSeconds };
  mkdirSync(join(data.root, 'published'), { recursive: true });
  return withLock(lock, async () => {
    const former = await readRecord(out);
    const number = Math.max(await nextNumber(pool, title.id), (former?.number ?? 0) + 1);
    const { entries, changes, ...published } = await exchangeFolder(out, (fresh) =>
      writeEdition(context, edition, { fresh, former, number }),
    );
    if (!isPreview) {
      await keepAddresses(pool, title.id, entries);
      await addEdition(pool, title.id, {
        ...{ number, publishedAt: at, by, entries: entries.length, backTo, folder: out, changes },
      });
      const back = backTo === null ? '' : `, with the state of edition ${backTo}`;
      await addDeed(pool, title.id, by, `published edition ${number}${back}`, [
        { item: out, before: null, after: JSON.stringify(changes) },
      ]);
    }
    return { ...published, number, entries: entries.length };
  });
}

/** Writes an edition into an empty folder, beside the former one. */
async function writeEdition(
  context: Context,
  { title, out, isPreview, backTo, at }: EditionToPublish,
  { fresh, former, number }: { fresh: string; former: EditionRecord | null; number: number },
): Promise<
  Omit<Published, 'number' | 'entries'> & {
    entries: { id: number; address: string }[];
    changes: z.infer<typeof editionChangesSchema>;
  }
> {
  const { pool, folder: data, meter, signal } = context;
  meter.begin('finding files', null, null);
  // What reads files has nothing to do here for a while: its memory is given back.
  context.services.processes.close();
  const [site, { entries, problems }] = await Promise.all([
    SiteFolder.open(fresh, out),
    collectAll(context, title, backTo),
  ]);
  meter.begin('writing files', entries.length, null);
  const published = entries.map(({ entry }) => entry);
  const known = await formerAddresses(pool, title.id);
  const readers = new OnDemandReaders();
  try {
    const files = new AssetFiles(context, readers, site, (path, text) =>
      problems.push({
        ...{
          entry: 0,
          name: path,
          text,
          mend: 'It is published without a form to look at.',
          isSerious: false,
        },
      }),
    );
    const news = await writeSite(
      site,
      files,
      {
        title: { name: title.name, rights: title.rights, site: await readSite(pool, title.id) },
        record: { worvelEdition: 1, title: title.name, number, publishedAt: at, entries: entries.length },
        entries,
        builds: buildsOf(newestBuilds(title), published),
        formerAddresses: known,
        former,
        channelIds: new Map(title.channels.map(({ id, name }) => [name, id])),
      },
      (done) => context.count(done, 0),
      signal,
    );
    const sums = await site.finish();
    if (!isPreview) {
      const key = await signingKeyOf(pool, data.root, title.id);
      await writeFile(join(fresh, signatureName), key.sign(Buffer.from(sums)), { flag: 'wx' });
      await writeFile(join(fresh, publicKeyName), key.publicKey, { flag: 'wx' });
      await keepState(data.root, title.id, number, entries);
    }
    signal.throwIfAborted();
    return {
      entries: published.map(({ id, address }) => ({ id, address })),
      changes: news,
      ...{ problems, written: site.written, kept: site.sums.size - site.written },
    };
  } finally {
    readers.close();
  }
}

/** What is published now, or was in an earlier edition; what is withheld now is in neither. */
async function collectAll(
  { pool, folder, signal, count }: Context,
  title: Title,
  backTo: number | null,
): Promise<{ entries: KeptEntry[]; problems: EditionProblem[] }> {
  const withheld = await readWithheld(
    pool,
    title.channels.map(({ id }) => id),
  );
  if (backTo !== null)
    return { entries: await readState(folder.root, title.id, backTo, withheld), problems: [] };
  const entries: KeptEntry[] = [];
  const problems: EditionProblem[] = [];
  for await (const batch of collectEntries(pool, title.channels, withheld)) {
    entries.push(...batch.entries);
    problems.push(...batch.problems);
    count(entries.length, 0);
    signal.throwIfAborted();
  }
  return { entries, problems };
}

function newestBuilds({ channels }: Title): { channel: string; label: string; releasedAt: string }[] {
  return channels
    .flatMap(({ name, builds }) =>
      builds.flatMap(({ label, releasedAt, sequence }) =>
        sequence === null ? [] : [{ channel: name, label, releasedAt }],
      ),
    )
    .sort((a, b) => (a.releasedAt < b.releasedAt ? 1 : -1));
}

async function readRecord(folder: string): Promise<EditionRecord | null> {
  try {
    return editionRecordSchema.parse(JSON.parse(await readFile(join(folder, 'edition.json'), 'utf8')));
  } catch (error) {
    // None is there, or one that an earlier version wrote: all is written anew.
    if (error instanceof SyntaxError || codeOf(error) === 'ENOENT' || (error as Error).name === 'ZodError')
      return null;
    throw error;
  }
}
