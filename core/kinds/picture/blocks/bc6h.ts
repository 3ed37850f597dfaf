import { floatOfHalf } from '../half-float.ts';
import { BlockBits } from './block-bits.ts';
import type { BlockDecoder } from './block-images.ts';
import { anchorOfTwo, twoSubsets, weightsOfBits } from './partitions.ts';

interface Mode {
  regions: 1 | 2;
  /** Whether the ends after the first are differences to it. */
  isTransformed: boolean;
  /** Bits of the first end, and of the others' red, green and blue. */
  bits: readonly [first: number, red: number, green: number, blue: number];
  /** Where the bits go that follow the mode, from the lowest on; places are end * 3 + channel. */
  layout: readonly { place: number; bit: number }[];
}

/**
 * Khronos Data Format Specification 1.3, section 20.2, tables of the modes of BC6H. A layout reads as the tables do:
 * `rw0-9` are the ten bits of red of the first end from the lowest up, `rw15-10` six bits from the highest down. The
 * ends are w, x (first region), y and z (second region).
 */
const modes: Readonly<Record<number, Mode>> = {
  0x00: two(
    true,
    [10, 5, 5, 5],
    'gy4 by4 bz4 rw0-9 gw0-9 bw0-9 rx0-4 gz4 gy0-3 gx0-4 bz0 gz0-3 bx0-4 bz1 by0-3 ry0-4 bz2 rz0-4 bz3',
  ),
  0x01: two(
    true,
    [7, 6, 6, 6],
    'gy5 gz4 gz5 rw0-6 bz0 bz1 by4 gw0-6 by5 bz2 gy4 bw0-6 bz3 bz5 bz4 rx0-5 gy0-3 gx0-5 gz0-3 bx0-5 by0-3 ry0-5 rz0-5',
  ),
  0x02: two(
    true,
    [11, 5, 4, 4],
    'rw0-9 gw0-9 bw0-9 rx0-4 rw10 gy0-3 gx0-3 gw10 bz0 gz0-3 bx0-3 bw10 bz1 by0-3 ry0-4 bz2 rz0-4 bz3',
  ),
  0x06: two(
    true,
    [11, 4, 5, 4],
    'rw0-9 gw0-9 bw0-9 rx0-3 rw10 gz4 gy0-3 gx0-4 gw10 gz0-3 bx0-3 bw10 bz1 by0-3 ry0-3 bz0 bz2 rz0-3 gy4 bz3',
  ),
  0x0a: two(
    true,
    [11, 4, 4, 5],
    'rw0-9 gw0-9 bw0-9 rx0-3 rw10 by4 gy0-3 gx0-3 gw10 bz0 gz0-3 bx0-4 bw10 by0-3 ry0-3 bz1 bz2 rz0-3 bz4 bz3',
  ),
  0x0e: two(
    true,
    [9, 5, 5, 5],
    'rw0-8 by4 gw0-8 gy4 bw0-8 bz4 rx0-4 gz4 gy0-3 gx0-4 bz0 gz0-3 bx0-4 bz1 by0-3 ry0-4 bz2 rz0-4 bz3',
  ),
  0x12: two(
    true,
    [8, 6, 5, 5],
    'rw0-7 gz4 by4 gw0-7 bz2 gy4 bw0-7 bz3 bz4 rx0-5 gy0-3 gx0-4 bz0 gz0-3 bx0-4 bz1 by0-3 ry0-5 rz0-5',
  ),
  0x16: two(
    true,
    [8, 5, 6, 5],
    'rw0-7 bz0 by4 gw0-7 gy5 gy4 bw0-7 gz5 bz4 rx0-4 gz4 gy0-3 gx0-5 gz0-3 bx0-4 bz1 by0-3 ry0-4 bz2 rz0-4 bz3',
  ),
  0x1a: two(
    true,
    [8, 5, 5, 6],
    'rw0-7 bz1 by4 gw0-7 by5 gy4 bw0-7 bz5 bz4 rx0-4 gz4 gy0-3 gx0-4 bz0 gz0-3 bx0-5 by0-3 ry0-4 bz2 rz0-4 bz3',
  ),
  0x1e: two(
    false,
    [6, 6, 6, 6],
    'rw0-5 gz4 bz0 bz1 by4 gw0-5 gy5 by5 bz2 gy4 bw0-5 gz5 bz3 bz5 bz4 rx0-5 gy0-3 gx0-5 gz0-3 bx0-5 by0-3 ry0-5 rz0-5',
  ),
  0x03: one(false, [10, 10, 10, 10], 'rw0-9 gw0-9 bw0-9 rx0-9 gx0-9 bx0-9'),
  0x07: one(true, [11, 9, 9, 9], 'rw0-9 gw0-9 bw0-9 rx0-8 rw10 gx0-8 gw10 bx0-8 bw10'),
  0x0b: one(true, [12, 8, 8, 8], 'rw0-9 gw0-9 bw0-9 rx0-7 rw11-10 gx0-7 gw11-10 bx0-7 bw11-10'),
  0x0f: one(true, [16, 4, 4, 4], 'rw0-9 gw0-9 bw0-9 rx0-3 rw15-10 gx0-3 gw15-10 bx0-3 bw15-10'),
};

