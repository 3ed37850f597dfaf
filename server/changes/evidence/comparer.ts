import type { Compared } from '../../../contract/comparisons.ts';
import type { PlacementRecipe } from '../../../contract/recipes.ts';
import { canCompare } from '../../../core/kinds/compare.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { findCompared, keepCompared, type ContentPair } from '../../decode/comparisons.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import { failedOutcome, type CompareOutcome, type ContentToRead } from '../../decode/operations.ts';
import type { Resolve } from '../../decode/reader-pool.ts';
import { findSister } from '../../library/assets/assets.ts';
import type { Pool } from '../../platform/database/pool.ts';
import type { ContentPlace } from '../../store/layout.ts';
import { PackWriter } from '../../store/pack-writer.ts';
import { findContents } from '../../store/read-content.ts';

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
  private readonly pool: Pool;
  private readonly compareContents: Compare;
  private readonly from: PlacedBuild;
  private readonly to: PlacedBuild;
  private readonly recipeFor: (path: string) => PlacementRecipe | undefined;

  constructor(
    pool: Pool,
    compareContents: Compare,
    [from, to]: readonly [PlacedBuild, PlacedBuild],
    recipeFor: (path: string) => PlacementRecipe | undefined,
  ) {
    this.pool = pool;
    this.compareContents = compareContents;
    this.from = from;
    this.to = to;
    this.recipeFor = recipeFor;
  }

  /** @param places of both contents, where they are known */
  async compare(pair: PlacedPair, places: ReadonlyMap<string, ContentPlace>): Promise<CompareOutcome> {
    const [oldPlace, place] = [places.get(pair.oldHash), places.get(pair.hash)];
    if (!oldPlace || !place) return failedOutcome.compare('the store has lost one of the two');
    const { path, format, oldPath, oldFormat } = pair;
    return this.compareContents(
      this.contentOf(oldPath, oldFormat, oldPlace),
      this.contentOf(path, format, place),
      (reference, side) =>
        side === 'old' ? this.resolve(this.from, oldPath, reference) : this.resolve(this.to, path, reference),
    );
  }

  private contentOf(path: string, format: string, place: ContentPlace): ContentToRead {
    return { path, format, place, recipe: format === 'recipe' ? this.recipeFor(path) : undefined };
  }

  private async resolve(build: PlacedBuild, path: string, reference: string): Promise<ContentPlace | null> {
    const sister = await findSister(this.pool, build, path, reference);
    return sister === null ? null : ((await findContents(this.pool, [sister])).get(sister) ?? null);
  }
}

export interface PairOnDemand {
  pool: Pool;
  store: string;
  readers: OnDemandReaders;
  builds: readonly [PlacedBuild, PlacedBuild];
  pair: PlacedPair;
  recipeFor: (path: string) => PlacementRecipe | undefined;
}

/** Compares two contents when somebody looks at them, and keeps the outcome. A pair that cannot be compared has its reason in the answer. */
export async function compareOnDemand({
  pool,
  store,
  readers,
  builds,
  pair,
  recipeFor,
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
    pool,
    (old, content, resolve) => readers.compare(old, content, resolve),
    builds,
    recipeFor,
  );
  const outcome = await comparer.compare(pair, await findContents(pool, [pair.oldHash, pair.hash]));
  const packs = new PackWriter(store);
  try {
    await keepCompared(pool, packs, [{ ...pair, outcome }]);
  } finally {
    await packs.seal(pool);
  }
  return (await findCompared(pool, pair)) ?? { comparison: null, reason: outcome.reason, picture: null };
}
