/** How many items two rows have in common at their begin, and behind that at their end. */
export function equalEnds<Item>(
  before: readonly Item[],
  after: readonly Item[],
): { start: number; end: number } {
  const shorter = Math.min(before.length, after.length);
  let start = 0;
  while (start < shorter && before[start] === after[start]) start++;
  let end = 0;
  while (end < shorter - start && before.at(-1 - end) === after.at(-1 - end)) end++;
  return { start, end };
}
