import { deflateSync, gzipSync, zlibSync } from 'fflate';
import { joinBytes } from '../../bytes.ts';
import { numbersAt, swapBytes } from '../language/scalars.ts';
import type { Parameters } from './packings.ts';

/** The other way round: bytes that unpack to these. Where a packing has no packer here, it is written without saving anything. */
export type PackAgain = (bytes: Uint8Array, parameters: Parameters) => Uint8Array;

export const deflated: PackAgain = (bytes) => deflateSync(bytes, { level: 9 });
export const zlibbed: PackAgain = (bytes) => zlibSync(bytes, { level: 9 });
export const gzipped: PackAgain = (bytes) => gzipSync(bytes, { level: 9, mtime: 0 });

const mostInBlock = 128 * 1024;

/** A Zstandard frame of raw blocks, with its size in 8 bytes (RFC 8878, 3.1.1): it packs nothing. */
export const zstdRaw: PackAgain = (bytes) => {
  const head = new Uint8Array(13);
  const view = new DataView(head.buffer);
  view.setUint32(0, 0xfd2fb528, true);
  // One segment, and eight bytes of size.
  view.setUint8(4, 0b1110_0000);
  view.setBigUint64(5, BigInt(bytes.length), true);
  const parts: Uint8Array[] = [head];
  for (let at = 0; at === 0 || at < bytes.length; at += mostInBlock) {
    const block = bytes.subarray(at, at + mostInBlock);
    const isLast = at + mostInBlock >= bytes.length;
    const told = (block.length << 3) | (isLast ? 1 : 0);
    parts.push(Uint8Array.of(told & 255, (told >> 8) & 255, (told >> 16) & 255), block);
  }
  return joinBytes(parts);
};

/** One block of letters alone (LZ4 Block Format Description): it packs nothing. */
export const lz4Letters: PackAgain = (bytes) => {
  const { length } = bytes;
  if (length < 15) return joinBytes([Uint8Array.of(length << 4), bytes]);
  const rest = length - 15;
  const more = new Uint8Array(Math.floor(rest / 255) + 1).fill(255);
  more[more.length - 1] = rest % 255;
  return joinBytes([Uint8Array.of(0xf0), more, bytes]);
};

/** Eight flags, then eight letters: it packs nothing. */
export const lzssLetters: PackAgain = (bytes, parameters) => {
  const flags = parameters.whole('literal', 1, 0, 1) === 1 ? 255 : 0;
  const packed = new Uint8Array(bytes.length + Math.ceil(bytes.length / 8));
  for (let at = 0, to = 0; at < bytes.length; at++) {
    if (at % 8 === 0) packed[to++] = flags;
    packed[to++] = bytes[at] as number;
  }
  return packed;
};

/** Things of so many bytes: all first bytes, then all second ones. */
export const partPlanes: PackAgain = (bytes, parameters) => {
  const size = parameters.whole('bytes', undefined, 2, 256);
  const parted = new Uint8Array(bytes.length);
  for (let plane = 0, to = 0; plane < size; plane++)
    for (let at = plane; at < bytes.length; at += size) parted[to++] = bytes[at] as number;
  return parted;
};

/** Each number as how much it differs from that so many before it. */
export const differences: PackAgain = (bytes, parameters) => {
  const size = parameters.whole('bytes', 1, 1, 4);
  const stride = parameters.whole('stride', 1, 1, 65_536);
  const isLittle = parameters.word('endian', ['little', 'big'], 'little') === 'little';
  const isXor = parameters.word('kind', ['add', 'xor'], 'add') === 'xor';
  const count = Math.floor(bytes.length / size);
  const numbers = numbersAt(size === 1 ? 'u8' : size === 2 ? 'u16' : 'u32', bytes, 0, count, isLittle);
  const values = numbers as Uint32Array;
  for (let at = count - 1; at >= stride; at--)
    values[at] = isXor
      ? (values[at] as number) ^ (values[at - stride] as number)
      : (values[at] as number) - (values[at - stride] as number);
  const result = Uint8Array.from(bytes);
  result.set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
  if (!isLittle && size > 1) swapBytes(result.subarray(0, count * size), size);
  return result;
};
