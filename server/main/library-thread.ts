import { parentPort, workerData } from 'node:worker_threads';
import { PathIndex } from '../../core/search/path-index.ts';
import { LRUCache } from 'lru-cache';
import { openPool, type DatabaseAddress } from '../platform/database/pool.ts';
import { Lexicons } from '../library/names/lexicons.ts';
import { openStore } from '../store/content-store.ts';
import type { SearchTables } from '../library/search/search-tables.ts';
import { answerOf } from '../platform/threads/thread-questions.ts';
import { BuildLibrary } from '../library/build-library.ts';
import { answerFamilies, answerFamily } from '../library/family-answers.ts';
import { answerTextureSets } from '../library/texture-answers.ts';
import { answerGather } from '../library/gather-answers.ts';
import { answerFileNews } from '../library/news-answers.ts';
import { answerFolder, answerPaths, answerSearch } from '../library/folder-answers.ts';
import { answerResolve, answerScene, answerTrial } from '../library/map-answers.ts';
import { answerFit, answerSheetFiles } from '../library/formats/fit-sheet.ts';
import type { ToLibrary } from '../library/library-messages.ts';
import { answerMissing, answerReferences, answerUnnamed } from '../library/reference-answers.ts';

/** A thread that knows what is in builds: folders, names, links, families. Questions are answered one after the other. */
const port = parentPort;
if (!port) throw new Error('library-thread: not started as a worker thread');
const { address, folder } = workerData as { address: DatabaseAddress; folder: string };
const pool = openPool(address, 2);
const store = openStore(pool, folder);
const lexicons = new Lexicons(pool);
const keptBuilds = 3;

interface Opened {
  key: string;
  index: PathIndex;
  tables: SearchTables;
}
const opened = new Map<number, Opened>();
const libraries = new LRUCache<string, BuildLibrary>({ max: keptBuilds });

let work = Promise.resolve();
port.on('message', (message: ToLibrary) => {
  if (message.type === 'tables') {
    const { channelId, key, tables } = message;
    opened.set(channelId, { key, tables, index: new PathIndex(tables.paths) });
    for (const name of libraries.keys()) if (name.startsWith(`${channelId} `)) libraries.delete(name);
    return;
  }
  work = work.then(async () => port.postMessage(await answerOf(message.id, () => answer(message))));
});

function libraryOf({
  channelId,
  key,
  builds,
  sequence,
}: Extract<ToLibrary, { type: 'question' }>): BuildLibrary {
  const tables = opened.get(channelId);
  if (tables?.key !== key) throw new Error('library-thread: asked about tables that it was not given');
  const name = `${channelId} ${key} ${sequence}`;
  const library = libraries.get(name) ?? new BuildLibrary(pool, channelId, tables, builds, sequence);
  library.builds = builds;
  libraries.set(name, library);
  return library;
}

async function answer(message: Extract<ToLibrary, { type: 'question' }>): Promise<unknown> {
  const library = libraryOf(message);
  const { question } = message;
  const lexicon = await lexicons.get(message.builds);
  switch (question.name) {
    case 'folder':
      return answerFolder(library, question.parameters);
    case 'search':
      return answerSearch(library, lexicon, question.parameters);
    case 'paths':
      return answerPaths(library, lexicon, question.parameters);
    case 'proposals':
      return library.census(lexicon).proposals(question.parameters.refused);
    case 'freshParts':
      return library.census(lexicon).freshParts(library.sequence);
    case 'readName':
      return lexicon.readPath(question.parameters.path);
    case 'references':
      return answerReferences(library, lexicon, question.parameters);
    case 'missing':
      return answerMissing(library, lexicon, question.parameters);
    case 'unnamed':
      return answerUnnamed(library, lexicon, question.parameters);
    case 'resolve':
      return answerResolve(library, lexicon, question.parameters);
    case 'scene':
      return answerScene(library, lexicon, store, question.parameters);
    case 'tryRecipe':
      return answerTrial(library, lexicon, store, question.parameters);
    case 'sheetFiles':
      return answerSheetFiles(library, question.parameters);
    case 'fitSheet':
      return answerFit(library, store, question.parameters);
    case 'family':
      return answerFamily(library, lexicon, question.parameters);
    case 'fileNews':
      return answerFileNews(library, lexicon, question.parameters);
    case 'textureSets':
      return answerTextureSets(library, lexicon, question.parameters);
    case 'gather':
      return answerGather(library, lexicon, question.parameters);
    case 'families':
      return answerFamilies(library, lexicon, question.parameters);
  }
}