function two(isTransformed: boolean, bits: Mode['bits'], layout: string): Mode {
  return { regions: 2, isTransformed, bits, layout: layoutOf(layout) };
}

function one(isTransformed: boolean, bits: Mode['bits'], layout: string): Mode {
  return { regions: 1, isTransformed, bits, layout: layoutOf(layout) };
}

function layoutOf(text: string): Mode['layout'] {
  return text.split(' ').flatMap((part) => {
    const [, channel = '', end = '', from = '', to = from] =
      /^([rgb])([wxyz])(\d+)(?:-(\d+))?$/.exec(part) ?? [];
    const place = 'wxyz'.indexOf(end) * 3 + 'rgb'.indexOf(channel);
    const step = Number(to) < Number(from) ? -1 : 1;
    return Array.from({ length: Math.abs(Number(to) - Number(from)) + 1 }, (_, count) => ({
      place,
      bit: Number(from) + count * step,
    }));
  });
}

const bits = new BlockBits();
const ends = new Int32Array(12);

/** BC6H: 16 bytes, to linear RGB and an alpha of 1. A block of a reserved mode is black. */
export const bc6h: BlockDecoder<Float32Array> = (words, at, out, to, stride) =>
  decode(words, at, out, to, stride, false);
export const bc6hSigned: BlockDecoder<Float32Array> = (words, at, out, to, stride) =>
  decode(words, at, out, to, stride, true);

function decode(
  words: Int32Array,
  at: number,
  out: Float32Array,
  to: number,
  stride: number,
  isSigned: boolean,
): void {
  bits.begin(words, at);
  let number = bits.read(2);
  if (number > 1) number |= bits.read(3) << 2;
  const chosen = modes[number];
  if (!chosen) {
    for (let pixel = 0; pixel < 16; pixel++) out.set([0, 0, 0, 1], placeOf(pixel, to, stride));
    return;
  }
  readEnds(chosen, isSigned);
  const partition = chosen.regions === 2 ? bits.read(5) : 0;
  const indexBits = chosen.regions === 2 ? 3 : 4;
  const weights = weightsOfBits[indexBits] ?? new Uint8Array();
  const pattern = chosen.regions === 2 ? (twoSubsets[partition] ?? 0) : 0;
  const anchor = chosen.regions === 2 ? (anchorOfTwo[partition] ?? 0) : 0;
  for (let pixel = 0; pixel < 16; pixel++) {
    const weight = weights[bits.read(pixel === 0 || pixel === anchor ? indexBits - 1 : indexBits)] ?? 0;
    const from = ((pattern >> pixel) & 1) * 6;
    const place = placeOf(pixel, to, stride);
    for (let channel = 0; channel < 3; channel++) {
      const a = ends[from + channel] ?? 0;
      const b = ends[from + 3 + channel] ?? 0;
      out[place + channel] = finish((a * (64 - weight) + b * weight + 32) >> 6, isSigned);
    }
    out[place + 3] = 1;
  }
}

function placeOf(pixel: number, to: number, stride: number): number {
  return (to + (pixel >> 2) * stride + (pixel & 3)) * 4;
}

function readEnds({ regions, isTransformed, bits: sizes, layout }: Mode, isSigned: boolean): void {
  ends.fill(0);
  for (const { place, bit } of layout) ends[place] = (ends[place] ?? 0) | (bits.read(1) << bit);
  const firstBits = sizes[0];
  for (let channel = 0; channel < 3; channel++) {
    if (isSigned) ends[channel] = extendSign(ends[channel] ?? 0, firstBits);
    const first = ends[channel] ?? 0;
    for (let end = 1; end < regions * 2; end++) {
      const place = end * 3 + channel;
      let value = ends[place] ?? 0;
      if (isSigned || isTransformed) value = extendSign(value, sizes[channel + 1] ?? 0);
      if (isTransformed) {
        value = (first + value) & ((1 << firstBits) - 1);
        if (isSigned) value = extendSign(value, firstBits);
      }
      ends[place] = value;
    }
  }
  for (let place = 0; place < regions * 6; place++)
    ends[place] = unquantise(ends[place] ?? 0, firstBits, isSigned);
}

function extendSign(value: number, size: number): number {
  return (value << (32 - size)) >> (32 - size);
}

function unquantise(value: number, size: number, isSigned: boolean): number {
  if (!isSigned) {
    if (size >= 15 || value === 0) return value;
    return value === (1 << size) - 1 ? 0xffff : ((value << 15) + 0x4000) >> (size - 1);
  }
  if (size >= 16 || value === 0) return value;
  const magnitude = Math.abs(value);
  const whole = magnitude >= (1 << (size - 1)) - 1 ? 0x7fff : ((magnitude << 15) + 0x4000) >> (size - 1);
  return value < 0 ? -whole : whole;
}

/** To the bits of a half float, and that to a number. */
function finish(value: number, isSigned: boolean): number {
  if (!isSigned) return floatOfHalf((value * 31) >> 6);
  return value < 0 ? floatOfHalf(((-value * 31) >> 5) | 0x8000) : floatOfHalf((value * 31) >> 5);
}
