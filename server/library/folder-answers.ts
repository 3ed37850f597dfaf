import type { Folder, FolderCounts } from '../../contract/assets.ts';
import { countsByKind, type FolderCounts as TreeCounts } from '../../core/library/folder-tree.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { termsOf } from '../../core/search/expand.ts';
import { eachHit } from '../../core/search/search.ts';
import { LRUCache } from 'lru-cache';
import {
  findAll,
  listedAsset,
  pageOf,
  pathOrder,
  sortedPlaces,
  type AllHits,
  type FoundAssets,
  type SearchRequest,
} from './search/find-assets.ts';
import { TextTables } from './search/text-tables.ts';
import type { BuildLibrary } from './build-library.ts';
import type { Questions } from './questions.ts';

/** One page of a folder, and its folders with what is in them. */
export function answerFolder(
  library: BuildLibrary,
  { path, offset, limit, order }: Questions['folder']['parameters'],
): Folder | null {
  const folder = library.folders.find(path);
  if (!folder) return null;
  const { searchable, builds, sequence } = library;
  const spans = folder.assets.map((number) => library.spanOf(number));
  const places = sortedPlaces(searchable, folder.assets, spans, order).subarray(offset, offset + limit);
  const folders = folder.folders.flatMap((number) => library.folders.folders[number] ?? []);
  return {
    path,
    folders: folders.map(({ name, path: itsPath, isContainer, ...counts }) => ({
      name,
      path: itsPath,
      isContainer,
      counts: countsOf(counts),
    })),
    counts: countsOf(folder),
    assets: Array.from(places, (place) =>
      listedAsset(searchable, builds, folder.assets[place] ?? 0, spans[place] ?? 0, sequence),
    ),
    total: folder.assets.length,
  };
}

function countsOf(counts: TreeCounts): FolderCounts {
  const { files, bytes, fresh, changed, skeletons } = counts;
  return { files, bytes, fresh, changed, skeletons, kinds: countsByKind(counts) };
}

const texts = new Map<string, Promise<TextTables>>();

/** Texts that searches look into: those of the channel that was asked for last are kept. */
async function textsOf(file: string | null): Promise<TextTables | null> {
  if (file === null) return null;
  const known = texts.get(file);
  if (known) return known;
  const [earlier = null] = texts.values();
  texts.clear();
  const opened = Promise.resolve(earlier)
    .catch(() => null)
    .then((tables) => TextTables.open(file, tables));
  opened.catch(() => texts.delete(file));
  texts.set(file, opened);
  return opened;
}

/** All hits of the searches that were asked last: who scrolls asks for one page after the other. */
const searched = new LRUCache<string, AllHits>({ max: 3 });

async function hitsOf(
  { searchable, builds }: BuildLibrary,
  lexicon: Lexicon,
  request: Pick<SearchRequest, 'query' | 'sequence' | 'order'>,
  textFile: string | null,
): Promise<AllHits> {
  const { query, sequence, order } = request;
  const key = JSON.stringify([searchable.key, builds.titleId, builds.namesRevision, query, sequence, order]);
  const hits = searched.get(key) ?? findAll(searchable, lexicon, await textsOf(textFile), request);
  searched.set(key, hits);
  return hits;
}

export async function answerSearch(
  library: BuildLibrary,
  lexicon: Lexicon,
  { request, textFile }: Questions['search']['parameters'],
): Promise<FoundAssets> {
  const hits = await hitsOf(library, lexicon, request, textFile);
  return pageOf(hits, library.searchable, library.builds, lexicon, request);
}

/** Paths of all that a query finds, or of all that lies in a folder and below it. */
export async function answerPaths(
  library: BuildLibrary,
  lexicon: Lexicon,
  { query, folder, textFile, most }: Questions['paths']['parameters'],
): Promise<Questions['paths']['answer']> {
  const { searchable, sequence } = library;
  if (query) {
    const { numbers } = await hitsOf(library, lexicon, { query, sequence, order: pathOrder }, textFile);
    const shown = numbers.subarray(0, most);
    return {
      paths: Array.from(shown, (number) => searchable.index.path(number)),
      isCut: numbers.length > most,
    };
  }
  const found = library.folders.find(folder);
  const begin = folder === '' ? '' : found?.isContainer ? `${folder}!/` : `${folder}/`;
  const paths: string[] = [];
  const all = { words: [], ranges: [], choices: [], roles: [], contents: [] };
  eachHit(
    searchable.index,
    searchable.tables.states,
    all,
    termsOf(all, lexicon),
    sequence,
    undefined,
    (number) => {
      const path = searchable.index.path(number);
      if (path.startsWith(begin)) paths.push(path);
      return paths.length <= most;
    },
  );
  return { paths: paths.slice(0, most), isCut: paths.length > most };
}
