import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { Entry, SiteDocument } from '../../contract/catalogue.ts';
import { readGltf } from '../../core/kinds/model/read/gltf.ts';
import { applicationRoot } from '../platform/application-root.ts';
import { findSister } from '../library/assets/assets.ts';
import { factsKey, findFacts } from '../library/assets/facts.ts';
import { findBuild, listTitles } from '../acquire/builds/builds.ts';
import { change, type Queryable } from '../platform/database/rows.ts';
import { NotFoundError, PlainError, messageOf } from '../platform/plain-error.ts';
import { nodePlatform } from '../decode/platform.ts';
import { findContent, readContent } from '../store/read-content.ts';
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
  store: string,
  titleName: string,
  outFolder: string,
): Promise<{ edition: number; entries: number; folder: string }> {
  const title = (await listTitles(database)).find(({ name }) => name === titleName);
  if (!title) throw new NotFoundError(`There is no title named ${titleName}.`);
  const out = resolve(outFolder);
  if (existsSync(out) && readdirSync(out).length > 0 && !existsSync(join(out, marker))) {
    throw new PlainError(
      `The folder ${out} holds something else: choose an empty one, or one with an earlier edition.`,
    );
  }
  const front = join(applicationRoot, 'dist', 'catalogue-site');
  if (!existsSync(front))
    throw new PlainError('The site’s own files are not built: run ./worvel build first.');

  const entries = (
    await listEntries(
      database,
      title.channels.map(({ id }) => id),
    )
  ).filter(({ state }) => state === 'published');
  const fresh = `${out}.new`;
  rmSync(fresh, { recursive: true, force: true });
  mkdirSync(fresh, { recursive: true });
  cpSync(front, join(fresh, 'site'), { recursive: true });
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
  rmSync(out, { recursive: true, force: true });
  renameSync(fresh, out);
  return { edition, entries: entries.length, folder: out };
}

async function writeAsset(
  database: Queryable,
  store: string,
  out: string,
  channelId: number,
  asset: Entry['assets'][number],
): Promise<SiteAsset> {
  if (asset.hash === null) return { asset, file: null, sha256: null, preview: null };
  const content = await readContent(store, await findContent(database, asset.hash));
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
    write(out, preview, await readContent(store, await findContent(database, previewHash)));
  }
  return { asset, file: encodeURI(file), sha256, preview };
}

/** A model with its files becomes one file that stands alone. */
async function packModel(
  database: Queryable,
  store: string,
  channelId: number,
  asset: Entry['assets'][number],
  bytes: Uint8Array,
): Promise<Uint8Array> {
  const build = await findBuild(database, channelId, asset.build ?? '');
  try {
    const { document } = await readGltf({
      bytes,
      platform: nodePlatform,
      async resolve(reference) {
        const hash = await findSister(database, build, asset.path, reference);
        return hash ? readContent(store, await findContent(database, hash)) : null;
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
  const words = name
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '');
  return `${id}${words === '' ? '' : `-${words.slice(0, 60)}`}`;
}

/** A name that every file system and web server takes. */
function fileName(name: string): string {
  return name.replace(/[^\p{L}\p{N}._ ()-]/gu, '_').slice(-150);
}

function write(out: string, path: string, content: string | Uint8Array): void {
  const file = join(out, path);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, content);
}
