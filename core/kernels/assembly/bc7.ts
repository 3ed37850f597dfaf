import { first, output, tables } from './layout';

/**
 * Blocks of BC7 after the Khronos Data Format Specification 1.3, section 20.1. The sixteen pixels of a block are reckoned with at
 * once: what each index stands for is looked up in sixteen lanes, a channel at a time.
 */

/** Tables of the format, which the host writes here, as numbers of 32 bits. */
const anchorOfTwo: usize = tables;
const anchorsOfThree: usize = tables + 0x100;
const twoSubsets: usize = tables + 0x300;
const threeSubsets: usize = tables + 0x400;
/** Weights of indices of 2, 3 and 4 bits, 16 numbers each. */
const weights: usize = tables + 0x500;

/** The subset of each pixel, in bytes: 64 partitions of one, of two and of three subsets. */
const subsetsOfPixels: usize = tables + 0x1000;
/** What is the same in all blocks of a mode, 256 bytes each; modes 8 and 9 are palettes of the second sets of indices. */
const records: usize = tables + 0x2000;
const colourFactors: usize = 0;
const alphaFactors: usize = 32;
const lowFactors: usize = 64;
/** For each entry of the palette its two ends and its weight; 48 bytes on, the same for entries from 16 on. */
const endsA: usize = 96;
const endsB: usize = 112;
const entryWeights: usize = 128;
const moreEntries: usize = 48;

let lower: u64 = 0;
let upper: u64 = 0;

/** @param count 1 to 32 */
function bits(from: i32, count: i32): i32 {
  let value: u64;
  if (from >= 64) value = upper >> (from - 64);
  else {
    value = lower >> from;
    // Shifts by 64 wrap around.
    if (from > 0) value |= upper << (64 - from);
  }
  return (value as i32) & ((((1 as u64) << count) - 1) as i32);
}

function numberAt(table: usize, at: i32): i32 {
  return load<i32>(table + ((at as usize) << 2));
}

/** What brings each of eight fields of so many bits to the upper end of 32 bits. */
function writeFactors(to: usize, fieldBits: i32, fields: i32, isShared: bool): void {
  for (let field = 0; field < 8; field++) {
    const shift = 32 - ((isShared ? field >> 1 : field) + 1) * fieldBits;
    store<i32>(to + ((field as usize) << 2), field < fields && shift < 32 ? 1 << shift : 0);
  }
}

function writeEntries(record: usize, indexBits: i32, subsets: i32): void {
  const size = 1 << indexBits;
  for (let entry = 0; entry < subsets * size; entry++) {
    const to = record + (entry >= 16 ? moreEntries : 0) + ((entry & 15) as usize);
    const subset = entry >> indexBits;
    store<u8>(to + endsA, (subset * 2) as u8);
    store<u8>(to + endsB, (subset * 2 + 1) as u8);
    store<u8>(to + entryWeights, numberAt(weights, (indexBits - 2) * 16 + (entry & (size - 1))) as u8);
  }
}

function prepareMode(
  mode: i32,
  subsets: i32,
  colourBits: i32,
  alphaBits: i32,
  lowBits: i32,
  indexBits: i32,
): void {
  const record = records + ((mode as usize) << 8);
  writeFactors(record + colourFactors, colourBits, subsets * 2, false);
  writeFactors(record + alphaFactors, alphaBits, subsets * 2, false);
  if (lowBits > 0) writeFactors(record + lowFactors, 1, subsets * 2, lowBits == 2);
  writeEntries(record, indexBits, subsets);
}

