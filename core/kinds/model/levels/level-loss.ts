/** What a level of detail is made of. */
export interface LevelShape {
  triangles: number;
  parts: readonly string[];
  bones: readonly string[];
  /** Which pixels it covers, seen from several sides: one byte each, other than 0 for covered. */
  silhouettes: readonly Uint8Array[];
}

/** What a level has lost against the one above it. */
export interface LevelLoss {
  triangles: number;
  /** Of the triangles above: 0 to 100; NaN where there were none. */
  trianglePercent: number;
  parts: string[];
  bones: string[];
  /** Of all pixels that either covers, those that only one does: 0 to 100; NaN where nothing is covered. */
  silhouettePercent: number;
}

export function levelLoss(above: LevelShape, below: LevelShape): LevelLoss {
  const triangles = above.triangles - below.triangles;
  return {
    triangles,
    trianglePercent: (triangles / above.triangles) * 100,
    parts: missingFrom(above.parts, below.parts),
    bones: missingFrom(above.bones, below.bones),
    silhouettePercent: silhouetteDifference(above.silhouettes, below.silhouettes) * 100,
  };
}

/** Share of what either of two covers that only one does, all sides together: 0 to 1. */
export function silhouetteDifference(first: readonly Uint8Array[], second: readonly Uint8Array[]): number {
  let [either, single] = [0, 0];
  first.forEach((mask, side) => {
    const other = second[side] ?? new Uint8Array(mask.length);
    for (let at = 0; at < mask.length; at++) {
      const [here, there] = [mask[at] !== 0, other[at] !== 0];
      if (here || there) either++;
      if (here !== there) single++;
    }
  });
  return single / either;
}

/** Names carry their level in many files: `hull_lod1` is the `hull` of the level above. */
function withoutLevel(name: string): string {
  return name.toLowerCase().replace(/[ ._-]?lod[ ._-]?\d+/g, '');
}

function missingFrom(above: readonly string[], below: readonly string[]): string[] {
  const left = new Map<string, number>();
  for (const name of below) left.set(withoutLevel(name), (left.get(withoutLevel(name)) ?? 0) + 1);
  return above.filter((name) => {
    const count = left.get(withoutLevel(name)) ?? 0;
    left.set(withoutLevel(name), count - 1);
    return count <= 0;
  });
}
