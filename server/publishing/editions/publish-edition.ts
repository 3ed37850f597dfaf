import { existsSync, mkdirSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { EditionProblem } from '../../../contract/catalogue.ts';
import type { Title } from '../../../contract/builds.ts';
import { editionRecordSchema, type EditionRecord, type KeptEntry } from '../../../contract/editions.ts';
import { buildsOf } from '../../../core/catalogue/builds-of.ts';
import { OnDemandReaders } from '../../decode/on-demand.ts';
import type { ReadServices } from '../../decode/read-job.ts';
import type { JobContext } from '../../jobs/define-job.ts';
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
import { SiteFolder, readSums, sumsName } from './site-folder.ts';
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

/**
 * Publishes the entries of a title as an edition: a folder of static files with the sums of all of them, signed. It appears
 * whole; the edition before stays as it is until then, and lends what did not change.
 * @throws PlainError where the folder holds something else
 */
export async function publishEdition(
  context: Context,
  { title, out, by, isPreview, backTo, at }: EditionToPublish,
): Promise<{ number: number; entries: number; problems: EditionProblem[]; written: number; kept: number }> {
  const { pool, folder: data, meter, signal } = context;
  if (!existsSync(join(applicationRoot, 'dist', 'catalogue-site', 'site.js')))
    throw new PlainError('The site’s own files are not built: run ./worvel build first.');
  const channelIds = title.channels.map(({ id }) => id);
  const withheld = await readWithheld(pool, channelIds);
  const problems: EditionProblem[] = [];
  meter.begin('finding files', null, null);
  let entries: KeptEntry[] = [];
  if (backTo === null)
    for await (const batch of collectEntries(pool, title.channels, withheld)) {
      entries.push(...batch.entries);
      problems.push(...batch.problems);
      context.count(entries.length, 0);
      signal.throwIfAborted();
    }
  else entries = await readState(data.root, title.id, backTo, withheld);
  meter.begin('writing files', entries.length, null);
  const readers = new OnDemandReaders();
  try {
    // One edition of a title at a time, wherever it goes: they are numbered.
    const lock = { file: join(data.root, 'published', `${title.id}.lock`), waitSeconds };
    mkdirSync(join(data.root, 'published'), { recursive: true });
    return await withLock(lock, () =>
      exchangeFolder(out, async (fresh) => {
        const number = await nextNumber(pool, title.id);
        const former = await readRecord(out);
        const site = new SiteFolder(fresh, { folder: out, sums: await readSums(out) });
        const files = new AssetFiles(context, readers, site, (path, reason) =>
          problems.push({
            entry: 0,
            name: path,
            text: reason,
            mend: 'It is published without a form to look at.',
            isSerious: false,
          }),
        );
        const settings = { name: title.name, rights: title.rights, site: await readSite(pool, title.id) };
        const builds = title.channels
          .flatMap(({ name, builds: list }) =>
            list.flatMap(({ label, releasedAt, sequence }) =>
              sequence === null ? [] : [{ channel: name, label, releasedAt }],
            ),
          )
          .sort((a, b) => (a.releasedAt < b.releasedAt ? 1 : -1));
        const news = await writeSite(
          site,
          files,
          {
            title: settings,
            record: { worvelEdition: 1, title: title.name, number, publishedAt: at, entries: entries.length },
            entries,
            builds: buildsOf(
              builds,
              entries.map(({ entry }) => entry),
            ),
            formerAddresses: await formerAddresses(pool, title.id),
            former,
            channelIds: new Map(title.channels.map(({ id, name }) => [name, id])),
          },
          (done) => context.count(done, 0),
          signal,
        );
        const sums = site.sumsText();
        await writeFile(join(fresh, sumsName), sums, { flag: 'wx' });
        if (!isPreview) {
          const key = await signingKeyOf(pool, data.root, title.id);
          await writeFile(join(fresh, signatureName), key.sign(Buffer.from(sums)), { flag: 'wx' });
          await writeFile(join(fresh, publicKeyName), key.publicKey, { flag: 'wx' });
          await keepState(data.root, title.id, number, entries);
          signal.throwIfAborted();
          await keepAddresses(
            pool,
            title.id,
            entries.map(({ entry }) => entry),
          );
          const removed = former === null ? 0 : Math.max(0, former.entries + news.added - entries.length);
          await addEdition(pool, title.id, {
            ...{ number, publishedAt: at, by, entries: entries.length, backTo, folder: out },
            changes: { ...news, removed },
          });
        }
        return {
          number,
          entries: entries.length,
          problems,
          written: site.written,
          kept: site.sums.size - site.written,
        };
      }),
    );
  } finally {
    readers.close();
  }
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
