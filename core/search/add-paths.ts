import { placeOf, type FoldedTexts } from './path-column.ts';
import { firstTables, makeGramTables, type PathTables } from './path-tables.ts';

/** Tables with paths that came in among the others, and the numbers that these have now. */
export interface WidenedTables {
  tables: PathTables;
  /** By the number that it had. */
  numberOfKnown: Uint32Array;
  /** By its place among those that came. */
  numberOfFresh: Uint32Array;
}

/** So many paths that came later have lists of their own; of more, or of a tenth of all, everything is made anew. */
const mostLater = 20_000;

/**
 * Takes more paths into tables. What finds the others stays as it is.
 * @param fresh in order, each once and none of them in the tables
 */
export function addPaths(known: PathTables, fresh: FoldedTexts): WidenedTables {
  const [knownCount, freshCount] = [known.begin.length, fresh.begin.length];
  if (freshCount === 0)
    return {
      tables: known,
      numberOfKnown: Uint32Array.from(known.begin, (_, number) => number),
      numberOfFresh: new Uint32Array(0),
    };
  const count = knownCount + freshCount;
  const numberOfFresh = Uint32Array.from({ length: freshCount }, (_, at) => placeOf(known, fresh, at) + at);
  /** Goes through what lies between paths that came: from where to where it was, and how many came before it. */
  const eachRun = (visit: (from: number, to: number, before: number) => void): void => {
    let from = 0;
    for (let at = 0; at <= freshCount; at++) {
      const to = at < freshCount ? (numberOfFresh[at] ?? 0) - at : knownCount;
      visit(from, to, at);
      from = to;
    }
  };
  const numberOfKnown = new Uint32Array(knownCount);
  eachRun((from, to, before) => {
    for (let at = from; at < to; at++) numberOfKnown[at] = at + before;
  });
  const text = new Uint8Array(known.text.length + fresh.text.length);
  text.set(known.text);
  text.set(fresh.text, known.text.length);
  const merged = (part: 'begin' | 'end' | 'foldedBegin' | 'foldedEnd'): Uint32Array => {
    const column = new Uint32Array(count);
    eachRun((from, to, before) => column.set(known[part].subarray(from, to), from + before));
    numberOfFresh.forEach((number, at) => (column[number] = (fresh[part][at] ?? 0) + known.text.length));
    return column;
  };
  const [begin, end] = [merged('begin'), merged('end')];
  const isPlain = known.foldedBegin === known.begin && fresh.foldedBegin === fresh.begin;
  const texts: FoldedTexts = {
    text,
    begin,
    end,
    foldedBegin: isPlain ? begin : merged('foldedBegin'),
    foldedEnd: isPlain ? end : merged('foldedEnd'),
  };
  const later = Uint32Array.from([
    ...known.later.map((number) => numberOfKnown[number] ?? 0),
    ...numberOfFresh,
  ]).sort();
  const isMany = later.length > Math.max(mostLater, count / 10);
  const pick = (column: Uint32Array): Uint32Array => later.map((number) => column[number] ?? 0);
  const [foldedBegin, foldedEnd] = [pick(texts.foldedBegin), pick(texts.foldedEnd)];
  return {
    tables: {
      ...texts,
      ...(isMany
        ? firstTables(texts)
        : { first: known.first, later, laterGrams: makeGramTables({ text, foldedBegin, foldedEnd }) }),
    },
    numberOfKnown,
    numberOfFresh,
  };
}
