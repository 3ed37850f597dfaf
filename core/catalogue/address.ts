import slugify from '@sindresorhus/slugify';

const longestWords = 60;

/** The part of an entry's address that is its own: its number stays for ever, its words follow its name. */
export function addressOf(id: number, name: string): string {
  const words = slugify(name).slice(0, longestWords).replace(/-+$/, '');
  return `${id}${words === '' ? '' : `-${words}`}`;
}

/** Part of an address for a value of a list, such as a tag: readable, and no other value's. */
export function listAddress(value: string): string {
  const words = slugify(value).slice(0, longestWords);
  let sum = 0;
  for (const letter of value) sum = (Math.imul(sum, 31) + (letter.codePointAt(0) ?? 0)) >>> 0;
  return `${words === '' ? 'x' : words}-${sum.toString(36)}`;
}
