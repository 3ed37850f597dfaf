/** What is smaller than this from where one looks, as a share of its distance, is no more than a box in any case. */
const leastShare = 0.001;

/**
 * Chooses what is drawn as it is, and what as a box: what looks largest goes first, as long as the budget lasts.
 * @param radii in metres, of each
 * @param distances in metres from the eye, of each
 * @param trianglesOf what drawing one costs; NaN for what cannot be drawn
 * @returns places of those that are chosen, the largest first
 */
export function nearFirst(
  radii: Float32Array,
  distances: Float32Array,
  trianglesOf: (place: number) => number,
  budgetTriangles: number,
): Uint32Array {
  const shares = new Float32Array(radii.length);
  let candidates = 0;
  const places = new Uint32Array(radii.length);
  for (let at = 0; at < radii.length; at++) {
    const radius = radii[at] ?? 0;
    const share = radius / Math.max(distances[at] ?? 0, radius * 0.5, 1e-6);
    shares[at] = share;
    if (share >= leastShare && !Number.isNaN(trianglesOf(at))) places[candidates++] = at;
  }
  const inOrder = places.subarray(0, candidates).sort((a, b) => (shares[b] ?? 0) - (shares[a] ?? 0));
  let [left, chosen] = [budgetTriangles, 0];
  for (const place of inOrder) {
    const cost = trianglesOf(place);
    // What does not fit any more is passed over: a smaller thing behind it may.
    if (cost > left) continue;
    left -= cost;
    inOrder[chosen++] = place;
  }
  return inOrder.slice(0, chosen);
}
