/** What may be true of a format, with what speaks for it. */
export interface Proposal {
  kind:
    | 'constant'
    | 'order'
    | 'size'
    | 'count'
    | 'offset'
    | 'stride'
    | 'strings'
    | 'packed'
    | 'floats'
    | 'indices'
    | 'pixels'
    | 'samples';
  /** Of the file's first byte that it is about, and how many; of a tail in the first of the files. */
  at: number;
  bytes: number;
  /** What speaks for it, in a sentence. */
  says: string;
  /** From 0 to 1: how sure it is. Those from `tickedScore` on are taken without being asked about. */
  score: number;
  /** The field as a sheet has it; null of what is no field of its own. */
  field: { name: string; type: string } | null;
  /** Bytes from one thing to the next, of a count or a stride. */
  stride?: number;
  /** Of a count: where its list begins, at a byte or at the place that a field says; null where another list ends. */
  begins?: { byte: number } | { saidAt: number } | null;
  /** Of numbers of several bytes. */
  isLittle?: boolean;
}

/** Proposals of this score are right in 95 of 100 at the least: see `guess.test.ts`. */
export const tickedScore = 0.9;

/** A file of the format: its beginning, or all of it, and how large it is. */
export interface Sample {
  bytes: Uint8Array;
  size: number;
}

/** How sure a relation is that holds for so many different values. One chance in thousands or less for each but the first two. */
export function scoreOf(distinct: number): number {
  if (distinct >= 4) return 0.98;
  if (distinct === 3) return 0.93;
  return distinct === 2 ? 0.6 : 0;
}
