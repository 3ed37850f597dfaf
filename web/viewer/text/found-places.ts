/** Further places are not counted. */
const mostPlaces = 10_000;

/** Where some words stand in a text, in whatever case: the places of their first letters. */
export function foundPlaces(text: string, words: string): { places: number[]; isCut: boolean } {
  const places: number[] = [];
  if (words === '') return { places, isCut: false };
  const [folded, wanted] = [foldCase(text), foldCase(words)];
  for (let at = folded.indexOf(wanted); at >= 0; at = folded.indexOf(wanted, at + wanted.length)) {
    if (places.length === mostPlaces) return { places, isCut: true };
    places.push(at);
  }
  return { places, isCut: false };
}

/** Small letters, as many as there were: `İ` would become two, and every place behind it another one. */
function foldCase(text: string): string {
  const small = text.toLowerCase();
  if (small.length === text.length) return small;
  return Array.from(text, (letter) => {
    const other = letter.toLowerCase();
    return other.length === letter.length ? other : letter;
  }).join('');
}

/** The place at or behind a cursor, or the last one before it; round and round. @returns -1 where there is none */
export function placeFrom(places: readonly number[], cursor: number, isBack: boolean): number {
  if (places.length === 0) return -1;
  if (isBack) {
    const before = places.findLastIndex((place) => place < cursor);
    return before < 0 ? places.length - 1 : before;
  }
  const behind = places.findIndex((place) => place >= cursor);
  return behind < 0 ? 0 : behind;
}
