import { SheetError } from '../language/sheet-error.ts';
import { Output } from './output.ts';
import type { Parameters } from './packings.ts';

/**
 * Run lengths, of units of `unit` bytes:
 * - `packbits`: a number n of 8 bits with a sign; n + 1 units as they are where it is 0 to 127, one unit 1 - n times where it is below 0,
 *   nothing at -128 (TIFF 6.0, section 9)
 * - `tga`: the highest bit says whether one unit is repeated; the others are the count less 1 (Truevision TGA 2.0)
 * - `pairs`: a count, then a unit
 * - `pcx`: two highest bits set: the others are a count of the next byte; else the byte itself
 * - `escape`: everything as it is, but after the byte `escape` a count and a unit
 * - `zeros`: everything as it is, but a 0 with the count of zeros behind it
 * @throws SheetError
 */
export function runs(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  const coding = parameters.word(
    'coding',
    ['packbits', 'tga', 'pairs', 'pcx', 'escape', 'zeros'],
    'packbits',
  );
  const unit = parameters.whole('unit', 1, 1, 64);
  const escape = coding === 'escape' ? parameters.whole('escape', undefined, 0, 255) : 0;
  const output = new Output(parameters, bytes.length * 2);
  let at = 0;
  const take = (count: number): Uint8Array => {
    if (at + count > bytes.length) throw new SheetError('the packed bytes are cut short');
    const taken = bytes.subarray(at, at + count);
    at += count;
    return taken;
  };
  const repeat = (piece: Uint8Array, count: number): void => {
    const room =
      output.size === null ? count : Math.min(count, Math.ceil((output.size - output.length) / unit));
    output.reserve(room * piece.length);
    for (let times = 0; times < room; times++) output.append(piece);
  };
  while (at < bytes.length && !output.isFull) {
    const byte = bytes[at++] as number;
    switch (coding) {
      case 'packbits':
        if (byte < 128) output.append(take((byte + 1) * unit));
        else if (byte > 128) repeat(take(unit), 257 - byte);
        break;
      case 'tga':
        if (byte < 128) output.append(take((byte + 1) * unit));
        else repeat(take(unit), byte - 127);
        break;
      case 'pairs':
        repeat(take(unit), byte);
        break;
      case 'pcx':
        if (byte >= 0xc0) repeat(take(1), byte & 0x3f);
        else output.push(byte);
        break;
      case 'escape':
        if (byte === escape) {
          const count = take(1)[0] as number;
          repeat(take(unit), count);
        } else output.push(byte);
        break;
      case 'zeros':
        if (byte === 0) repeat(Uint8Array.of(0), take(1)[0] as number);
        else output.push(byte);
        break;
    }
  }
  return output.finish();
}
