/** Nearest and farthest distance that is drawn at once. */
export interface Slice {
  near: number;
  far: number;
}

/** A ball around a thing, by its distance from the eye along the line of sight. */
export interface Reach {
  /** Of its middle; below 0 behind the eye. */
  distance: number;
  radius: number;
}

/**
 * A depth buffer of 24 bits tells a millionth of the distance apart up to this ratio of its planes (z² / (near · 2^24), the
 * usual perspective depth; worked out here).
 */
const ratioOfSlice = 1000;
const mostSlices = 5;

/**
 * Parts the depth of a scene so that each slice is drawn with full precision, the farthest first, the depth buffer cleared in
 * between.
 * @returns none where nothing lies before the eye
 */
export function depthSlices(reaches: readonly Reach[], ratio = ratioOfSlice): Slice[] {
  let [near, far] = [Infinity, 0];
  for (const { distance, radius } of reaches) {
    if (distance + radius <= 0) continue;
    far = Math.max(far, distance + radius);
    // Within a thing, or close to it, as near as its own size asks for.
    near = Math.min(near, Math.max(distance - radius, Math.max(radius, 1e-9) * 0.002));
  }
  if (far === 0) return [];
  // A little room, so that what lies on a plane is there.
  far *= 1.01;
  near = Math.max(Math.min(near * 0.99, far / 2), far / ratio ** mostSlices);
  const slices: Slice[] = [];
  const count = Math.max(1, Math.ceil(Math.log(far / near) / Math.log(ratio)));
  const step = (far / near) ** (1 / count);
  for (let at = count - 1; at >= 0; at--)
    slices.push({ near: near * step ** at, far: near * step ** (at + 1) });
  return slices;
}
