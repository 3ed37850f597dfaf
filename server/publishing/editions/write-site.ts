import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { EditionBuild, EditionEntry, EditionRecord, KeptEntry } from '../../../contract/editions.ts';
import { facets, makeSearchIndex, type SearchRecord } from '../../../core/catalogue/search-index.ts';
import { feedsOf, type FeedItem } from '../../../core/catalogue/feeds.ts';
import { entriesCsv, entriesJson } from '../../../core/catalogue/entry-table.ts';
import { applicationRoot } from '../../platform/application-root.ts';
import { buildPage, buildPath, buildsPage, broughtText } from '../site/build-pages.tsx';
import { cardOf, type CardEntry } from '../site/cards.tsx';
import { entryPage, entryPath, notePath } from '../site/entry-page.tsx';
import { renderPage, siteName, type Page, type SiteTitle } from '../site/layout.tsx';
import { listPages, listsPage, type EntryList } from '../site/list-pages.tsx';
import {
  changesPage,
  checkPage,
  frontPage,
  missingPage,
  movedPage,
  searchPage,
} from '../site/plain-pages.tsx';
import type { AssetFiles } from './asset-files.ts';
import { sumOf, type SiteFolder } from './site-folder.ts';

const entriesAtOnce = 16;
const newestOnFront = 24;
const buildsOnFront = 5;
const itemsInFeed = 50;
/** Counts up where pages of the same entries become other pages. */
const pagesVersion = 1;

export interface SiteToWrite {
  title: SiteTitle;
  record: Omit<EditionRecord, 'pages'>;
  entries: readonly KeptEntry[];
  /** Newest first. */
  builds: readonly EditionBuild[];
  /** Addresses that entries had once. */
  formerAddresses: readonly { address: string; id: number }[];
  /** The edition before, where there is one. */
  former: EditionRecord | null;
  channelIds: ReadonlyMap<string, number>;
}

/** What pages have in common, as a sum: where it is another, all are rendered anew. */
export function pagesSum(title: SiteTitle): string {
  return sumOf(JSON.stringify([pagesVersion, title]));
}

/**
 * Writes all pages and files of a site. The same state gives the same bytes.
 * @param onEntry hears of each entry that is done @returns the entries that are new or changed since the edition before
 */
export async function writeSite(
  site: SiteFolder,
  files: AssetFiles,
  { title, record, entries, builds, formerAddresses, former, channelIds }: SiteToWrite,
  onEntry: (done: number) => void,
  signal: AbortSignal,
): Promise<{ added: number; changed: number; removed: number }> {
  const pages = pagesSum(title);
  const isSame = former?.pages === pages;
  const done: EditionEntry[] = [];
  const [added, changed]: [CardEntry[], CardEntry[]] = [[], []];
  await copyFront(site, title);
  for (let from = 0; from < entries.length; from += entriesAtOnce) {
    signal.throwIfAborted();
    const written = await Promise.all(
      entries
        .slice(from, from + entriesAtOnce)
        .map((kept) => writeEntry(site, files, title, kept, isSame, channelIds)),
    );
    for (const { entry, news } of written) {
      done.push(entry);
      if (news === 'new') added.push(cardOf(entry));
      if (news === 'changed') changed.push(cardOf(entry));
    }
    onEntry(done.length);
  }
  const cards = new Map(done.map((entry) => [entry.address, cardOf(entry)]));
  await writeMoved(site, formerAddresses, done);
  signal.throwIfAborted();
  const removed = former === null ? 0 : Math.max(0, former.entries + added.length - done.length);
  for (const page of listedPages(title, done, builds, cards)) await putPage(site, title, page);
  await putPage(site, title, changesPage(record.number, { added: former ? added : [], changed, removed }));
  signal.throwIfAborted();
  for (const [path, text] of makeSearchIndex(done.map(searchRecordOf)))
    await site.put(`search/${path}`, text);
  await writeFeeds(site, title, done, builds);
  await site.put('data/entries.csv', entriesCsv(done.filter(({ spoiler }) => !spoiler)));
  await site.put('data/entries.json', entriesJson(done.filter(({ spoiler }) => !spoiler)));
  await site.put(
    'edition.json',
    `${JSON.stringify({ ...record, pages } satisfies EditionRecord, null, 1)}\n`,
  );
  return { added: added.length, changed: changed.length, removed };
}

