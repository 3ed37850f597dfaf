import { BlockBits } from './block-bits.ts';
import type { BlockDecoder } from './block-images.ts';
import { anchorOfTwo, anchorsOfThree, threeSubsets, twoSubsets, weightsOfBits } from './partitions.ts';

interface Mode {
  subsets: number;
  partitionBits: number;
  rotationBits: number;
  selectorBits: number;
  colourBits: number;
  alphaBits: number;
  /** A lowest bit for each end, or one that both ends of a subset share. */
  lowBit: 'none' | 'each' | 'shared';
  indexBits: number;
  secondIndexBits: number;
}

function mode(
  [subsets, partitionBits, rotationBits, selectorBits, colourBits, alphaBits]: readonly [number, number, number, number, number, number],
  lowBit: Mode['lowBit'],
  indexBits: number,
  secondIndexBits = 0,
): Mode {
  return { subsets, partitionBits, rotationBits, selectorBits, colourBits, alphaBits, lowBit, indexBits, secondIndexBits };
} // prettier-ignore

/** Khronos Data Format Specification 1.3, section 20.1, table of the modes of BC7. */
const modes: readonly Mode[] = [
  mode([3, 4, 0, 0, 4, 0], 'each', 3),
  mode([2, 6, 0, 0, 6, 0], 'shared', 3),
  mode([3, 6, 0, 0, 5, 0], 'none', 2),
  mode([2, 6, 0, 0, 7, 0], 'each', 2),
  mode([1, 0, 2, 1, 5, 6], 'none', 2, 3),
  mode([1, 0, 2, 0, 7, 8], 'none', 2, 2),
  mode([1, 0, 0, 0, 7, 7], 'each', 4),
  mode([2, 6, 0, 0, 5, 5], 'each', 2),
];

const bits = new BlockBits();
/** Channel by channel, both ends of each subset. */
const ends = new Uint8Array(4 * 6);
const palette = new Int32Array(3 * 16);
const indices = new Uint8Array(16);
const secondIndices = new Uint8Array(16);

/** BC7: 16 bytes. A block of the reserved mode is clear black. */
export const bc7: BlockDecoder<Int32Array> = (words, at, out) => {
  const first = words[at] ?? 0;
  const number = first & 255 ? 31 - Math.clz32(first & -first) : 8;
  const chosen = modes[number];
  if (!chosen) {
    out.fill(0);
    return;
  }
  bits.begin(words, at);
  bits.skipTo(number + 1);
  if (chosen.secondIndexBits > 0) decodeWithTwoIndices(chosen, out);
  else decodeWithOneIndex(chosen, out);
};

// prettier-ignore
function decodeWithOneIndex(chosen: Mode, out: Int32Array): void {
  const { subsets, indexBits } = chosen;
  const partition = bits.read(chosen.partitionBits);
  readEnds(chosen);
  const weights = weightsOfBits[indexBits] ?? indices;
  const size = 1 << indexBits;
  for (let subset = 0; subset < subsets; subset++) {
    const from = subset * 2;
    const r0 = ends[from] ?? 0, r1 = ends[from + 1] ?? 0;
    const g0 = ends[6 + from] ?? 0, g1 = ends[7 + from] ?? 0;
    const b0 = ends[12 + from] ?? 0, b1 = ends[13 + from] ?? 0;
    const a0 = ends[18 + from] ?? 0, a1 = ends[19 + from] ?? 0;
    for (let index = 0; index < size; index++) {
      const weight = weights[index] ?? 0;
      const other = 64 - weight;
      palette[subset * 16 + index] =
        ((r0 * other + r1 * weight + 32) >> 6) |
        (((g0 * other + g1 * weight + 32) >> 6) << 8) |
        (((b0 * other + b1 * weight + 32) >> 6) << 16) |
        (((a0 * other + a1 * weight + 32) >> 6) << 24);
    }
  }
  // The indices come last: 64 bits that are shifted along are quicker than one reading for each.
  const from = 128 - (16 * indexBits - subsets);
  let low = bits.word(from);
  let high = bits.word(from + 32);
  const pattern = subsets === 2 ? spread(twoSubsets[partition] ?? 0) : subsets === 3 ? (threeSubsets[partition] ?? 0) : 0;
  const second = subsets === 2 ? (anchorOfTwo[partition] ?? 0) : subsets === 3 ? (anchorsOfThree[0][partition] ?? 0) : 0;
  const third = subsets === 3 ? (anchorsOfThree[1][partition] ?? 0) : 0;
  let subset = pattern;
  for (let pixel = 0; pixel < 16; pixel++) {
    const count = pixel === 0 || pixel === second || pixel === third ? indexBits - 1 : indexBits;
    out[pixel] = palette[(subset & 3) * 16 + (low & ((1 << count) - 1))] ?? 0;
    low = (low >>> count) | (high << (32 - count));
    high >>>= count;
    subset >>>= 2;
  }
}

