import type { Compared } from '../../../contract/comparisons.ts';
import { canCompare } from '../../../core/kinds/compare.ts';
import { findCompared, keepCompared, type ContentPair } from '../../decode/comparisons.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import {
  failedOutcome,
  type DescribeFile,
  type CompareOutcome,
  type ContentToRead,
} from '../../decode/operations.ts';
import type { Resolve } from '../../decode/reader-pool.ts';
import type { FindFile } from '../../library/references/find-file.ts';
import type { Pool } from '../../platform/database/pool.ts';
import type { ContentStore } from '../../store/content-store.ts';
import type { LocalContent } from '../../store/local-content.ts';

/** A pair with where its two sides lie: what they name is looked for there. */
export interface PlacedPair extends ContentPair {
  oldPath: string;
  path: string;
}

/** Has two contents compared by a reader. */
export type Compare = (
  old: ContentToRead,
  content: ContentToRead,
  resolve: Resolve,
) => Promise<CompareOutcome>;

/** Has pairs of contents of two builds compared. */
export class Comparer {
  private readonly store: ContentStore;
  private readonly compareContents: Compare;
  private readonly findOld: FindFile;
  private readonly findNew: FindFile;
  private readonly describe: DescribeFile;

  constructor(
    store: ContentStore,
    compareContents: Compare,
    [findOld, findNew]: readonly [FindFile, FindFile],
    describe: DescribeFile,
  ) {
    this.store = store;
    this.compareContents = compareContents;
    this.findOld = findOld;
    this.findNew = findNew;
    this.describe = describe;
  }

  /** @param contents both, where the store has them */
  async compare(pair: PlacedPair, contents: ReadonlyMap<string, LocalContent>): Promise<CompareOutcome> {
    const [old, content] = [contents.get(pair.oldHash), contents.get(pair.hash)];
    if (!old || !content) return failedOutcome.compare('the store has lost one of the two');
    const { path, format, oldPath, oldFormat } = pair;
    return this.compareContents(
      this.contentOf(oldPath, oldFormat, old),
      this.contentOf(path, format, content),
      (reference, side) =>
        side === 'old'
          ? this.localOf(this.findOld(oldPath, reference))
          : this.localOf(this.findNew(path, reference)),
    );
  }

  private contentOf(path: string, format: string, content: LocalContent): ContentToRead {
    return { path, format, content, ...this.describe(path, format) };
  }

  private async localOf(finding: Promise<string | null>): Promise<LocalContent | null> {
    const hash = await finding;
    return hash === null ? null : ((await this.store.ensureLocal([hash])).get(hash) ?? null);
  }
}

export interface PairOnDemand {
  pool: Pool;
  store: ContentStore;
  readers: OnDemandReaders;
  /** Finds what files of the older and of the newer build name. */
  finders: readonly [FindFile, FindFile];
  pair: PlacedPair;
  describe: DescribeFile;
}

/** Compares two contents when somebody looks at them, and keeps the outcome. A pair that cannot be compared has its reason in the answer. */
export async function compareOnDemand({
  pool,
  store,
  readers,
  finders,
  pair,
  describe,
}: PairOnDemand): Promise<Compared> {
  if (!canCompare(pair.oldFormat, pair.format))
    return {
      comparison: null,
      reason: `${pair.oldFormat} and ${pair.format} are not compared`,
      picture: null,
    };
  const known = await findCompared(pool, pair);
  if (known) return known;
  const comparer = new Comparer(
    store,
    (old, content, resolve) => readers.compare(old, content, resolve),
    finders,
    describe,
  );
  const outcome = await comparer.compare(pair, await store.ensureLocal([pair.oldHash, pair.hash]));
  try {
    await keepCompared(pool, store, [{ ...pair, outcome }]);
  } finally {
    await store.close();
  }
  return (await findCompared(pool, pair)) ?? { comparison: null, reason: outcome.reason, picture: null };
}
