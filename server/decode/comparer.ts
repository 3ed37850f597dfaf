import { canCompare } from '../../core/kinds/compare.ts';
import type { Compared } from '../../contract/comparisons.ts';
import type { PlacementRecipe } from '../../contract/recipes.ts';
import { findSister } from '../library/assets/assets.ts';
import type { PlacedBuild } from '../acquire/builds/builds.ts';
import type { Pool } from '../platform/database/pool.ts';
import { nothingRead, type ReadOutcome } from './messages.ts';
import { ReaderPool } from './reader-pool.ts';
import type { ContentPlace } from '../store/layout.ts';
import { PackWriter } from '../store/pack-writer.ts';
import { findContents } from '../store/read-content.ts';
import { findCompared, keepCompared, type ContentPair } from '../changes/evidence/comparisons.ts';

/** Comparing takes longer than reading: two large models have every point of either measured against the other. */
export const compareSeconds = 120;

/** A pair with where its two sides lie: what they name is looked for there. */
export interface PlacedPair extends ContentPair {
  oldPath: string;
  path: string;
}

/** Has pairs of contents of two builds compared by threads. */
export class Comparer {
  private readonly pool: Pool;
  private readonly readers: ReaderPool;
  private readonly from: PlacedBuild;
  private readonly to: PlacedBuild;
  private readonly recipeFor: (path: string) => PlacementRecipe | undefined;

  constructor(
    pool: Pool,
    readers: ReaderPool,
    [from, to]: readonly [PlacedBuild, PlacedBuild],
    recipeFor: (path: string) => PlacementRecipe | undefined,
  ) {
    this.pool = pool;
    this.readers = readers;
    this.from = from;
    this.to = to;
    this.recipeFor = recipeFor;
  }

  /** @param places of both contents, where they are known */
  async compare(pair: PlacedPair, places: ReadonlyMap<string, ContentPlace>): Promise<ReadOutcome> {
    const [oldPlace, place] = [places.get(pair.oldHash), places.get(pair.hash)];
    if (!oldPlace || !place) return { ...nothingRead, reason: 'the store has lost one of the two' };
    const { path, format, oldPath, oldFormat } = pair;
    return this.readers.read({
      path,
      format,
      place,
      recipe: format === 'recipe' ? this.recipeFor(path) : undefined,
      against: {
        path: oldPath,
        format: oldFormat,
        place: oldPlace,
        recipe: oldFormat === 'recipe' ? this.recipeFor(oldPath) : undefined,
      },
      resolve: (reference) => this.resolve(this.to, path, reference),
      resolveOld: (reference) => this.resolve(this.from, oldPath, reference),
    });
  }

  private async resolve(build: PlacedBuild, path: string, reference: string): Promise<ContentPlace | null> {
    const sister = await findSister(this.pool, build, path, reference);
    return sister === null ? null : ((await findContents(this.pool, [sister])).get(sister) ?? null);
  }
}

const idleMs = 60_000;

/** Compares two contents when somebody looks at them, in a thread that is started when it is needed, and keeps the outcome. */
export class CompareDesk {
  private readonly store: string;
  private readers: ReaderPool | null = null;
  private timer: NodeJS.Timeout | null = null;
  private running = 0;

  constructor(store: string) {
    this.store = store;
  }

  /** @throws what the database throws; a pair that cannot be compared has its reason in the answer */
  async compare(
    pool: Pool,
    builds: readonly [PlacedBuild, PlacedBuild],
    pair: PlacedPair,
    recipeFor: (path: string) => PlacementRecipe | undefined,
  ): Promise<Compared> {
    if (!canCompare(pair.oldFormat, pair.format))
      return {
        comparison: null,
        reason: `${pair.oldFormat} and ${pair.format} are not compared`,
        picture: null,
      };
    const known = await findCompared(pool, pair);
    if (known) return known;
    if (this.timer) clearTimeout(this.timer);
    this.readers ??= new ReaderPool(this.store, 1, compareSeconds);
    this.running++;
    const packs = new PackWriter(this.store);
    try {
      const comparer = new Comparer(pool, this.readers, builds, recipeFor);
      const outcome = await comparer.compare(pair, await findContents(pool, [pair.oldHash, pair.hash]));
      await keepCompared(pool, packs, [{ ...pair, outcome }]);
      return (await findCompared(pool, pair)) ?? { comparison: null, reason: outcome.reason, picture: null };
    } finally {
      await packs.seal(pool);
      if (--this.running === 0) this.timer = setTimeout(() => void this.close(), idleMs);
    }
  }

  async close(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    const { readers } = this;
    this.readers = null;
    await readers?.close();
  }
}
