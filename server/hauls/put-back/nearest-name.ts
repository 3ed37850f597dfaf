import { formatByExtension, formatOf } from '../../../core/kinds/formats.ts';
import { editDistance } from '../../../core/references/candidates.ts';

/** So much of a name may be spelled otherwise. */
const mostEdits = 0.34;

/** Which of the names that are there was meant, and by what the wanted one differs; null where none is near. */
export function nearestName(wanted: string, names: readonly string[]): { name: string; why: string } | null {
  const lower = wanted.toLowerCase();
  const sameLetters = names.find((name) => name.toLowerCase() === lower);
  if (sameLetters) return { name: sameLetters, why: 'other capital letters' };
  const sameStems = names.filter((name) => stem(name) === stem(lower));
  const sameStem = sameStems.find((name) => kindOf(name) === kindOf(wanted)) ?? sameStems[0];
  if (sameStem) return { name: sameStem, why: 'another extension' };
  const file = nameIn(lower);
  const elsewhere = names.find((name) => nameIn(name.toLowerCase()) === file);
  if (elsewhere) return { name: elsewhere, why: 'another folder' };
  let best: { name: string; edits: number } | null = null;
  for (const name of names) {
    if (Math.abs(name.length - wanted.length) > wanted.length * mostEdits) continue;
    const edits = editDistance(lower, name.toLowerCase());
    if (edits <= wanted.length * mostEdits && edits < (best?.edits ?? Infinity)) best = { name, edits };
  }
  return best && { name: best.name, why: 'another spelling' };
}

/** Of what its extension promises; empty where it promises nothing. */
function kindOf(name: string): string {
  const format = formatByExtension(name);
  return format === null ? '' : formatOf(format).kind;
}

function stem(name: string): string {
  return name.toLowerCase().replace(/\.[^./]*$/, '');
}

function nameIn(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
