import type { BlockDecoder } from './block-images.ts';
import { anchorOfTwo, anchorsOfThree, threeSubsets, twoSubsets, weightsOfBits } from './partitions.ts';

/**
 * BC7 after the Khronos Data Format Specification 1.3, section 20.1. Two channels are reckoned with at once, each in 16
 * bits of a number: red with blue, green with alpha. A reader of bits with a place of its own, and one channel after the
 * other, were tried first: they took three times as long.
 */

/** For each end of each subset, the two numbers. */
const redBlue = new Int32Array(6);
const greenAlpha = new Int32Array(6);
const palette = new Int32Array(3 * 16);
const alphas = new Int32Array(8);
const lanes = 0x00ff00ff;

/** @param count 1 to 16 */
function bits(words: Int32Array, at: number, from: number, count: number): number {
  const word = at + (from >> 5);
  const shift = from & 31;
  let value = (words[word] ?? 0) >>> shift;
  if (shift + count > 32) value |= (words[word + 1] ?? 0) << (32 - shift);
  return value & ((1 << count) - 1);
}

/** 32 bits from anywhere within the block. */
function word(words: Int32Array, at: number, from: number): number {
  const first = at + (from >> 5);
  const shift = from & 31;
  if (shift === 0) return words[first] ?? 0;
  return ((words[first] ?? 0) >>> shift) | (from >= 96 ? 0 : (words[first + 1] ?? 0) << (32 - shift));
}

/** 16 bytes. A block of the reserved mode is clear black. */
export const bc7: BlockDecoder<Int32Array> = (words, at, out, to, stride) => {
  const first = words[at] ?? 0;
  if ((first & 127) === 64) one(words, at, out, to, stride, 6, 1, 0, 7, 7, 1, 4);
  else
    switch (31 - Math.clz32(first & -first & 255)) {
      case 0:
        one(words, at, out, to, stride, 0, 3, 4, 4, 0, 1, 3);
        break;
      case 1:
        one(words, at, out, to, stride, 1, 2, 6, 6, 0, 2, 3);
        break;
      case 2:
        one(words, at, out, to, stride, 2, 3, 6, 5, 0, 0, 2);
        break;
      case 3:
        one(words, at, out, to, stride, 3, 2, 6, 7, 0, 1, 2);
        break;
      case 4:
        two(words, at, out, to, stride, 5, bits(words, at, 7, 1) === 1, 8, 5, 6, 3);
        break;
      case 5:
        two(words, at, out, to, stride, 6, false, 8, 7, 8, 2);
        break;
      case 7:
        one(words, at, out, to, stride, 7, 2, 6, 5, 5, 1, 2);
        break;
      default:
        for (let row = 0; row < 4; row++) out.fill(0, to + row * stride, to + row * stride + 4);
    }
};

/**
 * Modes with one set of indices.
 * @param lowBits 1 where each end has a lowest bit of its own, 2 where both ends of a subset share one
 */
