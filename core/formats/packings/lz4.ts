import { SheetError } from '../language/sheet-error.ts';
import { Output } from './output.ts';
import type { Parameters } from './packings.ts';

/*
 * A package for it was tried: it looks at no bounds and no check sums.
 */

/** One block (LZ4 Block Format Description of the lz4 project). @throws SheetError */
export function lz4Block(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const output = new Output(parameters, bytes.length * 3);
  unpackBlock(bytes, output);
  return output.finish();
}

/**
 * Frames one after the other (LZ4 Frame Format Description, 1.6). Check sums are not held: they are xxHash’s, and what they guard shows in
 * the fields that are read of it.
 * @throws SheetError
 */
export function lz4Frame(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const output = new Output(parameters, bytes.length * 3);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const need = (at: number, count: number): void => {
    if (at + count > bytes.length) throw new SheetError('the packed bytes are cut short');
  };
  let at = 0;
  while (at < bytes.length) {
    need(at, 7);
    const magic = view.getUint32(at, true);
    if (magic >= 0x184d2a50 && magic <= 0x184d2a5f) {
      need(at, 8);
      at += 8 + view.getUint32(at + 4, true);
      continue;
    }
    if (magic !== 0x184d2204) throw new SheetError('it does not begin as an LZ4 frame does');
    const flags = bytes[at + 4] as number;
    if (flags >> 6 !== 1) throw new SheetError(`its frame is of version ${flags >> 6}, which is not read`);
    at += 7 + (flags & 8 ? 8 : 0) + (flags & 1 ? 4 : 0);
    const begin = output.length;
    for (;;) {
      need(at, 4);
      const size = view.getUint32(at, true);
      at += 4;
      if (size === 0) break;
      const length = size & 0x7fffffff;
      need(at, length);
      const block = bytes.subarray(at, at + length);
      if (size >= 0x80000000) output.append(block);
      else unpackBlock(block, output, flags & 32 ? output.length : begin);
      at += length + (flags & 16 ? 4 : 0);
    }
    at += flags & 4 ? 4 : 0;
  }
  return output.finish();
}

/** @param least before which nothing is copied */
function unpackBlock(bytes: Uint8Array, output: Output, least = 0): void {
  let at = 0;
  const more = (length: number): number => {
    if (length < 15) return length;
    for (;;) {
      if (at >= bytes.length) throw new SheetError('the packed bytes are cut short');
      const byte = bytes[at++] as number;
      length += byte;
      if (byte < 255) return length;
    }
  };
  while (at < bytes.length) {
    const token = bytes[at++] as number;
    const literals = more(token >> 4);
    if (at + literals > bytes.length) throw new SheetError('the packed bytes are cut short');
    output.append(bytes.subarray(at, at + literals));
    at += literals;
    // The last sequence has letters only.
    if (at === bytes.length) return;
    if (at + 2 > bytes.length) throw new SheetError('the packed bytes are cut short');
    const distance = (bytes[at] as number) | ((bytes[at + 1] as number) << 8);
    at += 2;
    const length = more(token & 15) + 4;
    if (distance > output.length - least) throw new SheetError('a copy from before the block’s begin');
    output.repeat(distance, length);
  }
}
