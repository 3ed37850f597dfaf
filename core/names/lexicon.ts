import type { LexiconEntry, NameRole, ReadName, SplitRules } from '../../contract/names.ts';
import { commonParts } from './common-parts.ts';
import { numberIn, patternOf, splitName, stemOf, usualRules } from './split.ts';

/** Some parts of a name that mean something together; most are one part. */
export interface NamedPart {
  /** As in the name; several are joined by `_`. */
  part: string;
  /** How many parts of the name it takes. */
  length: number;
  entry: LexiconEntry | null;
  /** The number that stands for `#`. */
  number: number | null;
}

/** A title's lexicon, with what is common practice behind it. */
export class Lexicon {
  readonly rules: SplitRules;
  readonly entries: readonly LexiconEntry[];
  private readonly byPart = new Map<string, LexiconEntry>();
  private readonly longest: number;

  /** @param refused parts that mean nothing here, whatever common practice says */
  constructor(
    entries: readonly LexiconEntry[] = [],
    rules: SplitRules = usualRules,
    refused: readonly string[] = [],
  ) {
    this.rules = rules;
    const without = new Set(refused);
    this.entries = [...entries, ...commonParts.filter(({ part }) => !without.has(part))];
    let longest = 1;
    for (const entry of this.entries) {
      const parts = this.partsOf(entry.part);
      longest = Math.max(longest, parts.length);
      const key = parts.join('_');
      // A title's own come first, and stay.
      if (key !== '' && !this.byPart.has(key)) this.byPart.set(key, entry);
    }
    this.longest = longest;
  }

  /** Parts of an entry; `#` is no separator. */
  partsOf(part: string): string[] {
    return splitName(part, { ...this.rules, digitsApart: false, camelCase: false });
  }

  /** What one part means, or several that are joined by `_`. */
  entryOf(part: string): { entry: LexiconEntry; number: number | null } | null {
    const exact = this.byPart.get(part);
    if (exact) return { entry: exact, number: numberIn(part) };
    // Most parts have no number: they are not looked at twice.
    if (!/\d/.test(part)) return null;
    const general = this.byPart.get(patternOf(part));
    return general ? { entry: general, number: numberIn(part) } : null;
  }

  /** Goes through the parts of a name; where several mean something together, the most go before fewer. */
  read(parts: readonly string[]): NamedPart[] {
    const named: NamedPart[] = [];
    for (let at = 0; at < parts.length;) {
      let found: NamedPart | null = null;
      for (let length = Math.min(this.longest, parts.length - at); length > 0 && !found; length--) {
        const part = length === 1 ? (parts[at] ?? '') : parts.slice(at, at + length).join('_');
        const known = this.entryOf(part);
        if (known) found = { part, length, ...known };
      }
      found ??= { part: parts[at] ?? '', length: 1, entry: null, number: null };
      named.push(found);
      at += found.length;
    }
    return named;
  }

  /** A file's name, part by part, for people. */
  readPath(path: string): ReadName {
    return this.read(splitName(stemOf(path), this.rules)).map(({ part, entry, number }) => ({
      part,
      role: entry?.role ?? null,
      meaning: entry ? meaningWith(entry, number) : '',
      saidBy: entry?.saidBy ?? '',
    }));
  }

  /**
   * Parts that a word stands for: those whose meaning holds it. What is common practice is left out: everybody would
   * find every normal map by `normal`.
   */
  partsMeaning(word: string): LexiconEntry[] {
    return this.entries.filter(
      ({ meaning, saidBy }) => saidBy !== 'common practice' && wordsHold(meaning, word),
    );
  }

  /** Parts of a role that stand for a value: a number for `#`, or a word of the meaning. */
  partsOfRole(role: NameRole, value: string): string[] {
    const parts: string[] = [];
    for (const [key, entry] of this.byPart) {
      if (entry.role !== role) continue;
      if (key.includes('#')) {
        if (/^\d+$/.test(value)) for (const digits of spellings(value)) parts.push(key.replace('#', digits));
        continue;
      }
      const isNumber = /^\d+$/.test(value) && numberIn(key) === Number(value);
      if (isNumber || key === value || wordsHold(entry.meaning, value)) parts.push(key);
    }
    return parts;
  }
}

/** The meaning of a part with its number. */
export function meaningWith({ meaning }: LexiconEntry, number: number | null): string {
  return number === null ? meaning : meaning.replace('#', String(number));
}

/** Whether a meaning has a word, from its beginning on: `her` is in “Heron, grey”, `ron` is not. */
function wordsHold(meaning: string, word: string): boolean {
  const folded = meaning.toLowerCase();
  for (let at = folded.indexOf(word); at >= 0; at = folded.indexOf(word, at + 1))
    if (at === 0 || !/[\p{L}\p{N}]/u.test(folded[at - 1] ?? '')) return true;
  return false;
}

/** A number as names write it: 0, 00, 000. */
function spellings(value: string): string[] {
  const plain = String(Number(value));
  return [plain, plain.padStart(2, '0'), plain.padStart(3, '0')].filter(
    (text, at, all) => all.indexOf(text) === at,
  );
}
