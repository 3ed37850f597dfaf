import type { BlockDecoder } from './block-images.ts';

/**
 * BC1 to BC5 after the Khronos Data Format Specification 1.3, sections 18 (S3TC) and 19 (RGTC). Values between the two
 * ends are rounded to the nearest of 8 bits.
 */

const palette = new Int32Array(4);
const values = new Uint8Array(8);

/** Red, green and blue of 5, 6 and 5 bits, as 8 bits each. */
function colourOf(bits: number): number {
  const red = (bits >> 11) & 31;
  const green = (bits >> 5) & 63;
  const blue = bits & 31;
  return (red << 3) | (red >> 2) | (((green << 2) | (green >> 4)) << 8) | (((blue << 3) | (blue >> 2)) << 16);
}

/** Weighs each of the three channels: (a · first + b · second) / (a + b). */
function mix(first: number, a: number, second: number, b: number): number {
  const whole = a + b;
  const half = whole >> 1;
  let colour = 0;
  for (let shift = 0; shift < 24; shift += 8) {
    const value = (((first >> shift) & 255) * a + ((second >> shift) & 255) * b + half) / whole;
    colour |= (value | 0) << shift;
  }
  return colour;
}

const opaque = 0xff000000;

/** @param alwaysFour as in BC2 and BC3, where the order of the ends says nothing */
function colours(
  words: Int32Array,
  at: number,
  out: Int32Array,
  to: number,
  stride: number,
  alwaysFour: boolean,
  alpha: number,
): void {
  const ends = words[at] ?? 0;
  const indices = words[at + 1] ?? 0;
  const first = ends & 0xffff;
  const second = ends >>> 16;
  const a = colourOf(first);
  const b = colourOf(second);
  palette[0] = a | alpha;
  palette[1] = b | alpha;
  if (alwaysFour || first > second) {
    palette[2] = mix(a, 2, b, 1) | alpha;
    palette[3] = mix(a, 1, b, 2) | alpha;
  } else {
    palette[2] = mix(a, 1, b, 1) | alpha;
    palette[3] = 0;
  }
  for (let pixel = 0; pixel < 16; pixel++)
    out[to + (pixel >> 2) * stride + (pixel & 3)] = palette[(indices >>> (pixel * 2)) & 3] ?? 0;
}

/** BC1: 8 bytes; the fourth colour is clear black where the first end is not the greater one. */
export const bc1: BlockDecoder<Int32Array> = (words, at, out, to, stride) =>
  colours(words, at, out, to, stride, false, opaque);

/** BC1 without alpha: the fourth colour is opaque black then. */
export const bc1Opaque: BlockDecoder<Int32Array> = (words, at, out, to, stride) => {
  colours(words, at, out, to, stride, false, opaque);
  for (let pixel = 0; pixel < 16; pixel++)
    out[to + (pixel >> 2) * stride + (pixel & 3)] =
      (out[to + (pixel >> 2) * stride + (pixel & 3)] ?? 0) | opaque;
};

/** BC2: 16 bytes, alpha of 4 bits to a pixel. */
export const bc2: BlockDecoder<Int32Array> = (words, at, out, to, stride) => {
  colours(words, at + 2, out, to, stride, true, 0);
  for (let pixel = 0; pixel < 16; pixel++) {
    const alpha = ((words[at + (pixel >> 3)] ?? 0) >>> ((pixel & 7) * 4)) & 15;
    out[to + (pixel >> 2) * stride + (pixel & 3)] =
      (out[to + (pixel >> 2) * stride + (pixel & 3)] ?? 0) | ((alpha * 17) << 24);
  }
};

/** BC3: 16 bytes, alpha as one channel of BC4. */
export const bc3: BlockDecoder<Int32Array> = (words, at, out, to, stride) => {
  colours(words, at + 2, out, to, stride, true, 0);
  channel(words, at, out, to, stride, 24, false);
};

/** BC4: 8 bytes, one channel, shown as grey. */
export const bc4: BlockDecoder<Int32Array> = (words, at, out, to, stride) =>
  single(words, at, out, to, stride, false);
export const bc4Signed: BlockDecoder<Int32Array> = (words, at, out, to, stride) =>
  single(words, at, out, to, stride, true);

/** BC5: 16 bytes, red and green. */
export const bc5: BlockDecoder<Int32Array> = (words, at, out, to, stride) =>
  double(words, at, out, to, stride, false);
export const bc5Signed: BlockDecoder<Int32Array> = (words, at, out, to, stride) =>
  double(words, at, out, to, stride, true);

function fill(out: Int32Array, to: number, stride: number, value: number): void {
  for (let row = 0; row < 4; row++) out.fill(value, to + row * stride, to + row * stride + 4);
}

function single(
  words: Int32Array,
  at: number,
  out: Int32Array,
  to: number,
  stride: number,
  isSigned: boolean,
): void {
  fill(out, to, stride, 0);
  channel(words, at, out, to, stride, 0, isSigned);
  for (let pixel = 0; pixel < 16; pixel++)
    out[to + (pixel >> 2) * stride + (pixel & 3)] =
      (out[to + (pixel >> 2) * stride + (pixel & 3)] ?? 0) * 0x010101 + opaque;
}

function double(
  words: Int32Array,
  at: number,
  out: Int32Array,
  to: number,
  stride: number,
  isSigned: boolean,
): void {
  fill(out, to, stride, opaque);
  channel(words, at, out, to, stride, 0, isSigned);
  channel(words, at + 2, out, to, stride, 8, isSigned);
}

/** Adds one channel, whose place must be empty, to the pixels. Signed values -127 to 127 become 0 to 255. */
function channel(
  words: Int32Array,
  at: number,
  out: Int32Array,
  to: number,
  stride: number,
  shift: number,
  isSigned: boolean,
): void {
  const low = words[at] ?? 0;
  const high = words[at + 1] ?? 0;
  const a = isSigned ? signedByte(low) : low & 255;
  const b = isSigned ? signedByte(low >> 8) : (low >> 8) & 255;
  const ends = isSigned ? toUnsigned : same;
  values[0] = ends(a);
  values[1] = ends(b);
  if (a > b) {
    for (let step = 1; step < 7; step++) values[step + 1] = ends((a * (7 - step) + b * step) / 7);
  } else {
    for (let step = 1; step < 5; step++) values[step + 1] = ends((a * (5 - step) + b * step) / 5);
    values[6] = 0;
    values[7] = 255;
  }
  // Sixteen indices of three bits, from bit 16 on.
  let bits = (low >>> 16) | (high << 16);
  for (let pixel = 0; pixel < 8; pixel++) {
    // The first ten and two thirds lie in the lower word.
    out[to + (pixel >> 2) * stride + (pixel & 3)] =
      (out[to + (pixel >> 2) * stride + (pixel & 3)] ?? 0) | ((values[bits & 7] ?? 0) << shift);
    bits >>>= 3;
  }
  bits = high >>> 8;
  for (let pixel = 8; pixel < 16; pixel++) {
    out[to + (pixel >> 2) * stride + (pixel & 3)] =
      (out[to + (pixel >> 2) * stride + (pixel & 3)] ?? 0) | ((values[bits & 7] ?? 0) << shift);
    bits >>>= 3;
  }
}

function signedByte(bits: number): number {
  return Math.max(-127, (bits << 24) >> 24);
}

function same(value: number): number {
  return (value + 0.5) | 0;
}

function toUnsigned(value: number): number {
  return ((value / 127 + 1) * 127.5 + 0.5) | 0;
}
