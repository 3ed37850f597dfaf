import type { FittingClip } from '../../../contract/clips.ts';
import type { TreeRow } from '../../lists/tree-list.tsx';
import type { ClipEntry } from '../engine/clip-player.ts';

/** Whose a clip is, beside the model that is looked at. */
export type ClipGroup = 'own' | 'family' | 'build';

/** A clip that can be played. */
export interface ClipChoice {
  /** What the address calls it: its name, after its path where it is in another file. */
  key: string;
  /** File that it is in; empty for the model itself. */
  path: string;
  name: string;
  group: ClipGroup;
  seconds: number | null;
  /** Bones that it moves, and those of them that the model has; 0 of its own. */
  moved: number;
  matched: number;
}

export const groupNames: Readonly<Record<ClipGroup, string>> = {
  own: 'Of this file',
  family: 'Of its family',
  build: 'Elsewhere in the build',
};

export function clipKey(path: string, name: string): string {
  return path === '' ? name : `${path}#${name}`;
}

/** The file and the name that a key means: a path ends at its first #, which archives and file systems have, too, but seldom. */
export function clipOfKey(key: string, choices: readonly ClipChoice[]): ClipChoice | null {
  return choices.find((choice) => choice.key === key) ?? null;
}

export function clipChoices(own: readonly ClipEntry[], others: readonly FittingClip[]): ClipChoice[] {
  return [
    ...own.map(({ name, seconds }): ClipChoice => ({
      ...{ key: name, path: '', name, group: 'own', seconds, moved: 0, matched: 0 },
    })),
    ...others.map(({ path, clip, seconds, moved, matched, isOfFamily }): ClipChoice => ({
      ...{ key: clipKey(path, clip), path, name: clip, seconds, moved, matched },
      group: isOfFamily ? 'family' : 'build',
    })),
  ];
}

/** A line of the list: a group, or a clip in it. */
export interface ClipRow extends TreeRow {
  group: ClipGroup;
  count: number;
  choice: ClipChoice | null;
}

/** Those with some words in their name or path, in their groups; one group alone needs no heading. */
export function clipRows(
  choices: readonly ClipChoice[],
  words: string,
  closed: ReadonlySet<string>,
): ClipRow[] {
  const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = choices.filter(({ path, name }) => {
    const said = `${path} ${name}`.toLowerCase();
    return asked.every((word) => said.includes(word));
  });
  const isOne = choices.every(({ group }) => group === 'own');
  return (['own', 'family', 'build'] as const).flatMap((group): ClipRow[] => {
    const within = found.filter((choice) => choice.group === group);
    if (within.length === 0) return [];
    const isOpen = isOne || !closed.has(group);
    const head: ClipRow = {
      key: `group ${group}`,
      depth: 0,
      isOpen,
      group,
      count: within.length,
      choice: null,
    };
    const rows = within.map((choice): ClipRow => ({
      ...{ key: choice.key, depth: isOne ? 0 : 1, isOpen: null, group, count: 1, choice },
    }));
    return [...(isOne ? [] : [head]), ...(isOpen ? rows : [])];
  });
}
