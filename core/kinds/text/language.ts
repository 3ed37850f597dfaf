/** Languages whose codes are taken for one where a name has them as a part: ISO 639-1, as far as games are spoken. */
export const languageCodes: ReadonlySet<string> = new Set(
  'ar bg ca cs da de el en es et fi fr he hi hr hu id it ja ko lt lv ms nb nl no pl pt ro ru sk sl sr sv th tr uk vi zh'.split(
    ' ',
  ),
);

/** The language that a path names: a folder or a part of the file's name that is a code, such as `text/en/` or `menu_de.csv`. */
export function languageOfPath(path: string): string | null {
  const folders = path.toLowerCase().split('/');
  const name = folders.pop() ?? '';
  const stem = name.replace(/\.[^.]*$/, '');
  // Codes of regions are tied on by a hyphen, and so may codes of languages be.
  const ends = [/[._]/, /[._-]/].flatMap((between) => stem.split(between).slice(1).reverse());
  const parts = [...ends, ...folders.reverse()];
  for (const part of parts) {
    const [, code = '', region] = /^([a-z]{2})(?:[-_]([a-z]{2,4}))?$/.exec(part) ?? [];
    if (languageCodes.has(code)) return region ? `${code}-${region}` : code;
  }
  return null;
}
