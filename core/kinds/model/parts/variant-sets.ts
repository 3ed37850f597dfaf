/** Parts of a model that belong together, and that stand in the place of others. */
export interface VariantSet {
  name: string;
  /** Places of its parts. */
  parts: number[];
}

/** Sets of which one is seen at a time. */
export interface VariantGroup {
  /** What it was told by. */
  name: string;
  reason: string;
  variants: VariantSet[];
}

export interface NamedPart {
  id: number;
  name: string;
  /** Names of the nodes that it hangs on, from the outermost. */
  above: readonly string[];
}

/** Name parts that say which one of several a thing is (common practice, no published source). */
const words: ReadonlySet<string> = new Set([
  ...['var', 'variant', 'variation', 'version', 'style', 'skin', 'alt', 'option', 'design', 'lod'],
]);
/** Of a word alone, without a number or a letter behind it. */
const plain = 'plain';

/** Which one of several a name says that its part is; null where it says nothing. */
export function variantIn(name: string): { word: string; which: string; rest: string } | null {
  const parts = partsOf(name);
  const at = parts.findIndex((part) => words.has(part));
  if (at < 0) return null;
  const word = parts[at] ?? '';
  const next = parts[at + 1] ?? '';
  const hasNumber = /^(\d{1,3}|[a-h])$/.test(next);
  // `style` by itself is the name of a thing; `alt` says that there is another one.
  if (!hasNumber && word !== 'alt') return null;
  const which = hasNumber ? (/^\d/.test(next) ? String(Number(next)) : next) : '';
  const rest = parts.filter((_, place) => place !== at && !(hasNumber && place === at + 1)).join('_');
  return { word, which, rest };
}

/**
 * Sets of parts that stand for one another: told by `variant`, `skin`, `alt`, `lod` and the like with a number or a letter, in
 * the names of parts or of what they hang on. One alone is no set, unless a part has the same name without that.
 */
export function variantGroups(parts: readonly NamedPart[]): VariantGroup[] {
  const groups = new Map<string, Map<string, number[]>>();
  const rests = new Map<string, Set<string>>();
  const unsaid: { id: number; base: string }[] = [];
  for (const { id, name, above } of parts) {
    const said = [name, ...above].map(variantIn).find((one) => one !== null);
    if (!said) {
      unsaid.push({ id, base: partsOf(name).join('_') });
      continue;
    }
    const group = groups.get(said.word) ?? new Map<string, number[]>();
    groups.set(said.word, group);
    group.set(said.which, [...(group.get(said.which) ?? []), id]);
    rests.set(said.word, (rests.get(said.word) ?? new Set()).add(said.rest));
  }
  const found: VariantGroup[] = [];
  for (const [word, group] of groups) {
    // What has the same name and says nothing is the plain one.
    const bases = rests.get(word) ?? new Set();
    const without = unsaid.filter(({ base }) => base !== '' && bases.has(base)).map(({ id }) => id);
    const variants = [...group]
      .map(([which, ids]) => ({ name: which === '' ? word : `${word} ${which}`, parts: ids }))
      .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
    if (without.length > 0) variants.unshift({ name: plain, parts: without });
    if (variants.length < 2) continue;
    found.push({
      name: word === 'lod' ? 'levels of detail in the file' : word,
      reason: `“${word}” in names`,
      variants,
    });
  }
  return found;
}

/** A name in pieces: letters and numbers apart. */
function partsOf(name: string): string[] {
  return name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([a-zA-Z])(\d)/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((part) => part !== '');
}

/** What is not seen while one set of a group is: the parts of its others. @param chosen its name */
export function hiddenBy({ variants }: VariantGroup, chosen: string): number[] {
  const seen = new Set(variants.find(({ name }) => name === chosen)?.parts);
  return [...new Set(variants.flatMap(({ parts }) => parts))].filter((id) => !seen.has(id));
}

/** The set of a group that is seen: all of it, and nothing of the others. Null where none is. */
export function shownVariant(group: VariantGroup, hidden: ReadonlySet<number>): string | null {
  const is = group.variants.find(({ name, parts }) => {
    const others = hiddenBy(group, name);
    return parts.every((id) => !hidden.has(id)) && others.every((id) => hidden.has(id));
  });
  return is?.name ?? null;
}