async function putPage(site: SiteFolder, title: SiteTitle, page: Page): Promise<void> {
  await site.put(page.path, renderPage(title, page));
}

/** The site's own scripts, styles and fonts, and the colours of the team. */
async function copyFront(site: SiteFolder, { site: { accent, accentByNight } }: SiteTitle): Promise<void> {
  const front = join(applicationRoot, 'dist', 'catalogue-site');
  for (const file of await readdir(front, { recursive: true, withFileTypes: true }))
    if (file.isFile()) {
      const path = join(file.parentPath, file.name);
      await site.put(`site/${path.slice(front.length + 1)}`, await readFile(path));
    }
  const day = accent ? `:root { --accent: ${accent}; }\n` : '';
  const night = accentByNight || accent;
  await site.put(
    'site/look.css',
    day + (night ? `@media (prefers-color-scheme: dark) { :root { --accent: ${night}; } }\n` : ''),
  );
}

type News = 'new' | 'changed' | 'same';

/** One entry with its files. Where the edition before has the same one, nothing is rendered. */
async function writeEntry(
  site: SiteFolder,
  files: AssetFiles,
  title: SiteTitle,
  { entry, sources }: KeptEntry,
  isSame: boolean,
  channelIds: ReadonlyMap<string, number>,
): Promise<{ entry: EditionEntry; news: News }> {
  const dataPath = `entries/${entry.address}.json`;
  const notes = entry.assets.flatMap(({ note }, at) =>
    note ? [{ path: notePath(entry.address, at + 1), note }] : [],
  );
  const channelId = channelIds.get(entry.channel) ?? 0;
  const assets = [];
  for (const [at, asset] of entry.assets.entries()) {
    const source = sources[at];
    if (source) assets.push(await files.write(asset, source, channelId));
  }
  const whole = { ...entry, assets };
  const text = `${JSON.stringify(whole)}\n`;
  const isKnown = site.has(dataPath, sumOf(text));
  const news = isKnown ? 'same' : site.has(dataPath) ? 'changed' : 'new';
  await site.put(dataPath, text);
  for (const { path, note } of notes) await site.put(`entries/${path}`, `${JSON.stringify(note, null, 1)}\n`);
  const page = entryPath(entry.address);
  if (!(isKnown && isSame && site.keep(page))) await putPage(site, title, entryPage(title, whole, site.sums));
  return { entry: whole, news };
}

async function writeMoved(
  site: SiteFolder,
  formerAddresses: SiteToWrite['formerAddresses'],
  entries: readonly EditionEntry[],
): Promise<void> {
  const now = new Map(entries.map(({ id, address }) => [id, address]));
  for (const { address, id } of formerAddresses) {
    const next = now.get(id);
    // What is gone leads nowhere: not even its old address tells that it was.
    if (next === undefined || next === address) continue;
    await site.put(entryPath(address), movedPage(entryPath(address), next));
  }
}

function* listedPages(
  title: SiteTitle,
  entries: readonly EditionEntry[],
  builds: readonly EditionBuild[],
  cards: ReadonlyMap<string, CardEntry>,
): Generator<Page> {
  const newest = [...entries].sort((a, b) => b.id - a.id).slice(0, newestOnFront);
  yield frontPage(title, {
    count: entries.length,
    newest: newest.map(cardOf),
    builds: buildsForFront(builds),
  });
  yield buildsPage(builds);
  for (const build of builds) yield buildPage(build, cards);
  const lists = listsOf(entries, cards);
  yield listsPage(lists);
  for (const list of lists) yield* listPages(list);
  yield* [searchPage, checkPage, missingPage];
}

/** The newest builds that brought something; the newest of all where none did. */
function buildsForFront(builds: readonly EditionBuild[]): EditionBuild[] {
  const telling = builds.filter(
    ({ added, changed, removed }) => added.length + changed.length + removed.length > 0,
  );
  return (telling.length > 0 ? telling : builds).slice(0, buildsOnFront);
}

