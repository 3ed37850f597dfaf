/** So many questions cover all rows by their path's digest: asked for at once they would take more memory than is there. */
export const rangeCount = 64;

/** Lowest and highest digest of each part, both included. */
export function* digestRanges(): Generator<readonly [low: Buffer, high: Buffer]> {
  for (let range = 0; range < rangeCount; range++) {
    const low = Buffer.alloc(16);
    low[0] = (range * 256) / rangeCount;
    const high = Buffer.alloc(16, 0xff);
    high[0] = ((range + 1) * 256) / rangeCount - 1;
    yield [low, high];
  }
}

/** Up to so many rows are asked for at once. */
const mostAtOnce = 50_000;

/** Parts in which so many rows are asked for; few are asked for at once. */
export function digestRangesFor(rows: number): Iterable<readonly [low: Buffer, high: Buffer]> {
  return rows > mostAtOnce ? digestRanges() : [[Buffer.alloc(16), Buffer.alloc(16, 0xff)]];
}
