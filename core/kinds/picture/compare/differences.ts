import { findKernels, type Kernels } from '../../../kernels/kernels.ts';
import type { Raster } from '../../reading.ts';
import { words } from '../words.ts';
import { ciede2000, writeLab, type Lab } from './colour-difference.ts';

/** So many pixels of those that differ, spread evenly, stand for all in the measure of colour. */
const mostMeasured = 2048;
/** A pair of colours with less between them cannot be told apart (common practice for CIEDE2000, no published source). */
const visibleDifference = 2;
/** Side of the tiles that differences are gathered in. */
export const tileSide = 16;

export interface PixelDifferences {
  differing: number;
  /** Estimated from those that were measured. */
  visibleShare: number;
  meanDifference: number;
  greatestDifference: number;
  /** Pixels in which red, green, blue and alpha differ, and the sums of the steps. */
  channelCounts: Float64Array;
  channelSums: Float64Array;
  /** Greatest mean step of a channel in a tile, row by row; `differing` pixels of each beside it. */
  tileMeans: Float32Array;
  tilesAcross: number;
  tilesDown: number;
  /** The greatest step in each block of the small pictures that stand for the large ones. */
  blockSteps: Uint8Array;
  /** Colours differ only where both are fully transparent. */
  isHiddenOnly: boolean;
}

/**
 * Looks at two pictures of one size pixel by pixel.
 * @param factor pixels of a side of the blocks that small pictures are made of
 */
export function pixelDifferences(old: Raster, now: Raster, factor: number): PixelDifferences {
  const kernels = findKernels();
  const isFitting = kernels && fits(kernels, now, factor);
  return describe(
    old,
    now,
    isFitting ? countInKernel(kernels, old, now, factor) : countHere(old, now, factor),
  );
}

/** What is counted, pixel by pixel. */
export interface Counted extends Pick<
  PixelDifferences,
  'differing' | 'channelCounts' | 'channelSums' | 'blockSteps' | 'tilesAcross' | 'tilesDown'
> {
  hidden: number;
  /** Sum of the greatest steps in each tile. */
  tileSums: Int32Array;
  /** Pixels that stand for those that differ. */
  sampled: ArrayLike<number>;
}

/** Which of the pixels that differ stand for the others: those whose number has none of these bits. */
function sampleMask(width: number, height: number): number {
  return 2 ** Math.max(0, Math.floor(Math.log2((width * height) / mostMeasured / 4))) - 1;
}

/** Where in `steps` the sums of a row of tiles lie, and the steps of a row of blocks, in bytes. */
const tilesPlace = 0;
const blocksPlace = 0x20000;

function fits(kernels: Kernels, { width, height }: Raster, factor: number): boolean {
  return (
    width <= kernels.stripPixels &&
    (width * height) / (sampleMask(width, height) + 1) <= kernels.numbers.length &&
    Math.ceil(width / factor) + blocksPlace <= kernels.steps.length
  );
}

