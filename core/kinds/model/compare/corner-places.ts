import { vertexKeys, type SharedTriangles } from './shared-triangles.ts';
import type { Surface } from './surface.ts';
import { vertexDifference, type Pair } from './vertex-difference.ts';

/** All vertices of the older surface by place: what one of those at a place has, a corner there may have. */
export class CornerPlaces {
  private readonly old: Surface;
  private readonly now: Surface;
  private readonly pairs: readonly Pair[];
  private readonly keys: readonly [older: () => Float64Array, newer: () => Float64Array][];
  private readonly byKey: (Map<number, number[]> | null)[] = [null, null];
  private shifted: [Float64Array, Float64Array] | null = null;

  constructor(old: Surface, now: Surface, shared: SharedTriangles, pairs: readonly Pair[]) {
    this.old = old;
    this.now = now;
    this.pairs = pairs;
    this.keys = [
      [() => shared.oldVertices, () => shared.newVertices],
      [() => this.shiftedKeys()[0], () => this.shiftedKeys()[1]],
    ];
  }

  /** Takes differences of a triangle back whose corners have what some vertex at their place had. */
  forgive(triangle: number, differences: Float64Array): void {
    for (const [at, pair] of this.pairs.entries()) {
      if ((differences[at] ?? 0) <= pair.tolerance) continue;
      const isThere = [0, 1, 2].every((corner) =>
        this.has(this.now.indices[triangle * 3 + corner] ?? 0, pair),
      );
      if (isThere) differences[at] = 0;
    }
  }

  private has(vertex: number, pair: Pair): boolean {
    return [0, 1].some((grid) =>
      this.verticesAt(grid, vertex).some((there) => vertexDifference(pair, there, vertex) <= pair.tolerance),
    );
  }

  private verticesAt(grid: number, vertex: number): readonly number[] {
    const [older, newer] = this.keys[grid] ?? [];
    if (!older || !newer) return [];
    let byKey = this.byKey[grid] ?? null;
    if (!byKey) {
      byKey = new Map();
      for (const [at, key] of older().entries()) {
        const list = byKey.get(key);
        if (list) list.push(at);
        else byKey.set(key, [at]);
      }
      this.byKey[grid] = byKey;
    }
    return (byKey.get(newer()[vertex] ?? 0) ?? []).slice(0, mostAtPlace);
  }

  private shiftedKeys(): [Float64Array, Float64Array] {
    return (this.shifted ??= [vertexKeys(this.old, this.old, 0.5), vertexKeys(this.now, this.old, 0.5)]);
  }
}

/** Vertices at one place that are looked at; a part that has shrunk to a point has all of them there. */
const mostAtPlace = 64;
