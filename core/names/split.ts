import type { SplitRules } from '../../contract/names.ts';

/** How names are split where a title says nothing else. */
export const usualRules: SplitRules = { separators: '_-. +', camelCase: true, digitsApart: false };

/** What a name is without its folder and its extension. */
export function stemOf(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  // What comes after a late dot is an extension where it is short and no mere number: `gate_v1.25` has none.
  if (dot <= 0 || name.length - dot > 9 || !/[a-z]/i.test(name.slice(dot + 1))) return name;
  return name.slice(0, dot);
}

const enum Sort {
  Other,
  Small,
  Capital,
  Digit,
}

/**
 * Splits a name (without folder and extension) into its parts, in lower case: `HeronWing_L0` is heron, wing and l0.
 * Runs of capitals stay together up to the last one: `HUDLamp` is hud and lamp.
 */
export function splitName(name: string, rules: SplitRules = usualRules): string[] {
  const parts: string[] = [];
  let begin = 0;
  let before = Sort.Other;
  const end = (at: number): void => {
    if (at > begin) parts.push(name.slice(begin, at).toLowerCase());
    begin = at;
  };
  for (let at = 0; at < name.length; at++) {
    const letter = name[at] ?? '';
    if (rules.separators.includes(letter)) {
      end(at);
      begin = at + 1;
      before = Sort.Other;
      continue;
    }
    const sort = sortOf(letter);
    if (at > begin) {
      if (rules.camelCase && sort === Sort.Capital && (before === Sort.Small || before === Sort.Digit))
        end(at);
      else if (rules.camelCase && sort === Sort.Small && before === Sort.Capital && at - begin > 1)
        end(at - 1);
      else if (rules.digitsApart && (sort === Sort.Digit) !== (before === Sort.Digit)) end(at);
    }
    before = sort;
  }
  end(name.length);
  return parts;
}

function sortOf(letter: string): Sort {
  const code = letter.charCodeAt(0);
  if (code < 128) {
    if (code >= 97 && code <= 122) return Sort.Small;
    if (code >= 65 && code <= 90) return Sort.Capital;
    return code >= 48 && code <= 57 ? Sort.Digit : Sort.Other;
  }
  const small = letter.toLowerCase();
  if (small !== letter) return Sort.Capital;
  return letter.toUpperCase() !== letter ? Sort.Small : Sort.Other;
}

/** A part with its numbers as `#`: `l0` and `l12` are both `l#`. */
export function patternOf(part: string): string {
  return part.replace(/\d+/g, '#');
}

/** The number in a part that has exactly one; null otherwise. */
export function numberIn(part: string): number | null {
  const found = /^\D*(\d+)\D*$/.exec(part);
  return found ? Number(found[1]) : null;
}