/** Makes what all blocks need of the tables of the format: to be called once these are written. */
export function prepareBc7(): void {
  for (let partition = 0; partition < 64; partition++) {
    const two = numberAt(twoSubsets, partition);
    const three = numberAt(threeSubsets, partition);
    const to = subsetsOfPixels + ((partition as usize) << 4);
    for (let pixel = 0; pixel < 16; pixel++) {
      store<u8>(to + (pixel as usize) + 0x400, ((two >> pixel) & 1) as u8);
      store<u8>(to + (pixel as usize) + 0x800, ((three >> (pixel * 2)) & 3) as u8);
    }
  }
  prepareMode(0, 3, 4, 0, 1, 3);
  prepareMode(1, 2, 6, 0, 2, 3);
  prepareMode(2, 3, 5, 0, 0, 2);
  prepareMode(3, 2, 7, 0, 1, 2);
  prepareMode(4, 1, 5, 6, 0, 2);
  prepareMode(5, 1, 7, 8, 0, 2);
  prepareMode(6, 1, 7, 7, 1, 4);
  prepareMode(7, 2, 5, 5, 1, 2);
  prepareMode(8, 1, 5, 6, 0, 3);
}

/**
 * The ends of all subsets of a channel as bytes: the fields, the lowest bit where there is one, then the highest bits once more.
 * @param low the lowest bits of the ends, one after the other; -1 where there are none
 */
function endsOf(fields: i32, factors: usize, fieldBits: i32, low: i32, lows: usize): v128 {
  const all = i32x4.splat(fields);
  let a = i32x4.shr_u(i32x4.mul(all, v128.load(factors)), 32 - fieldBits);
  let b = i32x4.shr_u(i32x4.mul(all, v128.load(factors, 16)), 32 - fieldBits);
  let precision = fieldBits;
  if (low >= 0) {
    const bit = i32x4.splat(low);
    a = v128.or(i32x4.shl(a, 1), i32x4.shr_u(i32x4.mul(bit, v128.load(lows)), 31));
    b = v128.or(i32x4.shl(b, 1), i32x4.shr_u(i32x4.mul(bit, v128.load(lows, 16)), 31));
    precision++;
  }
  const pairs = i16x8.shl(i16x8.narrow_i32x4_u(a, b), 8 - precision);
  return i8x16.narrow_i16x8_u(v128.or(pairs, i16x8.shr_u(pairs, precision)), pairs);
}

/** What the sixteen entries of a palette stand for in a channel. */
function entriesOf(ends: v128, entries: usize): v128 {
  const a = i8x16.swizzle(ends, v128.load(entries, endsA));
  const b = i8x16.swizzle(ends, v128.load(entries, endsB));
  const weight = v128.load(entries, entryWeights);
  const other = i8x16.sub(i8x16.splat(64), weight);
  const half = i16x8.splat(32);
  const low = i16x8.add(i16x8.extmul_low_i8x16_u(a, other), i16x8.extmul_low_i8x16_u(b, weight));
  const high = i16x8.add(i16x8.extmul_high_i8x16_u(a, other), i16x8.extmul_high_i8x16_u(b, weight));
  return i8x16.narrow_i16x8_u(i16x8.shr_u(i16x8.add(low, half), 6), i16x8.shr_u(i16x8.add(high, half), 6));
}

/** Puts the bit in that is left out of the index of an anchor. */
function withZero(stream: u64, place: i32): u64 {
  const below = ((1 as u64) << place) - 1;
  return (stream & below) | ((stream & ~below) << 1);
}

/** Eight numbers of three bits as eight bytes. */
function bytesOfThree(stream: u64): u64 {
  let value = stream & 0xffffff;
  value = (value | (value << 20)) & 0x00000fff00000fff;
  value = (value | (value << 10)) & 0x003f003f003f003f;
  return (value | (value << 5)) & 0x0707070707070707;
}

/** Eight numbers of two bits as eight bytes. */
function bytesOfTwo(stream: u64): u64 {
  let value = stream & 0xffff;
  value = (value | (value << 24)) & 0x000000ff000000ff;
  value = (value | (value << 12)) & 0x000f000f000f000f;
  return (value | (value << 6)) & 0x0303030303030303;
}

