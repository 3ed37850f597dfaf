/** What is smaller than this from where one looks, as a share of its distance, is no more than a box in any case. */
const leastShare = 0.001;
/** From within; and so many steps from there to the least. */
const mostShare = 2;
const steps = 200;
const logOfStep = Math.log(mostShare / leastShare) / steps;

/** How far points are from an eye. @param centres three numbers each */
export function distancesFrom(
  centres: Float32Array,
  { x, y, z }: { x: number; y: number; z: number },
): Float32Array {
  const distances = new Float32Array(centres.length / 3);
  for (let at = 0, from = 0; at < distances.length; at++, from += 3) {
    const across = (centres[from] ?? 0) - x;
    const up = (centres[from + 1] ?? 0) - y;
    const along = (centres[from + 2] ?? 0) - z;
    distances[at] = Math.sqrt(across * across + up * up + along * along);
  }
  return distances;
}

/**
 * Chooses what is drawn as it is, and what as a box: what looks largest goes first, as long as the budget lasts.
 * @param radii in metres, of each
 * @param distances in metres from the eye, of each
 * @param trianglesOf what drawing one costs; NaN for what cannot be drawn
 * @returns places of those that are chosen, the largest first, in steps of a twenty-fifth
 */
export function nearFirst(
  radii: Float32Array,
  distances: Float32Array,
  trianglesOf: (place: number) => number,
  budgetTriangles: number,
): Uint32Array {
  // Sorted into steps by size, and not one by one: nobody sees a twenty-fifth, and a map of twenty thousand is sorted in a moment.
  const stepOf = new Uint8Array(radii.length);
  const counts = new Uint32Array(steps + 1);
  let candidates = 0;
  for (let at = 0; at < radii.length; at++) {
    const radius = radii[at] ?? 0;
    const share = radius / Math.max(distances[at] ?? 0, radius * 0.5, 1e-6);
    const isCandidate = share >= leastShare && !Number.isNaN(trianglesOf(at));
    const step = isCandidate
      ? Math.min(steps - 1, Math.floor(Math.log(mostShare / share) / logOfStep))
      : steps;
    stepOf[at] = Math.max(0, step);
    counts[stepOf[at] ?? 0] = (counts[stepOf[at] ?? 0] ?? 0) + 1;
    if (isCandidate) candidates++;
  }
  let begin = 0;
  const next = counts.map((count) => (begin += count) - count);
  const inOrder = new Uint32Array(candidates);
  for (let at = 0; at < radii.length; at++) {
    const step = stepOf[at] ?? steps;
    if (step === steps) continue;
    inOrder[next[step] ?? 0] = at;
    next[step] = (next[step] ?? 0) + 1;
  }
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