/** All lists: everything, and by kind, by kind of thing and by tag; each by name. */
function listsOf(entries: readonly EditionEntry[], cards: ReadonlyMap<string, CardEntry>): EntryList[] {
  const byName = new Intl.Collator('en');
  const sorted = [...entries].sort((a, b) => byName.compare(a.name, b.name) || a.id - b.id);
  const lists = new Map<string, EntryList & { entries: CardEntry[] }>();
  const add = (by: string, heading: string, value: string, card: CardEntry): void => {
    const key = `${by} ${value}`;
    const list = lists.get(key) ?? { by, heading, value, entries: [] };
    lists.set(key, list);
    list.entries.push(card);
  };
  for (const entry of sorted) {
    const card = cards.get(entry.address);
    if (!card) continue;
    add('all', 'All entries', 'All', card);
    for (const kind of new Set(entry.assets.map((asset) => asset.kind)))
      add('kind', `Kind: ${kind}`, kind, card);
    if (entry.thing) add('thing', entry.thing, entry.thing, card);
    for (const tag of new Set(entry.tags)) add('tag', `Tag: ${tag}`, tag, card);
  }
  const order = ['all', 'kind', 'thing', 'tag'];
  return [...lists.values()].sort(
    (a, b) => order.indexOf(a.by) - order.indexOf(b.by) || byName.compare(a.value, b.value),
  );
}

function searchRecordOf(entry: EditionEntry): SearchRecord {
  const { address, name, internalName, names, aliases, thing, tags, assets, spoiler } = entry;
  const { kind, picture } = cardOf(entry);
  const kinds = assets.map((asset) => asset.kind);
  const builds = [...new Set(assets.flatMap(({ history }) => history.map(({ build }) => build)))];
  return {
    document: {
      ...{ slug: address, name, internalName, spoiler, picture: picture ?? '' },
      kind: assets[0]?.kind ?? 'other',
    },
    names: [name, internalName, ...aliases, ...names.map((one) => one.name)],
    others: [kind, thing, ...tags, ...assets.map(({ path }) => path), ...builds],
    facets: { kind: kinds, thing: thing === '' ? [] : [thing], tag: tags, build: builds } satisfies Record<
      (typeof facets)[number],
      readonly string[]
    >,
  };
}

async function writeFeeds(
  site: SiteFolder,
  title: SiteTitle,
  entries: readonly EditionEntry[],
  builds: readonly EditionBuild[],
): Promise<void> {
  const newest = [...entries].sort((a, b) => (a.changedAt < b.changedAt ? 1 : -1)).slice(0, itemsInFeed);
  const feeds: [string, string, FeedItem[]][] = [
    [
      'entries',
      'Entries',
      newest.map(({ id, address, name, summary, spoiler, changedAt }) => ({
        id: `${title.name} entry ${id}`,
        title: spoiler ? 'A spoiler' : name,
        path: entryPath(address),
        text: spoiler ? '' : summary,
        at: changedAt,
      })),
    ],
    [
      'builds',
      'Builds',
      builds.slice(0, itemsInFeed).map((build) => ({
        id: `${title.name} build ${build.channel} ${build.label}`,
        title: `Build ${build.label}`,
        path: buildPath(build),
        text: broughtText(build),
        at: build.releasedAt,
      })),
    ],
  ];
  for (const [name, heading, items] of feeds) {
    const { atom, json } = feedsOf({
      ...{ id: `${title.name} ${name}`, title: `${heading}: ${siteName(title)}`, rights: title.rights },
      ...{ address: title.site.address, items, at: items[0]?.at ?? new Date(0).toISOString() },
    });
    await site.put(`feeds/${name}.atom`, atom);
    await site.put(`feeds/${name}.json`, json);
  }
  if (title.site.address)
    await site.put(
      'sitemap.xml',
      sitemapOf(
        title.site.address,
        entries.filter(({ spoiler }) => !spoiler),
      ),
    );
}

/** A sitemap (sitemaps.org, protocol 0.9): fifty thousand addresses at most. */
function sitemapOf(root: string, entries: readonly EditionEntry[]): string {
  const most = 49_000;
  const lines = entries
    .slice(-most)
    .map(
      ({ address, changedAt }) =>
        `<url><loc>${root}entries/${encodeURIComponent(address)}.html</loc><lastmod>${changedAt.slice(0, 10)}</lastmod></url>`,
    );
  return `<?xml version="1.0" encoding="UTF-8"?>\n<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n<url><loc>${root}</loc></url>\n${lines.join('\n')}\n</urlset>\n`;
}
