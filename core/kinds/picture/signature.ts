import type { Raster } from '../reading.ts';
import { shrink } from './shrink.ts';
import { stretch } from './stretch.ts';

const side = 32;
const kept = 8;

/** cos((2x + 1) u π / 2N) of the discrete cosine transform, type II. */
const cosines = Float64Array.from({ length: kept * side }, (_, at) =>
  Math.cos(((2 * (at % side) + 1) * Math.floor(at / side) * Math.PI) / (2 * side)),
);

/** Squares of the grids on each side: of colours, and of how light they are. */
const [colourSquares, lightSquares] = [4, 8];
/** Steps of each colour in the histogram. */
const shades = 3;

/** Where each part of the signature begins, in bytes. */
export const pictureSignatureParts = {
  waves: 0,
  squares: 8,
  light: 8 + colourSquares ** 2 * 4,
  colours: 8 + colourSquares ** 2 * 4 + lightSquares ** 2,
  size: 8 + colourSquares ** 2 * 4 + lightSquares ** 2 + shades ** 3,
  end: 8 + colourSquares ** 2 * 4 + lightSquares ** 2 + shades ** 3 + 2,
} as const;

/**
 * What a picture looks like, in 165 bytes, for finding ones that look alike: 8 that tell which of the lowest 8 x 8 cosines of
 * its brightness are above their median; 64 of the mean colour of a grid of 4 x 4 and how much of it is covered; 64 of how
 * light a grid of 8 x 8 is; 27 of how much there is of each colour, whatever its place; and its width and height, by the power
 * of two.
 * @param raster the preview is enough
 * @param size of the picture itself, in pixels
 */
export function pictureSignature(raster: Raster, size: { width: number; height: number }): Uint8Array {
  const parts = pictureSignatureParts;
  const small = stretch(raster, side, side);
  const bright = brightness(small);
  const signature = new Uint8Array(parts.end);
  const lowest = cosinesOf(bright);
  const median = [...lowest].slice(1).sort((a, b) => a - b)[Math.floor((lowest.length - 1) / 2)] ?? 0;
  lowest.forEach((value, at) => {
    if (at > 0 && value > median) signature[at >> 3] = (signature[at >> 3] ?? 0) | (1 << (at & 7));
  });
  signature.set(shrink({ ...small, data: small.rgba }, colourSquares).rgba, parts.squares);
  signature.set(lightOf(bright), parts.light);
  signature.set(coloursOf(small), parts.colours);
  signature[parts.size] = Math.min(255, Math.round(Math.log2(size.width) * 16));
  signature[parts.size + 1] = Math.min(255, Math.round(Math.log2(size.height) * 16));
  return signature;
}

/** The mean of each square of the finer grid. */
function lightOf(bright: Float64Array): Uint8Array {
  const step = side / lightSquares;
  const sums = new Float64Array(lightSquares ** 2);
  bright.forEach((value, pixel) => {
    const square = Math.floor(pixel / side / step) * lightSquares + Math.floor((pixel % side) / step);
    sums[square] = (sums[square] ?? 0) + value / step ** 2;
  });
  return Uint8Array.from(sums, Math.round);
}

/** How much is covered by each of 3 x 3 x 3 colours, by its root: what is rare tells pictures apart too. */
function coloursOf({ rgba }: Raster): Uint8Array {
  const counts = new Float64Array(shades ** 3);
  for (let at = 0; at < rgba.length; at += 4) {
    const [red, green, blue] = [0, 1, 2].map((channel) =>
      Math.min(shades - 1, Math.floor(((rgba[at + channel] ?? 0) * shades) / 256)),
    ) as [number, number, number];
    const colour = (red * shades + green) * shades + blue;
    counts[colour] = (counts[colour] ?? 0) + (rgba[at + 3] ?? 0) / 255 / side ** 2;
  }
  return Uint8Array.from(counts, (count) => Math.round(Math.sqrt(Math.min(1, count)) * 255));
}

/** Rec. 709 weights, on mid grey where nothing covers. */
function brightness({ rgba }: Raster): Float64Array {
  return Float64Array.from({ length: side * side }, (_, pixel) => {
    const [red = 0, green = 0, blue = 0, alpha = 0] = rgba.subarray(pixel * 4, pixel * 4 + 4);
    const value = 0.2126 * red + 0.7152 * green + 0.0722 * blue;
    return 128 + ((value - 128) * alpha) / 255;
  });
}

function cosinesOf(values: Float64Array): Float64Array {
  const rows = new Float64Array(side * kept);
  for (let y = 0; y < side; y++)
    for (let u = 0; u < kept; u++) {
      let sum = 0;
      for (let x = 0; x < side; x++) sum += (values[y * side + x] ?? 0) * (cosines[u * side + x] ?? 0);
      rows[y * kept + u] = sum;
    }
  const lowest = new Float64Array(kept * kept);
  for (let v = 0; v < kept; v++)
    for (let u = 0; u < kept; u++) {
      let sum = 0;
      for (let y = 0; y < side; y++) sum += (rows[y * kept + u] ?? 0) * (cosines[v * side + y] ?? 0);
      lowest[v * kept + u] = sum;
    }
  return lowest;
}
