import { languageCodes } from '../kinds/text/language.ts';

/**
 * Names of folders that tell a kind or a language of files, and nothing of whose they are: models in one tree and
 * textures in a parallel one. Common practice, with no published source.
 */
const sorts: ReadonlySet<string> = new Set(
  'model models mesh meshes geometry geo texture textures tex picture pictures image images img material materials mat mtl sound sounds audio sfx voice voices effects clip clips anim anims animation animations definition definitions def defs config data content assets game text texts string strings locale locales localization map maps scene scenes icon icons'.split(
    ' ',
  ),
);

/** A folder as families see it: without containers, and without what tells a kind or a language. */
export function familyFolder(path: string): string {
  const segments = path.toLowerCase().split('/').slice(0, -1);
  return segments
    .filter((segment) => !segment.endsWith('!') && !sorts.has(segment) && !languageCodes.has(segment))
    .join('/');
}

/** Whether two such folders may be parallel: one is the end of the other, or nothing. */
export function areParallel(a: string, b: string): boolean {
  if (a === b || a === '' || b === '') return true;
  return a.endsWith(`/${b}`) || b.endsWith(`/${a}`);
}
