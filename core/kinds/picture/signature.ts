import type { Raster } from '../reading.ts';
import { shrink } from './shrink.ts';
import { stretch } from './stretch.ts';

const side = 32;
const kept = 8;

/** cos((2x + 1) u π / 2N) of the discrete cosine transform, type II. */
const cosines = Float64Array.from({ length: kept * side }, (_, at) =>
  Math.cos(((2 * (at % side) + 1) * Math.floor(at / side) * Math.PI) / (2 * side)),
);

export const signatureBytes = 21;

/**
 * What a picture looks like, in few bytes, for finding ones that look alike: 8 bytes that tell which of the lowest 8 x 8
 * cosines of its brightness are above their median, 12 of the mean colour of its quarters, 1 of how much is covered.
 * @param raster the preview is enough
 */
export function pictureSignature(raster: Raster): Uint8Array {
  const small = stretch(raster, side, side);
  const signature = new Uint8Array(signatureBytes);
  const lowest = cosinesOf(brightness(small));
  const median = [...lowest].slice(1).sort((a, b) => a - b)[Math.floor((lowest.length - 1) / 2)] ?? 0;
  lowest.forEach((value, at) => {
    if (at > 0 && value > median) signature[at >> 3] = (signature[at >> 3] ?? 0) | (1 << (at & 7));
  });
  const { width, height, rgba } = shrinkTo(small, 2);
  let covered = 0;
  for (let quarter = 0; quarter < width * height; quarter++) {
    for (let channel = 0; channel < 3; channel++)
      signature[8 + quarter * 3 + channel] = rgba[quarter * 4 + channel] ?? 0;
    covered += (rgba[quarter * 4 + 3] ?? 0) / 4;
  }
  signature[20] = covered;
  return signature;
}

function shrinkTo({ width, height, rgba }: Raster, size: number): Raster {
  return shrink({ width, height, data: rgba }, size);
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