function one(
  words: Int32Array,
  at: number,
  out: Int32Array,
  to: number,
  stride: number,
  mode: number,
  subsets: number,
  partitionBits: number,
  colourBits: number,
  alphaBits: number,
  lowBits: number,
  indexBits: number,
): void {
  let from = mode + 1;
  const partition = partitionBits === 0 ? 0 : bits(words, at, from, partitionBits);
  from += partitionBits;
  const ends = subsets * 2;
  for (let end = 0; end < ends; end++, from += colourBits) redBlue[end] = bits(words, at, from, colourBits);
  for (let end = 0; end < ends; end++, from += colourBits)
    greenAlpha[end] = bits(words, at, from, colourBits);
  for (let end = 0; end < ends; end++, from += colourBits)
    redBlue[end] = (redBlue[end] ?? 0) | (bits(words, at, from, colourBits) << 16);
  if (alphaBits > 0)
    for (let end = 0; end < ends; end++, from += alphaBits)
      greenAlpha[end] = (greenAlpha[end] ?? 0) | (bits(words, at, from, alphaBits) << 16);
  const precision = colourBits + (lowBits > 0 ? 1 : 0);
  const low = lowBits === 0 ? 0 : bits(words, at, from, lowBits === 1 ? ends : subsets);
  const size = 1 << indexBits;
  const weights = weightsOfBits[indexBits] ?? alphas;
  for (let subset = 0; subset < subsets; subset++) {
    const end = subset * 2;
    const lowA = lowBits === 2 ? (low >> subset) & 1 : (low >> end) & 1;
    const lowB = lowBits === 2 ? lowA : (low >> (end + 1)) & 1;
    const rbA = expanded(redBlue[end] ?? 0, lowBits, lowA, precision);
    const rbB = expanded(redBlue[end + 1] ?? 0, lowBits, lowB, precision);
    let gaA = expanded(greenAlpha[end] ?? 0, lowBits, lowA, precision);
    let gaB = expanded(greenAlpha[end + 1] ?? 0, lowBits, lowB, precision);
    if (alphaBits === 0) {
      gaA = (gaA & 255) | 0xff0000;
      gaB = (gaB & 255) | 0xff0000;
    }
    for (let index = 0; index < size; index++) {
      const weight = weights[index] ?? 0;
      const other = 64 - weight;
      palette[subset * 16 + index] =
        (((Math.imul(rbA, other) + Math.imul(rbB, weight) + 0x200020) >>> 6) & lanes) |
        ((((Math.imul(gaA, other) + Math.imul(gaB, weight) + 0x200020) >>> 6) & lanes) << 8);
    }
  }
  // The indices come last: 64 bits that are shifted along, once those whose highest bit is left out have a zero for it.
  from = 128 - (16 * indexBits - subsets);
  stream[0] = word(words, at, from);
  stream[1] = from + 32 >= 128 ? 0 : word(words, at, from + 32);
  insertZero(indexBits - 1);
  if (subsets === 2) insertZero(((anchorOfTwo[partition] ?? 0) + 1) * indexBits - 1);
  else if (subsets === 3) {
    const second = anchorsOfThree[0][partition] ?? 0;
    const third = anchorsOfThree[1][partition] ?? 0;
    insertZero((Math.min(second, third) + 1) * indexBits - 1);
    insertZero((Math.max(second, third) + 1) * indexBits - 1);
  }
  let lower = stream[0] ?? 0;
  let upper = stream[1] ?? 0;
  let subsetsLeft =
    subsets === 1
      ? 0
      : subsets === 2
        ? spread(twoSubsets[partition] ?? 0)
        : (threeSubsets[partition] ?? 0) | 0;
  const mask = size - 1;
  const rest = 32 - indexBits;
  for (let row = 0, place = to; row < 4; row++, place += stride)
    for (let column = 0; column < 4; column++) {
      out[place + column] = palette[((subsetsLeft & 3) << 4) + (lower & mask)] ?? 0;
      lower = (lower >>> indexBits) | (upper << rest);
      upper >>>= indexBits;
      subsetsLeft >>>= 2;
    }
}

/** The lower and the upper half of 64 bits. */
const stream = new Int32Array(2);

function insertZero(place: number): void {
  const lower = stream[0] ?? 0;
  const upper = stream[1] ?? 0;
  if (place < 32) {
    const below = (1 << place) - 1;
    stream[0] = (lower & below) | ((lower & ~below) << 1);
    stream[1] = (upper << 1) | (lower >>> 31);
  } else {
    const below = (1 << (place - 32)) - 1;
    stream[1] = (upper & below) | ((upper & ~below) << 1);
  }
}

/** Lanes of so many bits as lanes of 8: the lowest bit is put in, then the highest ones follow once more. */
function expanded(value: number, lowBits: number, low: number, precision: number): number {
  const whole = lowBits > 0 ? (value << 1) | low | (low << 16) : value;
  const shifted = whole << (8 - precision);
  return shifted | ((shifted >>> precision) & lanes);
}

