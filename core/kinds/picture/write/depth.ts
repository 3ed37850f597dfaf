import { fromLight, toLight } from '../../srgb.ts';
import type { Pixels } from '../picture.ts';

/** Full scale of the numbers of pixels; 1 of floats. */
export function fullScaleOf(data: Pixels['data']): number {
  return data instanceof Uint8Array ? 255 : data instanceof Uint16Array ? 65_535 : 1;
}

/**
 * Pixels with as many bits as a format takes. Floats are linear light: brought onto the curve of sRGB where the file is to hold
 * colours, and kept within 0 and 1.
 * @param isData whether the numbers are data, which have no curve
 */
export function withBits(pixels: Pixels, bits: 8 | 16, isData: boolean): Pixels {
  const { data } = pixels;
  const Values = bits === 8 ? Uint8Array : Uint16Array;
  if (data instanceof Values) return pixels;
  const to = bits === 8 ? 255 : 65_535;
  const from = fullScaleOf(data);
  const isLight = data instanceof Float32Array && !isData;
  const result = new Values(data.length);
  for (let at = 0; at < data.length; at++) {
    const value = Math.max(0, Math.min(1, (data[at] ?? 0) / from));
    result[at] = Math.round((isLight && at % 4 !== 3 ? fromLight(value) : value) * to);
  }
  return { ...pixels, data: result };
}

/** Pixels as floats of linear light; data keep their values. */
export function asLight(pixels: Pixels, isData: boolean): Pixels & { data: Float32Array } {
  const { data } = pixels;
  if (data instanceof Float32Array) return { ...pixels, data };
  const full = fullScaleOf(data);
  const curve = Float32Array.from({ length: full + 1 }, (_, value) =>
    isData ? value / full : toLight(value / full),
  );
  const result = new Float32Array(data.length);
  for (let at = 0; at < data.length; at++)
    result[at] = at % 4 === 3 ? (data[at] ?? 0) / full : (curve[data[at] ?? 0] ?? 0);
  return { ...pixels, data: result };
}

/** The other convention of the green channel of normal maps: what pointed up points down. */
export function withGreenTurned(pixels: Pixels): Pixels {
  const data = pixels.data.slice();
  const full = fullScaleOf(data);
  for (let at = 1; at < data.length; at += 4) data[at] = full - (data[at] ?? 0);
  return { ...pixels, data };
}
