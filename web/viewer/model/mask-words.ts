import type { Layer } from '../../../contract/arrangements.ts';

type Mask = Layer['mask'];
const below = ' and below';

/** What a mask says, as people read it: “spine and below”, “jaw”, and words between quotation marks. */
export function maskWords({ branches, words, bones }: Mask): string[] {
  return [...branches.map((bone) => `${bone}${below}`), ...bones, ...words.map((word) => `“${word}”`)];
}

/** The same back: what is no bone’s name is a word in names. @param names of all bones */
export function maskOf(said: readonly string[], names: ReadonlySet<string>): Mask {
  const mask = { branches: [] as string[], words: [] as string[], bones: [] as string[] };
  for (const text of said) {
    const quoted = /^[“"](.+)[”"]$/.exec(text.trim())?.[1];
    if (quoted !== undefined) mask.words.push(quoted);
    else if (text.endsWith(below) && names.has(text.slice(0, -below.length)))
      mask.branches.push(text.slice(0, -below.length));
    else if (names.has(text)) mask.bones.push(text);
    else if (text.trim() !== '') mask.words.push(text.trim());
  }
  return mask;
}

export function isMasked({ branches, words, bones }: Mask): boolean {
  return branches.length + words.length + bones.length > 0;
}
