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

/**
 * The same path without what names its language: texts that differ in that alone have one. A file that is called as a language is
 * may be one, such as `locale/fr.po`. Null where none is named.
 */
export function withoutLanguage(path: string): string | null {
  const slash = path.lastIndexOf('/') + 1;
  const dot = path.indexOf('.', slash) < 0 ? path.length : path.lastIndexOf('.');
  const [folders, stem, extension] = [path.slice(0, slash), path.slice(slash, dot), path.slice(dot)];
  const [, whole = ''] = /^([a-z]{2})(?:[-_][a-z]{2,4})?$/i.exec(stem) ?? [];
  const code = languageOfPath(path)?.slice(0, 2) ?? (languageCodes.has(whole.toLowerCase()) ? whole : null);
  if (code === null) return null;
  const named = new RegExp(`(^|[._-])${code}(?:[-_][a-z]{2,4})?(?=$|[._-])`, 'gi');
  const inStem = [...stem.matchAll(named)].pop();
  if (inStem) {
    const rest = stem.slice(0, inStem.index) + stem.slice(inStem.index + inStem[0].length);
    return `${folders}${rest.replace(/^[._-]/, '') || 'texts'}${extension}`;
  }
  const segments = folders.split('/');
  const isNamed = new RegExp(`^${code}(?:[-_][a-z]{2,4})?$`, 'i');
  const at = segments.findLastIndex((segment) => isNamed.test(segment));
  return at < 0 ? null : `${segments.filter((_, place) => place !== at).join('/')}${stem}${extension}`;
}
