/** Of each vertex: the sum of the normals of its triangles, weighed by their area. */
export function normalsAround(places: Float32Array, corners: Uint32Array): Float32Array {
  const sums = new Float32Array(places.length);
  for (let at = 0; at < corners.length; at += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => (corners[at + k] ?? 0) * 3) as [number, number, number];
    const edge = (to: number, axis: number): number => (places[to + axis] ?? 0) - (places[a + axis] ?? 0);
    for (let axis = 0; axis < 3; axis++) {
      const [next, last] = [(axis + 1) % 3, (axis + 2) % 3];
      const value = edge(b, next) * edge(c, last) - edge(b, last) * edge(c, next);
      for (const vertex of [a, b, c]) sums[vertex + axis] = (sums[vertex + axis] ?? 0) + value;
    }
  }
  return sums;
}

/** Cosine of the angle beyond which an edge is a hard one. */
const hardCosine = Math.cos((60 * Math.PI) / 180);

/**
 * Normals of length one: of each vertex the sum around it, together with those of other vertices in its place that it meets at less
 * than 60 degrees, so that seams of UVs do not show and hard edges stay.
 */
export function smoothNormals(places: Float32Array, corners: Uint32Array): Float32Array {
  const own = normalsAround(places, corners);
  const byPlace = new Map<string, number[]>();
  for (let at = 0; at < places.length; at += 3) {
    const key = places.subarray(at, at + 3).join(' ');
    const known = byPlace.get(key);
    if (known) known.push(at);
    else byPlace.set(key, [at]);
  }
  const lengthOf = (at: number): number => Math.hypot(own[at] ?? 0, own[at + 1] ?? 0, own[at + 2] ?? 0);
  const result = new Float32Array(own.length);
  for (const group of byPlace.values())
    for (const at of group) {
      const length = lengthOf(at);
      const sum = [0, 0, 0];
      for (const other of group) {
        const dot = [0, 1, 2].reduce((total, k) => total + (own[at + k] ?? 0) * (own[other + k] ?? 0), 0);
        // A vertex of no triangle takes what the others have.
        if (length > 0 && dot < hardCosine * length * lengthOf(other)) continue;
        for (let k = 0; k < 3; k++) sum[k] = (sum[k] ?? 0) + (own[other + k] ?? 0);
      }
      const whole = Math.hypot(...sum);
      result.set(whole > 0 ? sum.map((value) => value / whole) : [0, 1, 0], at);
    }
  return result;
}
