import type { FontCharacters } from '../../../contract/fonts.ts';

const lastCodePoint = 0x10ffff;

/** Code points as runs of those that follow one another. */
export function runsOf(characters: readonly number[]): FontCharacters {
  const sorted = [...new Set(characters)]
    .filter((code) => Number.isInteger(code) && code >= 0 && code <= lastCodePoint)
    .sort((a, b) => a - b);
  const runs: [number, number][] = [];
  for (const code of sorted) {
    const last = runs.at(-1);
    if (last && last[1] === code - 1) last[1] = code;
    else runs.push([code, code]);
  }
  return { runs, total: sorted.length };
}

/** Whether a font has a character. */
export function hasCharacter({ runs }: FontCharacters, code: number): boolean {
  let [low, high] = [0, runs.length - 1];
  while (low <= high) {
    const middle = (low + high) >> 1;
    const [from, to] = runs[middle] ?? [0, 0];
    if (code < from) high = middle - 1;
    else if (code > to) low = middle + 1;
    else return true;
  }
  return false;
}

/** Characters of a text that a font lacks, each once, in their order; spaces and ends of lines are none. */
export function lackingIn(font: FontCharacters, text: string): string[] {
  const lacking = new Set<string>();
  for (const letter of text)
    if (!/[\s\p{Cc}\p{Cf}]/u.test(letter) && !hasCharacter(font, letter.codePointAt(0) ?? 0))
      lacking.add(letter);
  return [...lacking];
}

/** The character at a place of a font, in the order of code points; -1 beyond the last. */
export function characterAt({ runs }: FontCharacters, place: number): number {
  let left = place;
  for (const [from, to] of runs) {
    if (left <= to - from) return from + left;
    left -= to - from + 1;
  }
  return -1;
}

/** The place of a character, or of the next one that there is; -1 behind the last. */
export function placeOfCharacter({ runs }: FontCharacters, code: number): number {
  let before = 0;
  for (const [from, to] of runs) {
    if (code <= to) return before + Math.max(0, code - from);
    before += to - from + 1;
  }
  return -1;
}

/** How code points are written: `U+00E9`. */
export function codeText(code: number): string {
  return `U+${code.toString(16).toUpperCase().padStart(4, '0')}`;
}

/** What somebody who looks for a character may have typed: itself, `U+00E9`, `00E9`, `0xe9`. @returns -1 for neither */
export function typedCharacter(text: string): number {
  const bare = text.trim();
  const letters = [...bare];
  if (letters.length === 1) return letters[0]?.codePointAt(0) ?? -1;
  const code = /^(?:u\+|0x|\\u)?([0-9a-f]{2,6})$/i.exec(bare)?.[1];
  const number = code === undefined ? -1 : Number.parseInt(code, 16);
  return number > lastCodePoint ? -1 : number;
}
