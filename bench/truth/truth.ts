/** One of two contents, as it lies in a build. */
export interface Side {
  bytes: Uint8Array;
  path: string;
  /** Files that it names, by reference. */
  files?: Readonly<Record<string, Uint8Array>>;
}

/** A number that a sentence must hold. */
export interface Said {
  /** With one group: the number, with commas between thousands and either minus. */
  pattern: RegExp;
  value: number;
  tolerance: number;
}

/**
 * Two contents that differ in a known way, made by programs that are not the product's own, and what is true of them.
 * `same`: nothing of what they hold differs. `loss`: no more than packing leaves; it may be folded away. `changed`: it must
 * never be.
 */
export interface Truth {
  /** What was done, the same for all pairs that it was done to. */
  group: string;
  /** Of what it was made. */
  name: string;
  old: Side;
  now: Side;
  is: 'same' | 'loss' | 'changed';
  /** What the sentence must say, all of it. */
  says?: readonly RegExp[];
  /** What it must not: each would be false. */
  never?: readonly RegExp[];
  numbers?: readonly Said[];
}

/** Makes all pairs of one kind of content. */
export type TruthMaker = (folder: string, share: number) => AsyncGenerator<Truth>;

/** Some of a list, spread evenly over it; at least one. */
export function someOf<Item>(items: readonly Item[], share: number): Item[] {
  const count = Math.max(1, Math.round(items.length * share));
  return Array.from(
    { length: count },
    (_, at) => items[Math.floor(((at + 0.5) * items.length) / count)],
  ).filter((item): item is Item => item !== undefined);
}

/** What nobody may say of what is the same but for something told. */
export const anotherOne = /another (?:sound|picture)/i;

/** A pattern for words as they stand. */
export function escaped(text: string): RegExp {
  return new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'), 'u');
}
