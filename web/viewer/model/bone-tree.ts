import type { TreeRow } from '../../lists/tree-list.tsx';
import type { BoneEntry } from '../engine/standing-model.ts';

/** A line of the tree of bones. */
export interface BoneRow extends TreeRow {
  bone: number;
  name: string;
}

/** @param words where there are some: all bones whose names have them, as a list; else the tree @param closed keys of the bones that are closed */
export function boneRows(bones: readonly BoneEntry[], words: string, closed: ReadonlySet<string>): BoneRow[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  if (wanted.length > 0)
    return bones.flatMap(({ name }, bone) =>
      wanted.every((word) => name.toLowerCase().includes(word))
        ? [{ key: String(bone), depth: 0, isOpen: null, bone, name }]
        : [],
    );
  const children = new Map<number, number[]>();
  bones.forEach(({ parent }, at) => children.set(parent, [...(children.get(parent) ?? []), at]));
  const rows: BoneRow[] = [];
  // Without calling itself: chains may be long.
  const waiting = (children.get(-1) ?? []).map((bone) => ({ bone, depth: 0 })).reverse();
  while (waiting.length > 0) {
    const { bone, depth } = waiting.pop() as { bone: number; depth: number };
    const below = children.get(bone) ?? [];
    const key = String(bone);
    const isOpen = below.length === 0 ? null : !closed.has(key);
    rows.push({ key, depth, isOpen, bone, name: bones[bone]?.name ?? '' });
    if (isOpen) for (const next of [...below].reverse()) waiting.push({ bone: next, depth: depth + 1 });
  }
  return rows;
}
