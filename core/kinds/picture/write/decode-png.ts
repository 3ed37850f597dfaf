import { joinBytes } from '../../../bytes.ts';
import { ReadError, type Platform } from '../../reading.ts';
import type { Pixels } from '../picture.ts';

/**
 * Reads a PNG as it was written here: of 8 or 16 bits, RGB or RGBA, in rows (Portable Network Graphics, third edition, 9 and 10).
 * Nothing of the library that wrote it has a part in this: it is what proves that library's work.
 * @throws ReadError for any other PNG, and for one that is cut short
 */
export function decodePng(png: Uint8Array, { inflate }: Pick<Platform, 'inflate'>): Pixels {
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength);
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  const [bits = 0, colours = 0] = [png[24], png[25]];
  const channels = colours === 6 ? 4 : colours === 2 ? 3 : 0;
  if (channels === 0 || (bits !== 8 && bits !== 16) || png[28] !== 0)
    throw new ReadError(
      `the PNG that was written has ${bits} bits, colours of type ${colours}, or is interlaced`,
    );
  const pixelBytes = (channels * bits) / 8;
  const rows = inflate(packedRows(png, view));
  const rowBytes = width * pixelBytes;
  if (rows.length !== (rowBytes + 1) * height) throw new ReadError('the PNG that was written is cut short');
  unfilter(rows, rowBytes, height, pixelBytes);
  return {
    width,
    height,
    data: bits === 8 ? bytesOf(rows, width, height, channels) : wordsOf(rows, width, height, channels),
  };
}

function packedRows(png: Uint8Array, view: DataView): Uint8Array {
  const parts: Uint8Array[] = [];
  for (let at = 8; at + 12 <= png.length; at += 12 + view.getUint32(at))
    if (view.getUint32(at + 4) === 0x49444154) parts.push(png.subarray(at + 8, at + 8 + view.getUint32(at)));
  return joinBytes(parts);
}

/** Takes the filters off, in place (section 9.2): what is left and above is without them by then. */
function unfilter(rows: Uint8Array, rowBytes: number, height: number, pixelBytes: number): void {
  for (let y = 0, start = 1; y < height; y++, start += rowBytes + 1) {
    const above = start - rowBytes - 1;
    const filter = rows[start - 1] ?? 0;
    for (let x = 0; x < rowBytes && filter !== 0; x++) {
      const left = x < pixelBytes ? 0 : (rows[start + x - pixelBytes] as number);
      const up = y === 0 ? 0 : (rows[above + x] as number);
      const corner = x < pixelBytes || y === 0 ? 0 : (rows[above + x - pixelBytes] as number);
      const expected =
        filter === 1 ? left : filter === 2 ? up : filter === 3 ? (left + up) >> 1 : nearest(left, up, corner);
      rows[start + x] = (rows[start + x] as number) + expected;
    }
  }
}

/** Paeth's predictor (section 9.4). */
function nearest(left: number, up: number, corner: number): number {
  const guess = left + up - corner;
  const [toLeft, toUp, toCorner] = [Math.abs(guess - left), Math.abs(guess - up), Math.abs(guess - corner)];
  if (toLeft <= toUp && toLeft <= toCorner) return left;
  return toUp <= toCorner ? up : corner;
}

function bytesOf(rows: Uint8Array, width: number, height: number, channels: number): Uint8Array {
  const data = new Uint8Array(width * height * 4);
  const row = width * channels;
  if (channels === 4) {
    for (let y = 0, from = 1; y < height; y++, from += row + 1)
      data.set(rows.subarray(from, from + row), y * row);
    return data;
  }
  for (let y = 0, from = 1, to = 0; y < height; y++, from++)
    for (let x = 0; x < width; x++, to += 4, from += channels) {
      data[to] = rows[from] as number;
      data[to + 1] = rows[from + 1] as number;
      data[to + 2] = rows[from + 2] as number;
      data[to + 3] = 255;
    }
  return data;
}

function wordsOf(rows: Uint8Array, width: number, height: number, channels: number): Uint16Array {
  const data = new Uint16Array(width * height * 4);
  for (let y = 0, from = 1, to = 0; y < height; y++, from++)
    for (let x = 0; x < width; x++, to += 4, from += channels * 2)
      for (let channel = 0; channel < 4; channel++)
        data[to + channel] =
          channel < channels
            ? ((rows[from + channel * 2] as number) << 8) | (rows[from + channel * 2 + 1] as number)
            : 65_535;
  return data;
}
