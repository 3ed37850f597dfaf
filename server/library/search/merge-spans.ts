import { addPaths } from '../../../core/search/add-paths.ts';
import { compareTexts, PathColumn, placeOf, type FoldedTexts } from '../../../core/search/path-column.ts';
import type { PathTables } from '../../../core/search/path-tables.ts';
import type { RangeField } from '../../../core/search/query.ts';
import type { Numbers } from './array-file.ts';
import type { SearchTables } from './search-tables.ts';
import type { Spans } from './span-columns.ts';

/** Numbers of texts among others; -1 for those that are not there. */
function numbersIn(within: PathTables, texts: FoldedTexts): Int32Array {
  return Int32Array.from({ length: texts.begin.length }, (_, number) => {
    const place = placeOf(within, texts, number);
    return place < within.begin.length && compareTexts(within, place, texts, number) === 0 ? place : -1;
  });
}

/** Takes spans into tables: those of a path that begin with the same build take the place of the earlier ones. */
export function mergeSpans(
  known: Omit<SearchTables, 'containers' | 'madeOf'>,
  changed: Spans,
): Omit<SearchTables, 'containers' | 'madeOf'> {
  const knownNumbers = numbersIn(known.paths, changed.paths);
  const places = Uint32Array.from(knownNumbers, (_, at) => at);
  const came = places.filter((at) => (knownNumbers[at] ?? 0) < 0);
  const decoder = new TextDecoder();
  const fresh = new PathColumn(came.length * 64);
  for (const place of came)
    fresh.add(
      decoder.decode(changed.paths.text.subarray(changed.paths.begin[place], changed.paths.end[place])),
    );
  const { tables, numberOfKnown, numberOfFresh } = addPaths(known.paths, fresh.finish());
  const changedAt = new Int32Array(tables.begin.length).fill(-1);
  const knownAt = new Int32Array(tables.begin.length).fill(-1);
  numberOfKnown.forEach((number, at) => (knownAt[number] = at));
  came.forEach((place, at) => (changedAt[numberOfFresh[at] ?? 0] = place));
  knownNumbers.forEach((number, place) => {
    if (number >= 0) changedAt[numberOfKnown[number] ?? 0] = place;
  });

  const sources = new Sources(known.states.first.length + changed.states.first.length);
  const spanAt = new Uint32Array(tables.begin.length + 1);
  for (let number = 0; number < tables.begin.length; number++) {
    const before = knownAt[number] ?? -1;
    const place = changedAt[number] ?? -1;
    const [from = 0, to = 0] =
      before < 0 ? [] : [known.states.spanAt[before], known.states.spanAt[before + 1]];
    const [changedFrom = 0, changedTo = 0] =
      place < 0 ? [] : [changed.states.spanAt[place], changed.states.spanAt[place + 1]];
    let next = changedFrom;
    for (let span = from; span < to; span++) {
      const first = known.states.first[span] ?? 0;
      while (next < changedTo && (changed.states.first[next] ?? 0) < first) sources.addChanged(next++);
      if (next < changedTo && changed.states.first[next] === first) sources.addChanged(next++);
      else sources.addKnown(span);
    }
    while (next < changedTo) sources.addChanged(next++);
    spanAt[number + 1] = sources.count;
  }
  const none = new Float64Array(0);
  const fields = new Set([...Object.keys(known.states.figures), ...Object.keys(changed.states.figures)]);
  return {
    paths: tables,
    states: {
      spanAt,
      oldest: known.states.oldest,
      first: sources.gather(known.states.first, changed.states.first, new Uint32Array(sources.count)),
      last: sources.gather(known.states.last, changed.states.last, new Uint32Array(sources.count)),
      format: sources.gather(known.states.format, changed.states.format, new Uint16Array(sources.count)),
      figures: Object.fromEntries(
        ([...fields] as RangeField[]).map((field) => [
          field,
          sources.gather(
            known.states.figures[field] ?? none,
            changed.states.figures[field] ?? none,
            new Float64Array(sources.count).fill(NaN),
          ),
        ]),
      ),
    },
    hashes: sources.gather(known.hashes, changed.hashes, new Uint8Array(sources.count * 32)),
    previews: sources.gather(known.previews, changed.previews, new Uint8Array(sources.count)),
  };
}

/** Where spans come from, run by run: most stand one after the other in the tables that were there. */
class Sources {
  count = 0;
  /** The span itself, or, below 0, one less than minus that of the changed ones. */
  private readonly source: Int32Array;

  constructor(most: number) {
    this.source = new Int32Array(most);
  }

  addKnown(span: number): void {
    this.source[this.count++] = span;
  }

  addChanged(span: number): void {
    this.source[this.count++] = -1 - span;
  }

  /** A column, of whose numbers as many belong to each span as the place for it says; an empty one has none. */
  gather<Column extends Numbers>(known: Column, changed: Column, column: Column): Column {
    const width = this.count === 0 ? 1 : column.length / this.count;
    for (let at = 0; at < this.count;) {
      const source = this.source[at] ?? 0;
      const step = source < 0 ? -1 : 1;
      let end = at + 1;
      while (end < this.count && this.source[end] === source + step * (end - at)) end++;
      const from = (source < 0 ? -1 - source : source) * width;
      const part = source < 0 ? changed : known;
      column.set(part.subarray(from, from + (end - at) * width), at * width);
      at = end;
    }
    return column;
  }
}
