import { SheetError } from '../language/sheet-error.ts';
import { Output } from './output.ts';
import type { Parameters } from './packings.ts';

/**
 * LZSS (Storer and Szymanski, Data Compression via Textual Substitution, Journal of the ACM 29(4), 1982), in the forms that are in
 * use: eight flags to a byte, then for each a letter, or two bytes with a place and a length. What differs is a parameter; what
 * nobody says is the form of the widely used program of 1989 (a window of 4096 bytes of spaces, written from 4078 on, from memory).
 *
 * - `window`: bytes of it; `lengthBits` of the 16 bits are the length, the others the place; `minimum` is added to the length.
 * - `flagOrder`: which flag of a byte comes `first`, its `low`est or `high`est bit; `literal` is the flag of a letter.
 * - `place`: an `absolute` place in the window, or a `distance` back from here (its least is 1).
 * - `begin`: where in the window is written first; `fill`: what is in it before.
 * - `layout` of the two bytes: `split` (the low bits of the place first, its high bits above the length), `big` or `little` (one
 *   number of 16 bits with the length in its `lengthBits` low bits), `big-high` or `little-high` (in its high bits).
 * @throws SheetError
 */
export function lzss(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const windowBytes = parameters.whole('window', 4096, 16, 65_536);
  const lengthBits = parameters.whole('lengthBits', 4, 1, 12);
  const minimum = parameters.whole('minimum', 3, 0, 256);
  const isLowFirst = parameters.word('flagOrder', ['low', 'high'], 'low') === 'low';
  const literal = parameters.whole('literal', 1, 0, 1);
  const isAbsolute = parameters.word('place', ['absolute', 'distance'], 'absolute') === 'absolute';
  const begin = parameters.whole('begin', isAbsolute ? windowBytes - 18 : 0, 0, windowBytes - 1);
  const fill = parameters.whole('fill', 0x20, 0, 255);
  const pairOf = pairReader(
    parameters.word('layout', ['split', 'big', 'little', 'big-high', 'little-high'], 'split'),
    lengthBits,
  );
  const output = new Output(parameters, bytes.length * 3);
  const window = new Uint8Array(windowBytes).fill(fill);
  let to = begin;
  const put = (byte: number): void => {
    output.push(byte);
    window[to] = byte;
    to = (to + 1) % windowBytes;
  };
  for (let at = 0; at < bytes.length && !output.isFull;) {
    const flags = bytes[at++] as number;
    for (let bit = 0; bit < 8 && at < bytes.length && !output.isFull; bit++) {
      if (((flags >> (isLowFirst ? bit : 7 - bit)) & 1) === literal) {
        put(bytes[at++] as number);
        continue;
      }
      if (at + 2 > bytes.length) {
        if (output.size === null) return output.finish();
        throw new SheetError('the packed bytes are cut short');
      }
      const { place, length } = pairOf(bytes[at] as number, bytes[at + 1] as number);
      at += 2;
      let from = isAbsolute ? place : to - place + windowBytes * 2;
      for (let count = length + minimum; count > 0 && !output.isFull; count--)
        put(window[from++ % windowBytes] as number);
    }
  }
  return output.finish();
}

type PairReader = (first: number, second: number) => { place: number; length: number };

function pairReader(layout: string, lengthBits: number): PairReader {
  const lengths = 2 ** lengthBits;
  if (layout === 'split')
    return (first, second) => ({
      place: first | ((second & ~(lengths - 1) & 0xff) << (8 - lengthBits)),
      length: second & (lengths - 1),
    });
  const isBig = layout.startsWith('big');
  const isHigh = layout.endsWith('high');
  const places = 2 ** (16 - lengthBits);
  return (first, second) => {
    const pair = isBig ? first * 256 + second : second * 256 + first;
    return isHigh
      ? { place: pair % places, length: Math.floor(pair / places) }
      : { place: Math.floor(pair / lengths), length: pair % lengths };
  };
}
