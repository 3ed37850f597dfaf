import { boneKey } from './bone-names.ts';

/** Which bones a layer moves: none of the three says all of them. */
export interface BoneMask {
  /** Bones with all that hang on them. */
  branches: readonly string[];
  /** Words in their names. */
  words: readonly string[];
  /** Single ones. */
  bones: readonly string[];
}

/** @param parent place of the bone that it hangs on; -1 for none @returns places of the bones that a mask lets through */
export function bonesInMask(
  bones: readonly { name: string; parent: number }[],
  { branches, words, bones: single }: BoneMask,
): Set<number> {
  if (branches.length + words.length + single.length === 0) return new Set(bones.keys());
  const keys = bones.map(({ name }) => boneKey(name));
  const tops = new Set(branches.map(boneKey));
  const alone = new Set(single.map(boneKey));
  const spoken = words.map((word) => word.trim().toLowerCase()).filter(Boolean);
  const found = new Set<number>();
  keys.forEach((key, at) => {
    const isNamed = alone.has(key) || spoken.some((word) => key.includes(word));
    if (isNamed || hangsOn(bones, keys, tops, at)) found.add(at);
  });
  return found;
}

function hangsOn(
  bones: readonly { parent: number }[],
  keys: readonly string[],
  tops: ReadonlySet<string>,
  bone: number,
): boolean {
  if (tops.size === 0) return false;
  // A file that hangs a bone on itself ends somewhere, too.
  for (let at = bone, steps = 0; at >= 0 && steps <= bones.length; at = bones[at]?.parent ?? -1, steps++)
    if (tops.has(keys[at] ?? '')) return true;
  return false;
}
