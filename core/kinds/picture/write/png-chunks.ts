import { joinBytes } from '../../../bytes.ts';
import { crc32 } from '../../../formats/language/check-sums.ts';

const signatureBytes = 8;
const headerChunkBytes = 25;

/**
 * Says in a PNG whether its numbers are colours or data: the chunk `sRGB` with perceptual intent and the `gAMA` that belongs to
 * it, or a `gAMA` of 1 (Portable Network Graphics, third edition, 11.3.2.2 and 11.3.2.5). What it said before of that is dropped.
 */
export function sayColourSpace(png: Uint8Array, space: 'sRGB' | 'linear'): Uint8Array {
  const chunks =
    space === 'sRGB'
      ? [chunk('sRGB', Uint8Array.of(0)), chunk('gAMA', bigEndian(45_455))]
      : [chunk('gAMA', bigEndian(100_000))];
  const start = signatureBytes + headerChunkBytes;
  return joinBytes([png.subarray(0, start), ...chunks, ...otherChunks(png, start)]);
}

function otherChunks(png: Uint8Array, start: number): Uint8Array[] {
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength);
  const kept: Uint8Array[] = [];
  for (let at = start; at + 12 <= png.length;) {
    const end = at + 12 + view.getUint32(at);
    const name = String.fromCharCode(...png.subarray(at + 4, at + 8));
    if (!['sRGB', 'gAMA', 'cHRM', 'iCCP'].includes(name)) kept.push(png.subarray(at, end));
    at = end;
  }
  return kept;
}

function chunk(name: string, data: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(12 + data.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, data.length);
  bytes.set(new TextEncoder().encode(name), 4);
  bytes.set(data, 8);
  view.setUint32(8 + data.length, crc32(bytes.subarray(4, 8 + data.length)));
  return bytes;
}

function bigEndian(value: number): Uint8Array {
  const bytes = new Uint8Array(4);
  new DataView(bytes.buffer).setUint32(0, value);
  return bytes;
}
