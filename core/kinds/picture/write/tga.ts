import { ReadError } from '../../reading.ts';
import type { Pixels } from '../picture.ts';

const footer = 'TRUEVISION-XFILE.\0';
const mostSide = 0xffff;

/**
 * An uncompressed Targa of 24 or 32 bits, rows from the top, with the footer of version 2 (Truevision TGA File Format
 * Specification, version 2.0, 1991).
 * @param pixels of 8 bits
 * @throws ReadError for sides that 16 bits cannot tell
 */
export function writeTga({ width, height, data }: Pixels, hasAlpha: boolean): Uint8Array {
  if (width > mostSide || height > mostSide)
    throw new ReadError(
      `a Targa has at most ${mostSide} pixels a side, and this one has ${width} × ${height}`,
    );
  const channels = hasAlpha ? 4 : 3;
  const pixelBytes = width * height * channels;
  const bytes = new Uint8Array(18 + pixelBytes + 8 + footer.length);
  const view = new DataView(bytes.buffer);
  bytes[2] = 2;
  view.setUint16(12, width, true);
  view.setUint16(14, height, true);
  bytes[16] = channels * 8;
  // Rows from the top; the low bits tell how many of each pixel's are alpha.
  bytes[17] = 0x20 | (hasAlpha ? 8 : 0);
  for (let pixel = 0, at = 18; pixel < width * height; pixel++) {
    const from = pixel * 4;
    bytes[at++] = data[from + 2] ?? 0;
    bytes[at++] = data[from + 1] ?? 0;
    bytes[at++] = data[from] ?? 0;
    if (hasAlpha) bytes[at++] = data[from + 3] ?? 0;
  }
  for (let letter = 0; letter < footer.length; letter++)
    bytes[18 + pixelBytes + 8 + letter] = footer.charCodeAt(letter);
  return bytes;
}
