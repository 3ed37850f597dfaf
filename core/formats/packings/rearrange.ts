import { bytesOf } from '../language/conversions.ts';
import { numbersAt, swapBytes } from '../language/scalars.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Parameters } from './packings.ts';

function copyOf(bytes: Uint8Array, { budget }: Parameters): Uint8Array<ArrayBuffer> {
  budget.allocate(bytes.length);
  return Uint8Array.from(bytes);
}

/**
 * With a key that goes on and on: a number of 8 bits, a list of bytes, a text, or `keyring`, one of the title's keys.
 * `step` is added to it each time round.
 */
export function xor(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const key = keyOf(parameters);
  if (key.length === 0) throw new SheetError('the key is empty');
  const begin = parameters.whole('begin', 0);
  const step = parameters.whole('step', 0, 0, 255);
  const result = copyOf(bytes, parameters);
  for (let at = 0; at < result.length; at++) {
    const place = begin + at;
    const round = step === 0 ? 0 : step * Math.floor(place / key.length);
    result[at] = (result[at] as number) ^ ((key[place % key.length] as number) + round);
  }
  return result;
}

function keyOf({ value }: Parameters): Uint8Array {
  const key = value('key');
  if (key === null) throw new SheetError('it needs key');
  if (typeof key === 'number') {
    if (!Number.isInteger(key) || key < 0 || key > 255)
      throw new SheetError('a key that is a number is 0 to 255: write longer ones as a list of bytes');
    return Uint8Array.of(key);
  }
  return typeof key === 'string' ? new TextEncoder().encode(key) : bytesOf(key);
}

/** Numbers of `bytes` bytes each the other way round. What is left over stays. */
export function swap(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const result = copyOf(bytes, parameters);
  swapBytes(result, parameters.whole('bytes', 2, 2, 16));
  return result;
}

/** Things of `bytes` bytes, of which all first bytes lie together, then all second ones. */
export function joinPlanes(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const size = parameters.whole('bytes', undefined, 2, 256);
  if (bytes.length % size !== 0)
    throw new SheetError(`${bytes.length} bytes are no whole number of things of ${size}`);
  const count = bytes.length / size;
  parameters.budget.allocate(bytes.length);
  const result = new Uint8Array(bytes.length);
  for (let plane = 0, from = 0; plane < size; plane++)
    for (let at = plane; at < result.length; at += size) result[at] = bytes[from++] as number;
  return count === 0 ? bytes : result;
}

/**
 * Numbers of `bytes` bytes of which each is told by how much it differs from that `stride` numbers before; the first are told as they
 * are. `kind` `xor`: by exclusive or.
 */
export function delta(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const size = parameters.whole('bytes', 1, 1, 4);
  const stride = parameters.whole('stride', 1, 1, 65_536);
  const isLittle = parameters.word('endian', ['little', 'big'], 'little') === 'little';
  const isXor = parameters.word('kind', ['add', 'xor'], 'add') === 'xor';
  if (size === 3) throw new SheetError('numbers of 3 bytes have no differences here');
  const count = Math.floor(bytes.length / size);
  parameters.budget.allocate(bytes.length * 2);
  const numbers = numbersAt(size === 1 ? 'u8' : size === 2 ? 'u16' : 'u32', bytes, 0, count, isLittle);
  const sums = numbers as Uint32Array;
  for (let at = stride; at < count; at++)
    sums[at] = isXor
      ? (sums[at] as number) ^ (sums[at - stride] as number)
      : (sums[at] as number) + (sums[at - stride] as number);
  const result = Uint8Array.from(bytes);
  result.set(new Uint8Array(sums.buffer, sums.byteOffset, sums.byteLength));
  if (!isLittle && size > 1) swapBytes(result.subarray(0, count * size), size);
  return result;
}

/**
 * Pixels whose bits lie in `planes` planes, eight pixels a byte. `arrangement`: all of a plane and then the next (`planes`), or row by
 * row (`rows`), where `width` is that of a row. `order`: which bit is the first pixel, the `high`est or the `low`est.
 * @returns a byte a pixel; rows are filled up to whole bytes
 */
export function bitPlanes(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const planes = parameters.whole('planes', undefined, 1, 8);
  const isByRows = parameters.word('arrangement', ['planes', 'rows'], 'planes') === 'rows';
  const isHighFirst = parameters.word('order', ['high', 'low'], 'high') === 'high';
  const rowBytes = isByRows ? Math.ceil(parameters.whole('width', undefined, 1, 65_536) / 8) : 0;
  const total = Math.floor(bytes.length / planes);
  const planeBytes = isByRows ? rowBytes : total;
  if (planeBytes === 0) return new Uint8Array(0);
  parameters.budget.allocate(total * 8);
  const pixels = new Uint8Array(total * 8);
  for (let at = 0; at < total; at++) {
    const row = Math.floor(at / planeBytes);
    const column = at % planeBytes;
    for (let plane = 0; plane < planes; plane++) {
      const byte = bytes[(row * planes + plane) * planeBytes + column] ?? 0;
      for (let bit = 0; bit < 8; bit++)
        if ((byte >> (isHighFirst ? 7 - bit : bit)) & 1) {
          const to = at * 8 + bit;
          pixels[to] = (pixels[to] as number) | (1 << plane);
        }
    }
  }
  return pixels;
}
