import type { Placement } from '../../contract/facts.ts';
import type { PlacementRecipe, Trial } from '../../contract/recipes.ts';
import { compileNameGlob } from '../../core/globs.ts';
import { placementsOf } from '../../core/kinds/map/placements.ts';
import { placementsByRecipe } from '../../core/kinds/map/recipe.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { groundsOf, type MapGrounds } from '../../core/names/map-grounds.ts';
import { splitName, stemOf } from '../../core/names/split.ts';
import { resolve } from '../../core/references/resolve.ts';
import { formatWithId } from '../../core/kinds/formats.ts';
import { termOf } from '../../core/search/path-index.ts';
import { messageOf, NotFoundError, PlainError } from '../platform/plain-error.ts';
import { bySheet } from '../../core/formats/by-sheet.ts';
import { openedSheet } from '../decode/opened-sheets.ts';
import { hashAt } from './search/text-tables.ts';
import { readLocal } from '../store/local-content.ts';
import type { ContentStore } from '../store/content-store.ts';
import type { BuildLibrary } from './build-library.ts';
import type { Questions, SceneWithTargets } from './questions.ts';

/** Larger tables are not tried. */
const mostBytes = 256 * 1024 * 1024;
const mostShown = 12;
const sampleBytes = 1500;
/** So many paths are looked at for the ground of a map. */
const mostLookedAt = 5000;

/** The placements of a map, and where the models lie that they name. @throws NotFoundError, PlainError */
export async function answerScene(
  library: BuildLibrary,
  lexicon: Lexicon,
  store: ContentStore,
  { path, described }: Questions['scene']['parameters'],
): Promise<SceneWithTargets> {
  const number = library.numberOf(path);
  if (number < 0) throw new NotFoundError(`There is no map at ${path}.`);
  const { states } = library.searchable.tables;
  const format = formatWithId(states.format[library.spanOf(number)] ?? 0).name;
  const bytes = await bytesOf(library, store, number);
  let placements: Placement[] = [];
  if (format === 'recipe') {
    const { recipe } = described;
    if (!recipe) throw new PlainError(`There is no recipe for ${path} any more.`);
    ({ placements } = placementsByRecipe(bytes, recipe));
  } else if (format === 'sheet-map') {
    const { sheet } = described;
    if (!sheet) throw new PlainError(`There is no format sheet for ${path} any more.`);
    const resolve = (): Promise<null> => Promise.resolve(null);
    placements = await bySheet(openedSheet(sheet.text), sheet.version, {
      bytes,
      path,
      resolve,
      keys: sheet.keys,
    }).placements();
  } else if (format === 'placements') placements = placementsOf(JSON.parse(new TextDecoder().decode(bytes)));
  else throw new PlainError(`${path} is not a map of placements.`);
  const names = [...new Set(placements.map(({ model }) => model))];
  const models = await targetsOf(library, lexicon, path, names, 'placement');
  const targets = [...new Set(Object.values(models))].flatMap((target) => {
    const at = target === null ? -1 : library.numberOf(target);
    if (target === null || at < 0) return [];
    const span = library.spanOf(at);
    const size = states.figures.size?.[span] ?? NaN;
    return {
      path: target,
      hash: hashAt(library.searchable.tables.hashes, span),
      format: formatWithId(states.format[span] ?? 0).name,
      size: Number.isNaN(size) ? null : size,
    };
  });
  return { placements, models, costs: {}, grounds: await groundsFor(library, lexicon, number), targets };
}

type Candidate = Parameters<typeof groundsOf>[1][number];

/** Pictures that the map names, and those that are called as it is. */
async function groundsFor(library: BuildLibrary, lexicon: Lexicon, number: number): Promise<MapGrounds> {
  const { index } = library.searchable;
  const path = index.path(number);
  const isPicture = (at: number): boolean => {
    const span = library.spanOf(at);
    return span >= 0 && library.kindOf(span) === 'picture';
  };
  const candidates = new Map<string, Candidate>();
  for (const { mention, to } of (await library.graph(lexicon)).needs(number))
    if (isPicture(to)) candidates.set(index.path(to), { path: index.path(to), key: mention.where });
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  for (const terms of [splitName(stemOf(path)), [folder]]) {
    let looks = 0;
    index.find(terms.filter((term) => term !== '').map(termOf), [], (at) => {
      if (isPicture(at) && !candidates.has(index.path(at)))
        candidates.set(index.path(at), { path: index.path(at), key: null });
      return ++looks < mostLookedAt;
    });
  }
  return groundsOf(path, [...candidates.values()]);
}

