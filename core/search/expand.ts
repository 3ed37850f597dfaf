import type { Lexicon } from '../names/lexicon.ts';
import { splitName, stemOf } from '../names/split.ts';
import type { Alternative, Term } from './gram-lists.ts';
import { termOf } from './path-index.ts';
import { QueryError, type Query } from './query.ts';

/** What a query asks of paths, with what the lexicon knows of its words. */
export interface Terms {
  wanted: Term[];
  excluded: Term[];
}

const encoder = new TextEncoder();
/** Of a word that half of the lexicon means, no more are looked for. */
const mostAlternatives = 40;

/**
 * Makes the terms of a query's words and roles: a word finds what it is a part of, and what a part of the lexicon means
 * that stands for it.
 * @throws QueryError where the lexicon knows no part for a role and value
 */
export function termsOf(query: Query, lexicon: Lexicon): Terms {
  const terms: Terms = { wanted: [], excluded: [] };
  for (const { text, isExcluded } of query.words) {
    const alternatives = lexicon
      .partsMeaning(text)
      .slice(0, mostAlternatives)
      .map(({ part }) => partAlternative(part, lexicon));
    (isExcluded ? terms.excluded : terms.wanted).push([...termOf(text), ...alternatives]);
  }
  for (const { role, values, isExcluded, at, length } of query.roles) {
    const parts = values.flatMap((value) => lexicon.partsOfRole(role, value));
    if (parts.length === 0)
      throw new QueryError(`The lexicon knows no ${role} “${values.join(', ')}”`, at, length);
    (isExcluded ? terms.excluded : terms.wanted).push(
      parts.slice(0, mostAlternatives).map((part) => partAlternative(part, lexicon)),
    );
  }
  return terms;
}

/** A path that has a part, or some parts one after the other, in its name or in the name of a folder. */
function partAlternative(part: string, lexicon: Lexicon): Alternative {
  const parts = lexicon.partsOf(part);
  const pattern = parts.map((text) => text.replace(/#.*$/, ''));
  return {
    texts: pattern.filter((text) => text !== '').map((text) => encoder.encode(text)),
    fits: (path) => holdsParts(path, parts, lexicon),
  };
}

function holdsParts(path: string, parts: readonly string[], lexicon: Lexicon): boolean {
  const folders = path.split('/');
  folders[folders.length - 1] = stemOf(path);
  return folders.some((segment) => {
    const here = splitName(segment, lexicon.rules);
    for (let at = 0; at + parts.length <= here.length; at++)
      if (parts.every((part, place) => isPart(here[at + place] ?? '', part))) return true;
    return false;
  });
}

function isPart(part: string, wanted: string): boolean {
  return wanted.includes('#') ? part.replace(/\d+/g, '#') === wanted : part === wanted;
}

/** Which meaning of which part made a path fit a word that it does not hold; null where it holds the word. */
export function lexiconReason(path: string, word: string, lexicon: Lexicon): string | null {
  if (path.toLowerCase().includes(word)) return null;
  for (const entry of lexicon.partsMeaning(word))
    if (holdsParts(path, lexicon.partsOf(entry.part), lexicon)) return `“${entry.part}” is ${entry.meaning}`;
  return null;
}
