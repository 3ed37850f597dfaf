/** How many of some numbers stand in rising order at the most: the rest moved (the longest increasing subsequence). */
export function inOrder(numbers: readonly number[]): number {
  const ends: number[] = [];
  for (const number of numbers) {
    let [low, high] = [0, ends.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((ends[middle] ?? 0) < number) low = middle + 1;
      else high = middle;
    }
    ends[low] = number;
  }
  return ends.length;
}
