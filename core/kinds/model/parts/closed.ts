/** More triangles are not looked through: whoever asks wants to know of simple shapes. */
const mostTriangles = 200_000;

/**
 * Whether each edge of a shape belongs to two triangles, so that it has an inside. Corners at one place are one corner,
 * whatever else they have. Triangles without an area do not count.
 * @param positions xyz triples
 * @param indices three to a triangle; null where corners follow one another
 */
export function isClosed(positions: ArrayLike<number>, indices: ArrayLike<number> | null): boolean {
  const count = indices?.length ?? positions.length / 3;
  if (count < 12 || count > mostTriangles * 3 || count % 3 !== 0) return false;
  const places = new Map<string, number>();
  const placeOf = (corner: number): number => {
    const at = (indices ? (indices[corner] ?? 0) : corner) * 3;
    const key = `${positions[at]} ${positions[at + 1]} ${positions[at + 2]}`;
    let place = places.get(key);
    if (place === undefined) places.set(key, (place = places.size));
    return place;
  };
  // Each edge is met once in each direction.
  const open = new Map<number, number>();
  const meet = (from: number, to: number): void => {
    const isUp = from < to;
    const key = isUp ? from * 2 ** 26 + to : to * 2 ** 26 + from;
    const left = (open.get(key) ?? 0) + (isUp ? 1 : -1);
    if (left === 0) open.delete(key);
    else open.set(key, left);
  };
  for (let at = 0; at < count; at += 3) {
    const [a, b, c] = [placeOf(at), placeOf(at + 1), placeOf(at + 2)];
    if (a === b || b === c || a === c) continue;
    meet(a, b);
    meet(b, c);
    meet(c, a);
  }
  return places.size > 3 && open.size === 0;
}
