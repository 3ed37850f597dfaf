import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import slugify from '@sindresorhus/slugify';
import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { Entry, SiteDocument } from '../../contract/catalogue.ts';
import { readGltf } from '../../core/kinds/model/read/gltf.ts';
import { applicationRoot } from '../platform/application-root.ts';
import { fileFinder } from '../library/references/find-file.ts';
import { factsKey, findFacts } from '../library/assets/facts.ts';
import { findBuild, listTitles } from '../acquire/builds/builds.ts';
import { change, type Queryable } from '../platform/database/rows.ts';
import { NotFoundError, PlainError, messageOf } from '../platform/plain-error.ts';
import { isAlive, processMark } from '../platform/process-mark.ts';
import { withLock } from '../platform/with-lock.ts';
import { nodePlatform } from '../decode/platform.ts';
import type { ContentStore } from '../store/content-store.ts';
import { listEntries } from './entries.ts';
import { entryPage, indexPage, type SiteAsset, type SiteEntry, type SiteTitle } from './site-pages.tsx';

const marker = 'worvel-site.json';

/**
 * Writes the published entries of a title as a site of static files that any server can serve, at any path. The
 * folder appears whole: it is written beside and then put in place of the edition before.
 * @throws PlainError when the folder holds something that is not such a site
 */
export async function publishTitle(
  database: Queryable,
  store: ContentStore,
  titleName: string,
  outFolder: string,
): Promise<{ edition: number; entries: number; folder: string }> {
  const title = (await listTitles(database)).find(({ name }) => name === titleName);
  if (!title) throw new NotFoundError(`There is no title named ${titleName}.`);
  const out = resolve(outFolder);
  const front = join(applicationRoot, 'dist', 'catalogue-site');
  if (!existsSync(front))
    throw new PlainError('The site’s own files are not built: run ./worvel build first.');
  mkdirSync(dirname(out), { recursive: true });
  // One at a time for each target, whoever it is that publishes.
  return withLock({ file: `${out}.lock`, waitSeconds: publishSeconds }, async () => {
    refuseOthers(out);
    removeLeftovers(out);
    const fresh = `${out}${freshMark}${processMark() ?? process.pid}`;
    try {
      mkdirSync(fresh);
      cpSync(front, join(fresh, 'site'), { recursive: true });
      const { edition, entries } = await writeEdition(database, store, title, fresh);
      exchange(fresh, out);
      return { edition, entries, folder: out };
    } finally {
      rmSync(fresh, { recursive: true, force: true });
    }
  });
}

const publishSeconds = 600;
/** Between the target's name and the process that writes beside it. */
const freshMark = '.worvel-writes-';
const formerMark = '.worvel-former-';

/** @throws PlainError when the folder holds something that is not such a site */
function refuseOthers(out: string): void {
  if (existsSync(out) && readdirSync(out).length > 0 && !existsSync(join(out, marker)))
    throw new PlainError(
      `The folder ${out} holds something else: choose an empty one, or one with an earlier edition.`,
    );
}

/** What processes that were killed left beside the target, under names that nobody else gives. */
function removeLeftovers(out: string): void {
  for (const name of readdirSync(dirname(out))) {
    const mark = [freshMark, formerMark].find((text) => name.startsWith(`${basename(out)}${text}`));
    if (mark === undefined) continue;
    const path = join(dirname(out), name);
    if (isAlive(name.slice(basename(out).length + mark.length))) continue;
    // The only edition there is: its process was killed between the two steps of the exchange.
    if (mark === formerMark && !existsSync(out)) renameSync(path, out);
    else rmSync(path, { recursive: true, force: true });
  }
}

/** Puts the new edition in the place of the former one: at any moment one of the two is there, whole. */
function exchange(fresh: string, out: string): void {
  const former = `${out}${formerMark}${processMark() ?? process.pid}`;
  const hadFormer = existsSync(out);
  if (hadFormer) renameSync(out, former);
  try {
    renameSync(fresh, out);
  } catch (error) {
    if (hadFormer) renameSync(former, out);
    throw error;
  }
  rmSync(former, { recursive: true, force: true });
}