/** Each bit of 16 as two of 32. */
function spread(bitsOfPixels: number): number {
  let value = bitsOfPixels;
  value = (value | (value << 8)) & 0x00ff00ff;
  value = (value | (value << 4)) & 0x0f0f0f0f;
  value = (value | (value << 2)) & 0x33333333;
  return (value | (value << 1)) & 0x55555555;
}

/** Colour and alpha have indices of their own, and alpha may have changed places with a colour. */
function decodeWithTwoIndices(chosen: Mode, out: Int32Array): void {
  const { indexBits, secondIndexBits } = chosen;
  const rotation = bits.read(chosen.rotationBits);
  const isSwapped = bits.read(chosen.selectorBits) === 1;
  readEnds(chosen);
  for (let pixel = 0; pixel < 16; pixel++)
    indices[pixel] = bits.read(pixel === 0 ? indexBits - 1 : indexBits);
  for (let pixel = 0; pixel < 16; pixel++)
    secondIndices[pixel] = bits.read(pixel === 0 ? secondIndexBits - 1 : secondIndexBits);
  const firstWeights = weightsOfBits[indexBits] ?? indices;
  const secondWeights = weightsOfBits[secondIndexBits] ?? indices;
  for (let pixel = 0; pixel < 16; pixel++) {
    const first = firstWeights[indices[pixel] ?? 0] ?? 0;
    const second = secondWeights[secondIndices[pixel] ?? 0] ?? 0;
    const colour = isSwapped ? second : first;
    const red = between(0, colour);
    const green = between(6, colour);
    const blue = between(12, colour);
    const alpha = between(18, isSwapped ? first : second);
    out[pixel] =
      rotation === 0
        ? red | (green << 8) | (blue << 16) | (alpha << 24)
        : rotation === 1
          ? alpha | (green << 8) | (blue << 16) | (red << 24)
          : rotation === 2
            ? red | (alpha << 8) | (blue << 16) | (green << 24)
            : red | (green << 8) | (alpha << 16) | (blue << 24);
  }
}

function between(from: number, weight: number): number {
  return ((ends[from] ?? 0) * (64 - weight) + (ends[from + 1] ?? 0) * weight + 32) >> 6;
}

/** Reads all ends, channel by channel, and makes 8 bits of each. */
function readEnds({ subsets, colourBits, alphaBits, lowBit }: Mode): void {
  const count = subsets * 2;
  for (let channel = 0; channel < 3; channel++)
    for (let end = 0; end < count; end++) ends[channel * 6 + end] = bits.read(colourBits);
  for (let end = 0; end < count; end++) ends[18 + end] = alphaBits > 0 ? bits.read(alphaBits) : 255;
  const channels = alphaBits > 0 ? 4 : 3;
  let low = 0;
  if (lowBit === 'each') for (let end = 0; end < count; end++) low |= bits.read(1) << end;
  else if (lowBit === 'shared')
    for (let subset = 0; subset < subsets; subset++) low |= (bits.read(1) * 3) << (subset * 2);
  const extra = lowBit === 'none' ? 0 : 1;
  for (let channel = 0; channel < channels; channel++) {
    const precision = (channel === 3 ? alphaBits : colourBits) + extra;
    for (let end = 0; end < count; end++) {
      const at = channel * 6 + end;
      let value = ends[at] ?? 0;
      if (extra === 1) value = (value << 1) | ((low >> end) & 1);
      value <<= 8 - precision;
      ends[at] = value | (value >> precision);
    }
  }
}
