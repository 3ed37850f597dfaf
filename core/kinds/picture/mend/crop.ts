import type { Pixels } from '../picture.ts';
import { fullScaleOf } from '../write/depth.ts';

/** A part of a picture, in pixels from its upper left corner. */
export interface Frame {
  left: number;
  top: number;
  width: number;
  height: number;
}

/**
 * What is left of a picture without its border: rows and columns at its edges that are transparent, or that have the colour of its
 * upper left corner.
 * @param tolerance how far a value may be off, of 255
 * @returns null where nothing but border is there, or no border
 */
export function frameWithoutBorder(
  { width, height, data }: Pixels,
  by: 'alpha' | 'colour',
  tolerance: number,
): Frame | null {
  const most = (tolerance / 255) * fullScaleOf(data);
  const corner = [0, 1, 2, 3].map((channel) => data[channel] ?? 0);
  const isBorder = (x: number, y: number): boolean => {
    const at = (y * width + x) * 4;
    if (by === 'alpha') return (data[at + 3] ?? 0) <= most;
    for (let channel = 0; channel < 4; channel++)
      if (Math.abs((data[at + channel] ?? 0) - (corner[channel] ?? 0)) > most) return false;
    return true;
  };
  const isBorderRow = (y: number, from: number, to: number): boolean => {
    for (let x = from; x < to; x++) if (!isBorder(x, y)) return false;
    return true;
  };
  let [top, bottom] = [0, height];
  while (top < height && isBorderRow(top, 0, width)) top++;
  if (top === height) return null;
  while (isBorderRow(bottom - 1, 0, width)) bottom--;
  const isBorderColumn = (x: number): boolean => {
    for (let y = top; y < bottom; y++) if (!isBorder(x, y)) return false;
    return true;
  };
  let [left, right] = [0, width];
  while (isBorderColumn(left)) left++;
  while (isBorderColumn(right - 1)) right--;
  if (right - left === width && bottom - top === height) return null;
  return { left, top, width: right - left, height: bottom - top };
}

/** A part of a picture as a picture. */
export function cropped({ width, data }: Pixels, frame: Frame): Pixels {
  const { left, top } = frame;
  const row = frame.width * 4;
  const Values = data.constructor as new (length: number) => typeof data;
  const part = new Values(row * frame.height);
  for (let y = 0; y < frame.height; y++) {
    const from = ((top + y) * width + left) * 4;
    part.set(data.subarray(from, from + row), y * row);
  }
  return { width: frame.width, height: frame.height, data: part };
}