/** The indices of sixteen pixels, each in a byte. */
function indicesOf(stream: u64, indexBits: i32): v128 {
  if (indexBits == 4) {
    const pairs = i64x2.splat(stream);
    const low = v128.and(pairs, i8x16.splat(15));
    const high = i8x16.shr_u(pairs, 4);
    return i8x16.shuffle(low, high, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
  }
  return indexBits == 3
    ? i64x2.replace_lane(i64x2.splat(bytesOfThree(stream)), 1, bytesOfThree(stream >> 24))
    : i64x2.replace_lane(i64x2.splat(bytesOfTwo(stream)), 1, bytesOfTwo(stream >> 16));
}

/** Writes four rows of four pixels. */
function write(to: usize, stride: usize, red: v128, green: v128, blue: v128, alpha: v128): void {
  const rg = i8x16.shuffle(red, green, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
  const ba = i8x16.shuffle(blue, alpha, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
  v128.store(to, i16x8.shuffle(rg, ba, 0, 8, 1, 9, 2, 10, 3, 11));
  v128.store(to + stride, i16x8.shuffle(rg, ba, 4, 12, 5, 13, 6, 14, 7, 15));
  const rg2 = i8x16.shuffle(red, green, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
  const ba2 = i8x16.shuffle(blue, alpha, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
  v128.store(to + 2 * stride, i16x8.shuffle(rg2, ba2, 0, 8, 1, 9, 2, 10, 3, 11));
  v128.store(to + 3 * stride, i16x8.shuffle(rg2, ba2, 4, 12, 5, 13, 6, 14, 7, 15));
}

/** A channel of sixteen pixels. @param hasMore whether the palette has more than sixteen entries */
function channelOf(ends: v128, record: usize, indices: v128, hasMore: bool): v128 {
  const values = i8x16.swizzle(entriesOf(ends, record), indices);
  if (!hasMore) return values;
  // What lies outside of sixteen is zero, on either side.
  const more = i8x16.sub(indices, i8x16.splat(16));
  return v128.or(values, i8x16.swizzle(entriesOf(ends, record + moreEntries), more));
}

/**
 * Modes with one set of indices.
 * @param lowCount bits that are the lowest of ends: one for each end, or for both ends of a subset
 */
function one(
  to: usize,
  stride: usize,
  mode: i32,
  subsets: i32,
  partitionBits: i32,
  colourBits: i32,
  alphaBits: i32,
  lowCount: i32,
  indexBits: i32,
): void {
  const record = records + ((mode as usize) << 8);
  let from = mode + 1;
  const partition = partitionBits == 0 ? 0 : bits(from, partitionBits);
  from += partitionBits;
  const count = subsets * 2 * colourBits;
  const alphaCount = subsets * 2 * alphaBits;
  const redFields = bits(from, count);
  const greenFields = bits(from + count, count);
  const blueFields = bits(from + 2 * count, count);
  from += 3 * count;
  const alphaFields = alphaBits == 0 ? 0 : bits(from, alphaCount);
  const low = lowCount == 0 ? -1 : bits(from + alphaCount, lowCount);
  const factors = record + colourFactors;
  const lows = record + lowFactors;
  const red = endsOf(redFields, factors, colourBits, low, lows);
  const green = endsOf(greenFields, factors, colourBits, low, lows);
  const blue = endsOf(blueFields, factors, colourBits, low, lows);
  // The indices come last, in at most 63 bits, of which some have their highest bit left out.
  let stream = upper >> (64 - (16 * indexBits - subsets));
  stream = withZero(stream, indexBits - 1);
  if (subsets == 2) {
    stream = withZero(stream, (numberAt(anchorOfTwo, partition) + 1) * indexBits - 1);
  } else if (subsets == 3) {
    const a = numberAt(anchorsOfThree, partition);
    const b = numberAt(anchorsOfThree, 64 + partition);
    stream = withZero(stream, (min(a, b) + 1) * indexBits - 1);
    stream = withZero(stream, (max(a, b) + 1) * indexBits - 1);
  }
  const subsetOf = v128.load(
    subsetsOfPixels + (((subsets - 1) as usize) << 10) + ((partition as usize) << 4),
  );
  const indices = i8x16.add(indicesOf(stream, indexBits), i8x16.shl(subsetOf, indexBits));
  const hasMore = mode == 0;
  const alpha =
    alphaBits == 0
      ? i8x16.splat(-1)
      : channelOf(endsOf(alphaFields, record + alphaFactors, alphaBits, low, lows), record, indices, hasMore);
  write(
    to,
    stride,
    channelOf(red, record, indices, hasMore),
    channelOf(green, record, indices, hasMore),
    channelOf(blue, record, indices, hasMore),
    alpha,
  );
}

/**
 * Modes with two sets of indices, for colour and for alpha, of which the first has two bits each. Alpha may have changed places
 * with a colour.
 * @param isSwapped whether alpha has the first set
 * @param secondBits of an index of the second set
 */
function two(
  to: usize,
  stride: usize,
  mode: i32,
  rotationAt: i32,
  isSwapped: bool,
  endsAt: i32,
  colourBits: i32,
  alphaBits: i32,
  secondBits: i32,
): void {
  const record = records + ((mode as usize) << 8);
  const secondRecord = secondBits == 3 ? records + 0x800 : record;
  const rotation = bits(rotationAt, 2);
  const count = 2 * colourBits;
  const factors = record + colourFactors;
  const redEnds = endsOf(bits(endsAt, count), factors, colourBits, -1, 0);
  const greenEnds = endsOf(bits(endsAt + count, count), factors, colourBits, -1, 0);
  const blueEnds = endsOf(bits(endsAt + 2 * count, count), factors, colourBits, -1, 0);
  const from = endsAt + 3 * count;
  const alphaEnds = endsOf(bits(from, 2 * alphaBits), record + alphaFactors, alphaBits, -1, 0);
  const firstAt = from + 2 * alphaBits;
  const firstSet = indicesOf(withZero(bits(firstAt, 31) as u32 as u64, 1), 2);
  const secondSet = indicesOf(withZero(upper >> (firstAt + 31 - 64), secondBits - 1), secondBits);
  const colourEntries = isSwapped ? secondRecord : record;
  const colourIndices = isSwapped ? secondSet : firstSet;
  let red = channelOf(redEnds, colourEntries, colourIndices, false);
  let green = channelOf(greenEnds, colourEntries, colourIndices, false);
  let blue = channelOf(blueEnds, colourEntries, colourIndices, false);
  let alpha = channelOf(
    alphaEnds,
    isSwapped ? record : secondRecord,
    isSwapped ? firstSet : secondSet,
    false,
  );
  const plain = alpha;
  if (rotation == 1) {
    alpha = red;
    red = plain;
  } else if (rotation == 2) {
    alpha = green;
    green = plain;
  } else if (rotation == 3) {
    alpha = blue;
    blue = plain;
  }
  write(to, stride, red, green, blue, alpha);
}

/**
 * Rows of blocks of 16 bytes, from `first` to `output`: four rows of pixels for each, red in the lowest byte. A block of the
 * reserved mode is clear black.
 */
export function decodeBc7(blocksAcross: i32, blockRows: i32): void {
  let at = first;
  const stride: usize = (blocksAcross as usize) << 4;
  for (let row = 0; row < blockRows; row++) {
    let to = output + (row as usize) * 4 * stride;
    for (let block = 0; block < blocksAcross; block++, at += 16, to += 16) {
      lower = load<u64>(at);
      upper = load<u64>(at, 8);
      switch (ctz<i32>(((lower as i32) & 255) | 256)) {
        case 0:
          one(to, stride, 0, 3, 4, 4, 0, 6, 3);
          break;
        case 1:
          one(to, stride, 1, 2, 6, 6, 0, 2, 3);
          break;
        case 2:
          one(to, stride, 2, 3, 6, 5, 0, 0, 2);
          break;
        case 3:
          one(to, stride, 3, 2, 6, 7, 0, 4, 2);
          break;
        case 4:
          two(to, stride, 4, 5, bits(7, 1) == 1, 8, 5, 6, 3);
          break;
        case 5:
          two(to, stride, 5, 6, false, 8, 7, 8, 2);
          break;
        case 6:
          one(to, stride, 6, 1, 0, 7, 7, 2, 4);
          break;
        case 7:
          one(to, stride, 7, 2, 6, 5, 5, 4, 2);
          break;
        default:
          for (let line: usize = 0; line < 4; line++) v128.store(to + line * stride, i32x4.splat(0));
      }
    }
  }
}
