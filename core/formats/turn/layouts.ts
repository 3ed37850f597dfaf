/** An entry where it lies before. */
export interface PlacedEntry {
  at: number;
  place: number;
  size: number;
  /** What is to lie there; null where nothing changes. */
  packed: Uint8Array | null;
}

/** A way in which other files lie in a container. Fields are as they were. */
export interface Layout {
  /** In a few words, for people. */
  says: string;
  bytes: Uint8Array;
  lengthBefore: number;
  /** Where each entry lies now. */
  entries: { place: number; size: number }[];
  /** Where a byte went. */
  moved: (place: number) => number;
}

const stays = (place: number): number => place;

/** Ways in which it may be done, those first that leave most as it was; each is made when it is asked for. */
export function* layoutsOf(file: Uint8Array, entries: readonly PlacedEntry[]): Generator<Layout> {
  const step = evenness(entries);
  const kept = inPlace(file, entries);
  if (kept) yield kept;
  yield behind(file, entries, step);
  // Where one lies after the other without a table of places, nothing may lie between them.
  for (const each of new Set([step, 1])) {
    const layout = shifted(file, entries, each);
    if (layout) yield layout;
  }
}

/** Where the old ones lay, filled up with zeros; null where one is larger, or lies where another does. */
function inPlace(file: Uint8Array, entries: readonly PlacedEntry[]): Layout | null {
  const changed = entries.filter(({ packed }) => packed !== null);
  if (changed.some((entry) => (entry.packed?.length ?? 0) > entry.size || isShared(entry, entries)))
    return null;
  const bytes = Uint8Array.from(file);
  for (const { place, size, packed } of changed) {
    bytes.fill(0, place, place + size);
    if (packed) bytes.set(packed, place);
  }
  return {
    says: 'it lies where the old one lay',
    ...{ bytes, lengthBefore: file.length, moved: stays },
    entries: entries.map(({ place, size, packed }) => ({ place, size: packed?.length ?? size })),
  };
}

/** Behind all that is there, at a place as even as those of the others. */
function behind(file: Uint8Array, entries: readonly PlacedEntry[], step: number): Layout {
  let end = file.length;
  const places = entries.map(({ place, size, packed }) => {
    if (!packed) return { place, size };
    const begin = Math.ceil(end / step) * step;
    end = begin + packed.length;
    return { place: begin, size: packed.length };
  });
  const bytes = new Uint8Array(end);
  bytes.set(file);
  for (const [at, { packed }] of entries.entries()) if (packed) bytes.set(packed, places[at]?.place ?? 0);
  return {
    says: 'it lies behind all others',
    ...{ bytes, lengthBefore: file.length, moved: stays, entries: places },
  };
}

/** Where the old ones lay, and all that lay behind them moved; null where one lies where another does. */
function shifted(file: Uint8Array, entries: readonly PlacedEntry[], step: number): Layout | null {
  const changed = entries.filter(({ packed }) => packed !== null).sort((a, b) => a.place - b.place);
  if (changed.some((entry) => isShared(entry, entries))) return null;
  const cuts = changed.map(({ at, place, size, packed }) => {
    const difference = (packed?.length ?? 0) - size;
    return { at, end: place + size, place, packed, by: Math.ceil(difference / step) * step };
  });
  const moved = (place: number, entry = -1): number =>
    place + cuts.reduce((sum, { at, end, by }) => (place >= end && at !== entry ? sum + by : sum), 0);
  const bytes = new Uint8Array(file.length + cuts.reduce((sum, { by }) => sum + by, 0));
  let from = 0;
  for (const { at, place, end, packed } of cuts) {
    bytes.set(file.subarray(from, place), moved(from));
    if (packed) bytes.set(packed, moved(place, at));
    from = end;
  }
  bytes.set(file.subarray(from), moved(from));
  return {
    says: 'it lies where the old one lay, and what lies behind it has moved',
    ...{ bytes, lengthBefore: file.length, moved },
    entries: entries.map(({ at, place, size, packed }) => ({
      place: moved(place, at),
      size: packed?.length ?? size,
    })),
  };
}

function isShared(entry: PlacedEntry, entries: readonly PlacedEntry[]): boolean {
  return entries.some(
    (other) =>
      other !== entry &&
      other.size > 0 &&
      other.place < entry.place + entry.size &&
      entry.place < other.place + other.size,
  );
}

const mostEvenness = 4096;

/** The greatest power of two that all places are multiples of. */
function evenness(entries: readonly PlacedEntry[]): number {
  let step = mostEvenness;
  for (const { place } of entries) while (place % step !== 0) step /= 2;
  return step;
}
