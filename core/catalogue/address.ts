import slugify from '@sindresorhus/slugify';

const longestWords = 60;

/**
 * Words of a text as they stand in an address. What has Latin letters alone needs no table of all alphabets, which takes a
 * hundred times as long: 1.4 ms a name.
 */
function wordsOf(text: string): string {
  if (!/^[\x20-\x7e]*$/.test(text) || /[&']/.test(text)) return slugify(text);
  return text
    .replace(/([a-z\d])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .replace(/[^a-z\d]+/g, '-')
    .replace(/^-+|-+$/g, '');
}

/** The part of an entry's address that is its own: its number stays for ever, its words follow its name. */
export function addressOf(id: number, name: string): string {
  const words = wordsOf(name).slice(0, longestWords).replace(/-+$/, '');
  return `${id}${words === '' ? '' : `-${words}`}`;
}

/** Part of an address for a value of a list, such as a tag: readable, and no other value's. */
export function listAddress(value: string): string {
  const words = wordsOf(value).slice(0, longestWords);
  let sum = 0;
  for (const letter of value) sum = (Math.imul(sum, 31) + (letter.codePointAt(0) ?? 0)) >>> 0;
  return `${words === '' ? 'x' : words}-${sum.toString(36)}`;
}
