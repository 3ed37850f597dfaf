/** A bone, by its name and the place of the one that it hangs on in the list; -1 for none. */
export interface NamedBone {
  name: string;
  parent: number;
}

export interface BoneOddity {
  /** Place in the list. */
  bone: number;
  kind: 'root' | 'double' | 'alone';
  says: string;
}

/**
 * What is odd in a skeleton: more than one root, doubles with a number behind the name (`hand_l.001` beside `hand_l`; common
 * practice, no published source), bones that hang on none and carry none.
 */
export function boneOddities(bones: readonly NamedBone[]): BoneOddity[] {
  const names = new Map<string, number>();
  bones.forEach(({ name }, at) => {
    if (!names.has(name)) names.set(name, at);
  });
  const carriers = new Set(bones.map(({ parent }) => parent));
  const roots = bones.flatMap(({ parent }, at) => (parent < 0 ? [at] : []));
  const oddities: BoneOddity[] = [];
  // The one that carries most is the root that is meant.
  const sizes = subtreeSizes(bones);
  const main = roots.reduce(
    (best, at) => ((sizes[at] ?? 0) > (sizes[best] ?? -1) ? at : best),
    roots[0] ?? -1,
  );
  for (const at of roots) {
    if (at === main) continue;
    const isAlone = !carriers.has(at);
    oddities.push({
      bone: at,
      kind: isAlone ? 'alone' : 'root',
      says: isAlone
        ? 'hangs on no bone, and none hangs on it'
        : `is one more root, beside “${bones[main]?.name ?? ''}”`,
    });
  }
  bones.forEach(({ name }, at) => {
    const numbered = /^(.+?)[._]\d{3}$/.exec(name)?.[1];
    if (names.get(name) !== at) {
      oddities.push({ bone: at, kind: 'double', says: 'has the name of another bone' });
      return;
    }
    // `.001` is what programs put behind a name that is taken; other numbers count fingers and ribs.
    if (numbered !== undefined && names.has(numbered))
      oddities.push({ bone: at, kind: 'double', says: `is a double of “${numbered}”` });
  });
  return oddities.sort((a, b) => a.bone - b.bone);
}

function subtreeSizes(bones: readonly NamedBone[]): number[] {
  const sizes = bones.map(() => 1);
  const children = bones.map((): number[] => []);
  bones.forEach(({ parent }, at) => children[parent]?.push(at));
  // Deepest first, without calling itself: chains may be long.
  const order: number[] = [];
  const waiting = bones.flatMap(({ parent }, at) => (parent < 0 ? [at] : []));
  while (waiting.length > 0) {
    const at = waiting.pop() as number;
    order.push(at);
    waiting.push(...(children[at] ?? []));
  }
  for (const at of order.reverse()) {
    const parent = bones[at]?.parent ?? -1;
    if (parent >= 0) sizes[parent] = (sizes[parent] ?? 0) + (sizes[at] ?? 0);
  }
  return sizes;
}