/** The same as `countHere`, strip by strip: each lies in one row of tiles and one row of blocks. */
export function countInKernel(kernels: Kernels, old: Raster, now: Raster, factor: number): Counted {
  const { width, height } = now;
  const { first, second, output, steps, sums, numbers } = kernels;
  const tilesAcross = Math.ceil(width / tileSide);
  const tilesDown = Math.ceil(height / tileSide);
  const blocksAcross = Math.ceil(width / factor);
  const blockSteps = new Uint8Array(blocksAcross * Math.ceil(height / factor));
  const tileSums = new Int32Array(tilesAcross * tilesDown);
  new Int32Array(output.buffer, output.byteOffset, width).set(blockOfColumns(width, factor));
  const tiles = new Int32Array(steps.buffer, steps.byteOffset + tilesPlace, tilesAcross);
  const blocks = steps.subarray(blocksPlace, blocksPlace + blocksAcross);
  const mask = sampleMask(width, height);
  const rowsAtOnce = Math.floor(kernels.stripPixels / width);
  kernels.clearCounts();
  for (let row = 0; row < height;) {
    const tileRow = Math.floor(row / tileSide);
    const blockRow = Math.floor(row / factor);
    const end = Math.min(height, row + rowsAtOnce, (tileRow + 1) * tileSide, (blockRow + 1) * factor);
    const [from, to] = [row * width * 4, end * width * 4];
    first.set(old.rgba.subarray(from, to));
    second.set(now.rgba.subarray(from, to));
    tiles.set(tileSums.subarray(tileRow * tilesAcross, (tileRow + 1) * tilesAcross));
    blocks.set(blockSteps.subarray(blockRow * blocksAcross, (blockRow + 1) * blocksAcross));
    kernels.addDifferences(end - row, width, row * width, mask, tilesPlace, blocksPlace);
    tileSums.set(tiles, tileRow * tilesAcross);
    blockSteps.set(blocks, blockRow * blocksAcross);
    row = end;
  }
  return {
    differing: sums[0] ?? 0,
    hidden: sums[1] ?? 0,
    sampled: numbers.slice(0, sums[2] ?? 0),
    channelCounts: sums.slice(3, 7),
    channelSums: sums.slice(7, 11),
    blockSteps,
    tileSums,
    tilesAcross,
    tilesDown,
  };
}

function blockOfColumns(width: number, factor: number): Int32Array {
  return Int32Array.from({ length: width }, (_, x) => Math.floor(x / factor));
}

/** Counts without WebAssembly. */
export function countHere(old: Raster, now: Raster, factor: number): Counted {
  const { width, height } = now;
  const blocksAcross = Math.ceil(width / factor);
  const blockSteps = new Uint8Array(blocksAcross * Math.ceil(height / factor));
  const blockOf = blockOfColumns(width, factor);
  const tilesAcross = Math.ceil(width / tileSide);
  const tilesDown = Math.ceil(height / tileSide);
  const tileSums = new Int32Array(tilesAcross * tilesDown);
  let [redCount, greenCount, blueCount, alphaCount] = [0, 0, 0, 0];
  let [redSum, greenSum, blueSum, alphaSum] = [0, 0, 0, 0];
  const a = words(old.rgba);
  const b = words(now.rgba);
  const sampled: number[] = [];
  const mask = sampleMask(width, height);
  let differing = 0;
  let hidden = 0;
  for (let y = 0; y < height; y++) {
    const tileRow = (y >> 4) * tilesAcross;
    const blockRow = Math.floor(y / factor) * blocksAcross;
    for (let tile = 0, x = 0, pixel = y * width; tile < tilesAcross; tile++) {
      let sum = 0;
      for (const end = Math.min(width, x + tileSide); x < end; x++, pixel++) {
        const p = a[pixel] ?? 0;
        const q = b[pixel] ?? 0;
        if (p === q) continue;
        // Colour where nothing covers is not seen.
        if (p >>> 24 === 0 && q >>> 24 === 0) hidden++;
        if ((differing & mask) === 0) sampled.push(pixel);
        differing++;
        const bits = p ^ q;
        let step = 0;
        if ((bits & 0xff) !== 0) {
          step = Math.abs((p & 255) - (q & 255));
          redCount++;
          redSum += step;
        }
        if ((bits & 0xff00) !== 0) {
          const green = Math.abs(((p >>> 8) & 255) - ((q >>> 8) & 255));
          greenCount++;
          greenSum += green;
          if (green > step) step = green;
        }
        if ((bits & 0xff0000) !== 0) {
          const blue = Math.abs(((p >>> 16) & 255) - ((q >>> 16) & 255));
          blueCount++;
          blueSum += blue;
          if (blue > step) step = blue;
        }
        if (bits >>> 24 !== 0) {
          const alpha = Math.abs((p >>> 24) - (q >>> 24));
          alphaCount++;
          alphaSum += alpha;
          if (alpha > step) step = alpha;
        }
        const block = blockRow + (blockOf[x] ?? 0);
        if (step > (blockSteps[block] ?? 0)) blockSteps[block] = step;
        sum += step;
      }
      if (sum > 0) tileSums[tileRow + tile] = (tileSums[tileRow + tile] ?? 0) + sum;
    }
  }
  return {
    differing,
    hidden,
    sampled,
    blockSteps,
    tileSums,
    channelCounts: Float64Array.of(redCount, greenCount, blueCount, alphaCount),
    channelSums: Float64Array.of(redSum, greenSum, blueSum, alphaSum),
    tilesAcross,
    tilesDown,
  };
}