/** Tries a recipe on a file, and says what comes of it. */
export async function answerTrial(
  library: BuildLibrary,
  lexicon: Lexicon,
  store: ContentStore,
  { recipe, path }: Questions['tryRecipe']['parameters'],
): Promise<Trial> {
  const { index } = library.searchable;
  const matches = compileNameGlob(recipe.files);
  const files: string[] = [];
  let fileCount = 0;
  for (let number = 0; number < index.size; number++) {
    if (library.spanOf(number) < 0 || !matches(index.path(number))) continue;
    if (files.length < 200) files.push(index.path(number));
    fileCount++;
  }
  const tried = path || files[0];
  const trial: Trial = {
    rows: 0,
    placements: 0,
    first: [],
    models: [],
    faults: [],
    error: null,
    sample: '',
    files,
    fileCount,
  };
  if (tried === undefined) return { ...trial, error: `No file of this build fits ${recipe.files}.` };
  const number = library.numberOf(tried);
  if (number < 0) return { ...trial, error: `This build has no file at ${tried}.` };
  try {
    const bytes = await bytesOf(library, store, number);
    trial.sample = sampleOf(bytes, recipe);
    const outcome = placementsByRecipe(bytes, recipe);
    const names = [...new Set(outcome.placements.map(({ model }) => model))].slice(0, 200);
    const models = await targetsOf(library, lexicon, tried, names, 'placement');
    return {
      ...trial,
      rows: outcome.rows,
      placements: outcome.placements.length,
      first: outcome.placements.slice(0, mostShown),
      models: names.map((model) => ({ model, path: models[model] ?? null })),
      faults:
        outcome.faultCount > outcome.faults.length
          ? [...outcome.faults, `and ${outcome.faultCount - outcome.faults.length} more`]
          : outcome.faults,
    };
  } catch (error) {
    return { ...trial, error: messageOf(error) };
  }
}

/** The paths that names in a file mean: accepted links go before what is found by rule. */
export async function answerResolve(
  library: BuildLibrary,
  lexicon: Lexicon,
  { from, texts }: Questions['resolve']['parameters'],
): Promise<Questions['resolve']['answer']> {
  const paths = await targetsOf(library, lexicon, from, texts, 'file');
  return texts.map((text) => paths[text] ?? null);
}

async function targetsOf(
  library: BuildLibrary,
  lexicon: Lexicon,
  path: string,
  names: readonly string[],
  where: 'placement' | 'file',
): Promise<Record<string, string | null>> {
  const { index } = library.searchable;
  const graph = await library.graph(lexicon);
  const known = new Map(
    graph.needs(library.numberOf(path)).map(({ mention, to }) => [mention.text, index.path(to)]),
  );
  return Object.fromEntries(
    names.map((text) => {
      const found = known.get(text);
      if (found !== undefined) return [text, found];
      const resolved = resolve(library.places(lexicon), { text, sort: 'path', where }, path);
      return [text, resolved && index.path(resolved.target)];
    }),
  );
}

async function bytesOf(library: BuildLibrary, store: ContentStore, number: number): Promise<Buffer> {
  const { tables, index } = library.searchable;
  const content = await store.getLocal(hashAt(tables.hashes, library.spanOf(number)));
  if (content.size > mostBytes) throw new PlainError(`${index.path(number)} is larger than 256 MiB.`);
  return readLocal(content);
}

/** The beginning of a file: its text, or its bytes in rows of sixteen. */
function sampleOf(bytes: Buffer, { form, binary }: PlacementRecipe): string {
  if (form !== 'binary') return bytes.subarray(0, sampleBytes).toString('utf8');
  const lines: string[] = [];
  for (let at = 0; at < Math.min(bytes.length, 512); at += 16) {
    const row = bytes.subarray(at, at + 16);
    const letters = Array.from(row, (byte) =>
      byte >= 32 && byte < 127 ? String.fromCharCode(byte) : '·',
    ).join('');
    lines.push(
      `${String(at).padStart(6)} ${at >= binary.headBytes ? String((at - binary.headBytes) % binary.rowBytes).padStart(4) : '    '}  ${row.toString('hex').replace(/(..)/g, '$1 ').padEnd(48)} ${letters}`,
    );
  }
  return lines.join('\n');
}
