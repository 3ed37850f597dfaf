/** What of a bone a clip moves. */
export const moves = ['position', 'rotation', 'scale'] as const;
export type Move = (typeof moves)[number];

/**
 * Lays a clip's values over those below it: nothing of them at a weight of 0, nothing else at 1. Rotations go the shorter way
 * round from one to the other at an even speed (Shoemake, Animating rotation with quaternion curves, 1985); all else goes in
 * a straight line.
 * @param below changed in place; a rotation is a unit quaternion xyzw
 */
export function layOver(
  below: number[] | Float32Array,
  above: ArrayLike<number>,
  weight: number,
  isRotation: boolean,
): void {
  if (!isRotation) {
    for (let at = 0; at < below.length; at++)
      below[at] = (below[at] ?? 0) + ((above[at] ?? 0) - (below[at] ?? 0)) * weight;
    return;
  }
  let cosine = 0;
  for (let at = 0; at < 4; at++) cosine += (below[at] ?? 0) * (above[at] ?? 0);
  // A rotation and its negative are the same turn: the nearer one is meant.
  const sign = cosine < 0 ? -1 : 1;
  const angle = Math.acos(Math.min(1, Math.abs(cosine)));
  const sine = Math.sin(angle);
  const isNear = sine < 1e-6;
  const from = isNear ? 1 - weight : Math.sin((1 - weight) * angle) / sine;
  const to = (isNear ? weight : Math.sin(weight * angle) / sine) * sign;
  let length = 0;
  for (let at = 0; at < 4; at++) {
    below[at] = (below[at] ?? 0) * from + (above[at] ?? 0) * to;
    length += (below[at] ?? 0) ** 2;
  }
  const scale = 1 / Math.sqrt(length || 1);
  for (let at = 0; at < 4; at++) below[at] = (below[at] ?? 0) * scale;
}
