import { isScalar, scalarText } from '../keyed-values.ts';
import { bareName, elementOrder, elementText } from './elements.ts';

const longest = 300;

/** A value as people read it. Words stand as they are, where nothing of them is invisible. */
export function shownValue(value: unknown): string {
  if (typeof value === 'string') return isVisible(value) ? value : quoted(value);
  return shortened(isScalar(value) ? scalarText(value) : textOf(value));
}

/** Two values beside each other: where they look the same, or are of two types, words stand in quotation marks. */
export function shownPair(old: unknown, now: unknown): [old: string, now: string] {
  const isText = [typeof old === 'string', typeof now === 'string'] as const;
  const isClear = isText[0] === isText[1] && shownValue(old) !== shownValue(now);
  const shown = (value: unknown): string =>
    !isClear && typeof value === 'string' ? quoted(value) : shownValue(value);
  return [shown(old), shown(now)];
}

/** Nothing, spaces at an end or in a row, and characters without a shape are not to be seen. */
function isVisible(text: string): boolean {
  return text !== '' && !/^\s|\s$|\s\s|[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\u00a0\u2000-\u200b\u202f]/u.test(text);
}

/** As JSON has it, with what has no shape by its number. */
export function quoted(text: string): string {
  return shortened(
    JSON.stringify(text).replace(
      /[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\u00a0\u2000-\u200b\u202f]/gu,
      (character) => `\\u${(character.codePointAt(0) ?? 0).toString(16).padStart(4, '0')}`,
    ),
  );
}

/** As JSON on one line; numbers of many digits keep them. */
function textOf(value: unknown): string {
  if (isScalar(value)) return typeof value === 'string' ? JSON.stringify(value) : scalarText(value);
  if (Array.isArray(value)) return `[${some(value as unknown[], textOf)}]`;
  return `{${some(
    Object.entries(value as Record<string, unknown>).filter(([key]) => key !== elementOrder),
    ([key, inner]) => `${key === elementText ? 'text' : bareName(key)}: ${textOf(inner)}`,
  )}}`;
}

/** No more than can be shown. */
function some<Item>(items: readonly Item[], text: (item: Item) => string): string {
  return items.length > 20 ? [...items.slice(0, 20).map(text), '…'].join(', ') : items.map(text).join(', ');
}

function shortened(text: string): string {
  return text.length > longest ? `${text.slice(0, longest - 1)}…` : text;
}