/** Each bit of 16 as two of 32. */
function spread(bitsOfPixels: number): number {
  let value = bitsOfPixels;
  value = (value | (value << 8)) & 0x00ff00ff;
  value = (value | (value << 4)) & 0x0f0f0f0f;
  value = (value | (value << 2)) & 0x33333333;
  return (value | (value << 1)) & 0x55555555;
}

/**
 * Modes with two sets of indices, for colour and for alpha, of which the first has two bits each. Alpha may have changed
 * places with a colour.
 * @param isSwapped whether alpha has the first set
 * @param secondBits of an index of the second set
 */
function two(
  words: Int32Array,
  at: number,
  out: Int32Array,
  to: number,
  stride: number,
  rotationAt: number,
  isSwapped: boolean,
  endsAt: number,
  colourBits: number,
  alphaBits: number,
  secondBits: number,
): void {
  const rotation = bits(words, at, rotationAt, 2);
  let from = endsAt;
  for (let end = 0; end < 2; end++, from += colourBits) redBlue[end] = bits(words, at, from, colourBits);
  for (let end = 0; end < 2; end++, from += colourBits) greenAlpha[end] = bits(words, at, from, colourBits);
  for (let end = 0; end < 2; end++, from += colourBits)
    redBlue[end] = (redBlue[end] ?? 0) | (bits(words, at, from, colourBits) << 16);
  const alphaA = expanded(bits(words, at, from, alphaBits), 0, 0, alphaBits);
  const alphaB = expanded(bits(words, at, from + alphaBits, alphaBits), 0, 0, alphaBits);
  from += 2 * alphaBits;
  const rbA = expanded(redBlue[0] ?? 0, 0, 0, colourBits);
  const rbB = expanded(redBlue[1] ?? 0, 0, 0, colourBits);
  const greenA = expanded(greenAlpha[0] ?? 0, 0, 0, colourBits);
  const greenB = expanded(greenAlpha[1] ?? 0, 0, 0, colourBits);
  const colourIndexBits = isSwapped ? secondBits : 2;
  const alphaIndexBits = isSwapped ? 2 : secondBits;
  const colourWeights = weightsOfBits[colourIndexBits] ?? alphas;
  for (let index = 0; index < 1 << colourIndexBits; index++) {
    const weight = colourWeights[index] ?? 0;
    const other = 64 - weight;
    palette[index] =
      (((Math.imul(rbA, other) + Math.imul(rbB, weight) + 0x200020) >>> 6) & lanes) |
      (((Math.imul(greenA, other) + Math.imul(greenB, weight) + 32) >>> 6) << 8);
  }
  const alphaWeights = weightsOfBits[alphaIndexBits] ?? alphas;
  for (let index = 0; index < 1 << alphaIndexBits; index++) {
    const weight = alphaWeights[index] ?? 0;
    alphas[index] = (Math.imul(alphaA, 64 - weight) + Math.imul(alphaB, weight) + 32) >>> 6;
  }
  let firstSet = word(words, at, from);
  const secondFrom = from + 31;
  let lower = word(words, at, secondFrom);
  let upper = secondBits === 3 ? word(words, at, secondFrom + 32) : 0;
  for (let pixel = 0; pixel < 16; pixel++) {
    const firstCount = pixel === 0 ? 1 : 2;
    const secondCount = pixel === 0 ? secondBits - 1 : secondBits;
    const first = firstSet & ((1 << firstCount) - 1);
    const second = lower & ((1 << secondCount) - 1);
    firstSet >>>= firstCount;
    lower = (lower >>> secondCount) | (upper << (32 - secondCount));
    upper >>>= secondCount;
    const colour = palette[isSwapped ? second : first] ?? 0;
    const alpha = alphas[isSwapped ? first : second] ?? 0;
    out[to + (pixel >> 2) * stride + (pixel & 3)] =
      rotation === 0 ? colour | (alpha << 24) : turned(colour, alpha, (rotation - 1) * 8);
  }
}

/** Alpha in the place of a colour, and that in the place of alpha. */
function turned(colour: number, alpha: number, shift: number): number {
  return (colour & ~(255 << shift)) | (alpha << shift) | (((colour >>> shift) & 255) << 24);
}
