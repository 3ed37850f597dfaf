import type { SiteDocument } from '../../contract/catalogue.ts';
import {
  documentsInFile,
  shardName,
  unpackNumbers,
  wordsOf,
  type Facet,
  type WordFiles,
} from './search-index.ts';

/** Loads a file below `search/`, as JSON. */
export type Load = (path: string) => Promise<unknown>;

export interface Found {
  /** Numbers of documents, the best first. */
  numbers: number[];
}

/** Searches the files that `makeSearchIndex` made; loads those that the words need, each once. */
export class SiteSearch {
  private readonly loaded = new Map<string, Promise<unknown>>();
  constructor(private readonly load: Load) {}

  private get<T>(path: string): Promise<T> {
    const known = this.loaded.get(path);
    if (known) return known as Promise<T>;
    const coming = this.load(path);
    this.loaded.set(path, coming);
    // What failed is asked for again.
    coming.catch(() => this.loaded.delete(path));
    return coming as Promise<T>;
  }

  /** All words must be there, each as the beginning of one. Those that are called so come first, then the newest. */
  async find(query: string): Promise<Found> {
    const words = wordsOf(query);
    if (words.length === 0) return { numbers: [] };
    const scores = await Promise.all(words.map((word) => this.scoresOf(word)));
    const [first = new Map<number, number>(), ...others] = scores.sort((a, b) => a.size - b.size);
    const found: [number, number][] = [];
    for (const [number, score] of first) {
      const all = others.map((other) => other.get(number));
      if (all.every((one) => one !== undefined))
        found.push([number, score + all.reduce((sum, one) => sum + one, 0)]);
    }
    found.sort(([a, one], [b, other]) => other - one || b - a);
    return { numbers: found.map(([number]) => number) };
  }

  private async scoresOf(word: string): Promise<Map<number, number>> {
    const { shards } = await this.get<WordFiles>('words.json');
    // A file of fewer letters holds words that are as short; one of more letters holds what begins with the word.
    const wanted = shards.filter((letters) => letters.startsWith(word) || word.startsWith(letters));
    const longest = Math.max(
      0,
      ...wanted.filter((letters) => word.startsWith(letters)).map((one) => one.length),
    );
    const files = wanted.filter((letters) => letters.startsWith(word) || letters.length === longest);
    const scores = new Map<number, number>();
    const contents = await Promise.all(
      files.map((letters) => this.get<Record<string, [string, string]>>(`w/${shardName(letters)}.json`)),
    );
    for (const content of contents)
      for (const [known, [called, elsewhere]] of Object.entries(content)) {
        if (!known.startsWith(word)) continue;
        const isWhole = known === word;
        for (const number of unpackNumbers(called)) raise(scores, number, isWhole ? 8 : 4);
        for (const number of unpackNumbers(elsewhere)) raise(scores, number, isWhole ? 2 : 1);
      }
    return scores;
  }

  /** The documents of some numbers, in their order. */
  async documents(numbers: readonly number[]): Promise<SiteDocument[]> {
    const found = await Promise.all(
      numbers.map(async (number) => {
        const file = await this.get<SiteDocument[]>(`d/${Math.floor(number / documentsInFile)}.json`);
        return file[number % documentsInFile];
      }),
    );
    return found.flatMap((document) => document ?? []);
  }

  /** Values of a facet with the documents that have them. */
  async facet(facet: Facet): Promise<{ value: string; numbers: number[] }[]> {
    const values = await this.get<[string, string][]>(`f/${facet}.json`);
    return values.map(([value, packed]) => ({ value, numbers: unpackNumbers(packed) }));
  }
}

function raise(scores: Map<number, number>, number: number, score: number): void {
  if ((scores.get(number) ?? 0) < score) scores.set(number, score);
}
