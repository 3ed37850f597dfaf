/** How many items of a list are seen at once. */
export interface Extent {
  perRow: number;
  perPage: number;
}

/**
 * How far a key goes in a list that stands in rows.
 * @returns undefined for other keys; may lead beyond the ends
 */
export function stepOf(key: string, { perRow, perPage }: Extent, count: number): number | undefined {
  const steps = new Map([
    ['ArrowRight', 1],
    ['ArrowLeft', -1],
    ['ArrowDown', perRow],
    ['ArrowUp', -perRow],
    ['PageDown', perPage],
    ['PageUp', -perPage],
    ['Home', -count],
    ['End', count],
  ]);
  return steps.get(key);
}