/** Writes all pages and files of an edition into a folder. */
async function writeEdition(
  database: Queryable,
  store: ContentStore,
  title: Awaited<ReturnType<typeof listTitles>>[number],
  fresh: string,
): Promise<{ edition: number; entries: number }> {
  const entries = (
    await listEntries(
      database,
      title.channels.map(({ id }) => id),
    )
  ).filter(({ state }) => state === 'published');
  const shown: SiteEntry[] = [];
  for (const entry of entries) {
    const assets: SiteAsset[] = [];
    for (const asset of entry.assets)
      assets.push(await writeAsset(database, store, fresh, entry.channelId, asset));
    shown.push({ entry, slug: slugOf(entry), assets });
  }
  const { insertId: edition } = await change(
    database,
    'INSERT INTO editions (title_id, published_at, entries) VALUES (?, NOW(3), ?)',
    [title.id, entries.length],
  );
  const siteTitle: SiteTitle = {
    name: title.name,
    rights: title.rights,
    edition,
    publishedAt: new Date().toISOString(),
  };
  write(fresh, 'index.html', indexPage(siteTitle, shown));
  write(fresh, 'data/search.json', JSON.stringify(shown.map(toDocument)));
  for (const entry of shown) write(fresh, `entries/${entry.slug}/index.html`, entryPage(siteTitle, entry));
  write(fresh, marker, JSON.stringify({ title: title.name, edition, publishedAt: siteTitle.publishedAt }));
  return { edition, entries: entries.length };
}

async function writeAsset(
  database: Queryable,
  store: ContentStore,
  out: string,
  channelId: number,
  asset: Entry['assets'][number],
): Promise<SiteAsset> {
  if (asset.hash === null) return { asset, file: null, sha256: null, preview: null };
  const content = await store.read(asset.hash);
  let bytes: Uint8Array = content;
  let name = asset.path.slice(asset.path.lastIndexOf('/') + 1);
  if (asset.format === 'gltf') {
    bytes = await packModel(database, store, channelId, asset, content);
    name = name.replace(/\.gltf$/i, '.glb');
  }
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  const file = `files/${sha256.slice(0, 16)}/${fileName(name)}`;
  write(out, file, bytes);
  const previewHash =
    (await findFacts(database, [asset])).get(factsKey(asset.hash, asset.format))?.previewHash ?? null;
  let preview: string | null = null;
  if (previewHash !== null) {
    preview = `previews/${previewHash.slice(0, 32)}.webp`;
    write(out, preview, await store.read(previewHash));
  }
  return { asset, file: encodeURI(file), sha256, preview };
}

/** A model with its files becomes one file that stands alone. */
async function packModel(
  database: Queryable,
  store: ContentStore,
  channelId: number,
  asset: Entry['assets'][number],
  bytes: Uint8Array,
): Promise<Uint8Array> {
  const build = await findBuild(database, channelId, asset.build ?? '');
  const findFile = fileFinder(database, build);
  try {
    const { document } = await readGltf({
      bytes,
      platform: nodePlatform,
      async resolve(reference) {
        const hash = await findFile(asset.path, reference);
        return hash ? store.read(hash) : null;
      },
    });
    return await new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document);
  } catch (error) {
    throw new PlainError(`The model ${asset.path} cannot be published: ${messageOf(error)}`);
  }
}

function toDocument({ entry, slug, assets }: SiteEntry): SiteDocument {
  return {
    id: entry.id,
    slug,
    name: entry.name,
    internalName: entry.internalName,
    summary: entry.summary,
    kinds: [...new Set(assets.map(({ asset }) => asset.kind))].join(' '),
    paths: assets.map(({ asset }) => asset.path).join(' '),
    firstBuild: assets[0]?.asset.firstBuild ?? '',
    picture: assets.find(({ preview }) => preview !== null)?.preview ?? '',
    spoiler: entry.spoiler,
  };
}

function slugOf({ id, name }: Entry): string {
  const words = slugify(name).slice(0, 60).replace(/-+$/, '');
  return `${id}${words === '' ? '' : `-${words}`}`;
}

/** Systems take names of 255 bytes, and some archives that a site may travel in fewer. */
const longestNameBytes = 180;

/** A name that every file system and web server takes; its end stays, where the extension is. */
export function fileName(name: string): string {
  let letters = [...name.replace(/[^\p{L}\p{N}._ ()-]/gu, '_')];
  while (Buffer.byteLength(letters.join('')) > longestNameBytes) letters = letters.slice(1);
  return letters.join('').replace(/^\.+$/, '_');
}

function write(out: string, path: string, content: string | Uint8Array): void {
  const file = join(out, path);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, content);
}
