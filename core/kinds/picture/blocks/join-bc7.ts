import { findKernels, type Kernels } from '../../../kernels/kernels.ts';
import { bc7 } from './bc7.ts';
import { joinBlocks8 } from './block-images.ts';
import { anchorOfTwo, anchorsOfThree, threeSubsets, twoSubsets, weightsOfBits } from './partitions.ts';

const bytesPerBlock = 16;
/** Where each table begins, in numbers: as assembly/bc7.ts has it. */
const placeOfTable = { anchorOfTwo: 0, anchorsOfThree: 64, twoSubsets: 192, threeSubsets: 256, weights: 320 };

/** A picture of BC7 blocks as RGBA, 8 bits a channel, rows from the top. */
export function joinBc7(bytes: Uint8Array, width: number, height: number): Uint8Array {
  const kernels = findKernels();
  const blocksAcross = Math.ceil(width / 4);
  // A row of blocks has to fit into a strip, and so has what comes of it.
  if (!kernels || blocksAcross * 16 > kernels.stripPixels) return joinBlocks8(bytes, width, height, 16, bc7);
  writeTables(kernels);
  const rgba = new Uint8Array(width * height * 4);
  const rowsAtOnce = Math.floor(kernels.stripPixels / (blocksAcross * 16));
  const blockRows = Math.ceil(height / 4);
  for (let row = 0; row < blockRows; row += rowsAtOnce) {
    const rows = Math.min(rowsAtOnce, blockRows - row);
    const from = row * blocksAcross * bytesPerBlock;
    const part = bytes.subarray(from, from + rows * blocksAcross * bytesPerBlock);
    kernels.first.set(part);
    // Blocks that are missing are of the reserved mode: clear black.
    kernels.first.fill(0, part.length, rows * blocksAcross * bytesPerBlock);
    kernels.decodeBc7(blocksAcross, rows);
    const lines = Math.min(rows * 4, height - row * 4);
    const stride = blocksAcross * 16;
    const to = row * 4 * width * 4;
    if (stride === width * 4) rgba.set(kernels.output.subarray(0, lines * stride), to);
    else
      for (let line = 0; line < lines; line++)
        rgba.set(kernels.output.subarray(line * stride, line * stride + width * 4), to + line * width * 4);
  }
  return rgba;
}

function writeTables(kernels: Kernels): void {
  const { tables } = kernels;
  if (tables[placeOfTable.weights + 1] !== 0) return;
  tables.set(anchorOfTwo, placeOfTable.anchorOfTwo);
  anchorsOfThree.forEach((anchors, at) => tables.set(anchors, placeOfTable.anchorsOfThree + at * 64));
  tables.set(twoSubsets, placeOfTable.twoSubsets);
  tables.set(threeSubsets, placeOfTable.threeSubsets);
  for (const bits of [2, 3, 4]) tables.set(weightsOfBits[bits] ?? [], placeOfTable.weights + (bits - 2) * 16);
  kernels.prepareBc7();
}
