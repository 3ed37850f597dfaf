import { dirname } from 'node:path';
import { formatByExtension, formatOf } from '../../../core/kinds/formats.ts';
import { nameWithoutLevel } from '../../../core/names/family-members.ts';
import { Lexicon } from '../../../core/names/lexicon.ts';

/** A file that belongs to one that was put back. */
export interface Sister {
  name: string;
  of: string;
  /** What it is of the other one. */
  what: 'another level' | 'another size';
}

/**
 * Makes a file anew of the one that was changed.
 * @returns where it lies and what was done, or why it could not be made
 */
export type MakeSister = (
  of: { name: string; file: string },
  sister: { name: string; bytes: Buffer },
) => Promise<{ file: string; says: string } | { reason: string }>;

/**
 * Levels of the same model, which the game shows from farther away, and the same picture in other sizes: the change is seen only
 * sometimes if they stay.
 */
export function sistersOf(wanted: readonly string[], names: readonly string[]): Sister[] {
  const lexicon = new Lexicon();
  const chosen = new Set(wanted);
  const byThing = new Map<string, string>();
  const thingsOf = (name: string): { thing: string; what: Sister['what'] }[] => {
    const [model, picture] = [nameWithoutLevel(name, lexicon), nameWithoutSize(name)];
    return [
      ...(model === '' ? [] : [{ thing: `model ${model}`, what: 'another level' as const }]),
      ...(picture === '' ? [] : [{ thing: `picture ${picture}`, what: 'another size' as const }]),
    ];
  };
  for (const name of wanted) for (const { thing } of thingsOf(name)) byThing.set(thing, name);
  return names.flatMap((name) => {
    if (chosen.has(name)) return [];
    const found = thingsOf(name).find(({ thing }) => byThing.has(thing));
    return found ? [{ name, of: byThing.get(found.thing) ?? '', what: found.what }] : [];
  });
}

/** Words for sizes of a picture, as parts of its name (common practice, no published source). */
const sizes =
  /^(\d{2,4}|\d{2,4}x\d{2,4}|[1248]k|small|medium|large|low|mid|high|half|quarter|mini|tiny|thumb|icon|hd|sd|full)$/;

/** A picture's path without the part of its name that tells its size; nothing of all others. What has no such part may be the full size. */
function nameWithoutSize(path: string): string {
  const format = formatByExtension(path);
  if (format === null || formatOf(format).kind !== 'picture') return '';
  const name = path.slice(path.lastIndexOf('/') + 1).toLowerCase();
  const dot = name.lastIndexOf('.');
  const parts = name.slice(0, dot).split(/[_\-. ]/);
  const rest = parts.filter((part, at) => at === 0 || !sizes.test(part));
  return `${dirname(path)}/${rest.join('_')}`;
}
