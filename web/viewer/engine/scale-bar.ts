export interface ScaleBar {
  /** Length in metres, a round number. */
  metres: number;
  pixels: number;
}

const usualPixels = 120;

/** A bar of a round length. @param metresHigh from the lower edge to the upper one, where the thing is that is looked at */
export function scaleBarOf(metresHigh: number, pixelsHigh: number): ScaleBar {
  const metresPerPixel = metresHigh / Math.max(1, pixelsHigh);
  const metres = roundLength(metresPerPixel * usualPixels);
  return { metres, pixels: metres / metresPerPixel };
}

/** The largest of 1, 2, 5 times a power of ten that is not above `length`. */
export function roundLength(length: number): number {
  const power = 10 ** Math.floor(Math.log10(length));
  const step = [5, 2, 1].find((candidate) => candidate * power <= length) ?? 1;
  return step * power;
}
