import type { PixelGuess } from './images.ts';

const mostSide = 128;

/** A small picture of bytes as they would look: every so many pixels one is taken. */
export function drawGuess(
  bytes: Uint8Array,
  { width, height, format, bytesPerPixel }: PixelGuess,
): { width: number; height: number; rgba: Uint8ClampedArray<ArrayBuffer> } {
  const step = Math.max(1, Math.ceil(Math.max(width, Math.min(height, width * 4)) / mostSide));
  const [columns, rows] = [Math.floor(width / step), Math.floor(Math.min(height, width * 4) / step)];
  const rgba = new Uint8ClampedArray(columns * rows * 4);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const at = (row * step * width + column * step) * bytesPerPixel;
      const byte = (part: number): number => bytes[at + part] ?? 0;
      const to = (row * columns + column) * 4;
      const word = byte(0) | (byte(1) << 8);
      const colour = {
        r8: [byte(0), byte(0), byte(0)],
        rgb8: [byte(0), byte(1), byte(2)],
        rgba8: [byte(0), byte(1), byte(2)],
        bgra8: [byte(2), byte(1), byte(0)],
        rgb565: [(word >> 11) * 8.2, ((word >> 5) & 63) * 4.05, (word & 31) * 8.2],
      }[format];
      rgba.set([...colour, 255], to);
    }
  return { width: columns, height: rows, rgba };
}
