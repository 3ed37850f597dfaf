import { findKernels, type Kernels } from '../../../kernels/kernels.ts';
import { bc7 } from './bc7.ts';
import { joinBlocks8 } from './block-images.ts';
import { anchorOfTwo, anchorsOfThree, threeSubsets, twoSubsets, weightsOfBits } from './partitions.ts';

/** Where each table begins, in numbers: as assembly/bc7.ts has it. */
const placeOfTable = { anchorOfTwo: 0, anchorsOfThree: 64, twoSubsets: 192, threeSubsets: 256, weights: 320 };

/** What the kernel calls formats of blocks that have one way of decoding. */
const numberOfFormat = { bc1Opaque: 0, bc1: 1, bc2: 2, bc3: 3, bc4: 4, bc5: 5 } as const;

/** A picture of BC7 blocks as RGBA, 8 bits a channel, rows from the top. */
export function joinBc7(bytes: Uint8Array, width: number, height: number): Uint8Array {
  const joined = joinInKernel(bytes, width, height, 16, (kernels) => {
    writeTables(kernels);
    return (across, rows) => kernels.decodeBc7(across, rows);
  });
  return joined ?? joinBlocks8(bytes, width, height, 16, bc7);
}

/** The same for BC1 to BC5. @returns null where the engine has no kernels, or the picture is too broad for them */
export function joinBc1To5(
  bytes: Uint8Array,
  width: number,
  height: number,
  bytesPerBlock: 8 | 16,
  format: keyof typeof numberOfFormat,
): Uint8Array | null {
  const number = numberOfFormat[format];
  return joinInKernel(
    bytes,
    width,
    height,
    bytesPerBlock,
    (kernels) => (across, rows) => kernels.decodeBlocks(number, across, rows),
  );
}

/** Decodes as many rows of blocks at once as fit into a strip. Blocks that are missing are zeros. */
function joinInKernel(
  bytes: Uint8Array,
  width: number,
  height: number,
  bytesPerBlock: number,
  decoderOf: (kernels: Kernels) => (blocksAcross: number, blockRows: number) => void,
): Uint8Array | null {
  const kernels = findKernels();
  const blocksAcross = Math.ceil(width / 4);
  // A row of blocks has to fit into a strip, and so has what comes of it.
  if (!kernels || blocksAcross * 16 > kernels.stripPixels) return null;
  const decode = decoderOf(kernels);
  const rgba = new Uint8Array(width * height * 4);
  const rowsAtOnce = Math.floor(kernels.stripPixels / (blocksAcross * 16));
  const blockRows = Math.ceil(height / 4);
  for (let row = 0; row < blockRows; row += rowsAtOnce) {
    const rows = Math.min(rowsAtOnce, blockRows - row);
    const from = row * blocksAcross * bytesPerBlock;
    const part = bytes.subarray(from, from + rows * blocksAcross * bytesPerBlock);
    kernels.first.set(part);
    kernels.first.fill(0, part.length, rows * blocksAcross * bytesPerBlock);
    decode(blocksAcross, rows);
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