function describe(
  old: Raster,
  now: Raster,
  { hidden, sampled, tileSums, ...counted }: Counted,
): PixelDifferences {
  const { differing } = counted;
  const a = words(old.rgba);
  const b = words(now.rgba);
  return {
    ...counted,
    tileMeans: Float32Array.from(tileSums, (sum) => sum / (tileSide * tileSide)),
    ...measured(
      a,
      b,
      differing,
      sampled.length >= mostMeasured / 2
        ? sampled
        : differingPixels(a, b, now.width, counted.tilesAcross, tileSums, differing),
    ),
    isHiddenOnly: differing > 0 && hidden === differing,
  };
}

/** Of few pixels that differ, nearly all; spread evenly. Tiles without a difference are passed over. */
function differingPixels(
  a: Int32Array,
  b: Int32Array,
  width: number,
  tilesAcross: number,
  tileSums: Int32Array,
  differing: number,
): number[] {
  const every = Math.max(1, Math.floor(differing / mostMeasured));
  const pixels: number[] = [];
  let met = 0;
  for (let y = 0; y * width < b.length && met < differing; y++)
    for (let tile = 0; tile < tilesAcross; tile++) {
      if (tileSums[(y >> 4) * tilesAcross + tile] === 0) continue;
      const end = y * width + Math.min(width, (tile + 1) * tileSide);
      for (let pixel = y * width + tile * tileSide; pixel < end; pixel++)
        if (a[pixel] !== b[pixel] && met++ % every === 0) pixels.push(pixel);
    }
  return pixels;
}

function measured(
  a: Int32Array,
  b: Int32Array,
  differing: number,
  pixels: ArrayLike<number>,
): Pick<PixelDifferences, 'visibleShare' | 'meanDifference' | 'greatestDifference'> {
  const every = Math.max(1, Math.floor(pixels.length / mostMeasured));
  const labs = new Float64Array(6);
  let [count, visible, sum, greatest] = [0, 0, 0, 0];
  for (let at = 0; at < pixels.length; at += every) {
    const pixel = pixels[at] ?? 0;
    // Over mid grey: a change of alpha is seen as far as it lets something through.
    writeOver(a[pixel] ?? 0, labs, 0);
    writeOver(b[pixel] ?? 0, labs, 3);
    const difference = ciede2000(labOf(labs, 0), labOf(labs, 3));
    count++;
    sum += difference;
    if (difference > visibleDifference) visible++;
    if (difference > greatest) greatest = difference;
  }
  return {
    meanDifference: count === 0 ? 0 : sum / count,
    greatestDifference: greatest,
    visibleShare: count === 0 ? 0 : ((visible / count) * differing) / b.length,
  };
}

function writeOver(pixel: number, to: Float64Array, at: number): void {
  const alpha = (pixel >>> 24) / 255;
  const grey = 128 * (1 - alpha) + 0.5;
  writeLab(
    ((pixel & 255) * alpha + grey) | 0,
    (((pixel >>> 8) & 255) * alpha + grey) | 0,
    (((pixel >>> 16) & 255) * alpha + grey) | 0,
    to,
    at,
  );
}

function labOf(labs: Float64Array, at: number): Lab {
  return [labs[at] ?? 0, labs[at + 1] ?? 0, labs[at + 2] ?? 0];
}
