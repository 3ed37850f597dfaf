import type { SiteDocument } from '../../contract/catalogue.ts';

/**
 * The index of a published site: small files, of which a search loads those that its words need. The same records give the same
 * files, byte by byte, so that the next edition writes only those that changed.
 *
 * Roads not taken, measured over 12,000 records on two cores: a package that indexes static sites took 12 s, its files being
 * made anew as a whole each time (50 s for 50,000, where an edition with few changes has 15 s in all). One whole index as JSON
 * is loaded before the first result.
 */
export interface SearchRecord {
  document: SiteDocument;
  /** Names of all kinds: what stands here counts more. */
  names: readonly string[];
  /** What it is found by beside that: paths, tags, builds. */
  others: readonly string[];
  facets: Readonly<Record<Facet, readonly string[]>>;
}

export const facets = ['kind', 'thing', 'tag', 'build'] as const;
export type Facet = (typeof facets)[number];

/** So many documents lie in one file. */
export const documentsInFile = 16;
/** Letters of a word that say in which file it lies. */
const shardLetters = 2;
/** A file of words is parted by one more letter where it would hold more numbers than this. */
const mostInShard = 12_000;
const longestWord = 40;

/** Words of a text, lower-case: parted at what is no letter or digit, and between lower and upper case. */
export function wordsOf(text: string): string[] {
  return text
    .normalize('NFKC')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map((word) => [...word].slice(0, longestWord).join(''));
}

/** The file of words that begin so: letters as hex digits of their code points, so that every file system takes it. */
export function shardName(letters: string): string {
  return [...letters].map((letter) => (letter.codePointAt(0) ?? 0).toString(16)).join('-');
}

/** Postings of a word: those that are called so, and those that have it elsewhere. Ascending numbers of documents. */
type Postings = [called: number[], elsewhere: number[]];

/** What `search/words.json` holds: which files of words there are. */
export interface WordFiles {
  documents: number;
  shards: string[];
}

/** @returns texts of files by their paths below `search/` */
export function makeSearchIndex(records: readonly SearchRecord[]): Map<string, string> {
  const files = new Map<string, string>();
  const words = new Map<string, Postings>();
  const values = new Map<Facet, Map<string, number[]>>(facets.map((facet) => [facet, new Map()]));
  records.forEach((record, number) => {
    const called = new Set(record.names.flatMap(wordsOf));
    const elsewhere = new Set(record.others.flatMap(wordsOf));
    for (const word of called) postingsOf(words, word)[0].push(number);
    for (const word of elsewhere) if (!called.has(word)) postingsOf(words, word)[1].push(number);
    for (const facet of facets)
      for (const value of new Set(record.facets[facet])) {
        const known = values.get(facet);
        const list = known?.get(value);
        if (list) list.push(number);
        else known?.set(value, [number]);
      }
  });
  for (let from = 0; from < records.length; from += documentsInFile)
    files.set(
      `d/${from / documentsInFile}.json`,
      JSON.stringify(records.slice(from, from + documentsInFile).map(({ document }) => document)),
    );
  const shards = shardsOf(words);
  for (const [letters, list] of shards)
    files.set(
      `w/${shardName(letters)}.json`,
      JSON.stringify(
        Object.fromEntries(
          list.map((word) => {
            const [called = [], elsewhere = []] = words.get(word) ?? [];
            return [word, [packNumbers(called), packNumbers(elsewhere)]];
          }),
        ),
      ),
    );
  const told: WordFiles = { documents: records.length, shards: [...shards.keys()].sort() };
  files.set('words.json', JSON.stringify(told));
  for (const facet of facets) {
    const sorted = [...(values.get(facet) ?? [])].sort(([a], [b]) => (a < b ? -1 : 1));
    files.set(
      `f/${facet}.json`,
      JSON.stringify(sorted.map(([value, numbers]) => [value, packNumbers(numbers)])),
    );
  }
  return files;
}

function postingsOf(words: Map<string, Postings>, word: string): Postings {
  const known = words.get(word);
  if (known) return known;
  const fresh: Postings = [[], []];
  words.set(word, fresh);
  return fresh;
}

/** Words by the letters that they begin with: more letters where too much begins with the same ones. */
function shardsOf(words: ReadonlyMap<string, Postings>): Map<string, string[]> {
  const shards = new Map<string, string[]>();
  const place = (list: readonly string[], letters: number): void => {
    const groups = new Map<string, string[]>();
    for (const word of list) {
      const begin = [...word].slice(0, letters).join('');
      const group = groups.get(begin);
      if (group) group.push(word);
      else groups.set(begin, [word]);
    }
    for (const [begin, group] of groups) {
      const size = group.reduce((sum, word) => {
        const [called = [], elsewhere = []] = words.get(word) ?? [];
        return sum + called.length + elsewhere.length;
      }, 0);
      const longer = group.filter((word) => [...word].length > letters);
      if (size <= mostInShard || longer.length === 0 || letters >= longestWord) {
        shards.set(begin, group);
        continue;
      }
      const short = group.filter((word) => [...word].length <= letters);
      // The word itself keeps the file of its letters.
      if (short.length > 0) shards.set(begin, short);
      place(longer, letters + 1);
    }
  };
  place([...words.keys()].sort(), shardLetters);
  return shards;
}

/** Ascending numbers as distances in base 36, runs of neighbours as `-length`: `4,1-3,k`. */
export function packNumbers(numbers: readonly number[]): string {
  const parts: string[] = [];
  let last = -1;
  for (let at = 0; at < numbers.length;) {
    const number = numbers[at] ?? 0;
    let run = 1;
    while ((numbers[at + run] ?? -1) === number + run) run++;
    parts.push((number - last).toString(36) + (run > 1 ? `-${run.toString(36)}` : ''));
    last = number + run - 1;
    at += run;
  }
  return parts.join(',');
}

/** @throws Error where the text was not made by `packNumbers` */
export function unpackNumbers(text: string): number[] {
  const numbers: number[] = [];
  let last = -1;
  for (const part of text === '' ? [] : text.split(',')) {
    const [distance = '', run = '1'] = part.split('-');
    const [step, length] = [parseInt(distance, 36), parseInt(run, 36)];
    if (!(step > 0) || !(length > 0) || length > 1e7) throw new Error(`no list of numbers: ${part}`);
    for (let at = 0; at < length; at++) numbers.push((last += at === 0 ? step : 1));
  }
  return numbers;
}
