import type { Display } from './display.ts';

/** RGBA, straight alpha, rows from the top. 8 or 16 bits without a sign, or floats of linear light. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8Array | Uint16Array | Float32Array;
}

/** Which of the images that a picture holds; 0 each where nothing else is said. */
export interface ImagePlace {
  /** Mip level, the largest first. */
  level?: number;
  layer?: number;
  /** Side of a cube: +X, -X, +Y, -Y, +Z, -Z. */
  face?: number;
  /** Depth within a volume. */
  slice?: number;
  /** Moment of a picture that moves, or page. */
  frame?: number;
}

/** The canonical form of a picture: what is told of it, and its images when they are asked for. */
export interface Picture {
  width: number;
  height: number;
  /** Slices of a volume, 1 of anything else. */
  depth: number;
  levels: number;
  layers: number;
  /** 6 of a cube map. */
  faces: number;
  frames: number;
  /** As stored: 1 grey, 2 grey and alpha or red and green, 3, 4. */
  channels: number;
  hasAlpha: boolean;
  bitsPerChannel: number;
  /** What its numbers mean, where the file says: `srgb`, `linear`, or what a profile names. */
  colourSpace: string;
  /** How the pixels are packed: BC7, RLE, palette … */
  encoding: string;
  /** How it is to be shown, where the file says anything of that. */
  display?: Display;
  /** @throws ReadError that says what is missing or damaged */
  image: (place?: ImagePlace) => Promise<Pixels>;
}

/** Size of a mip level: halved each time, rounded down, one pixel at the least. */
export function levelSize(size: number, level: number): number {
  return Math.max(1, size >> level);
}
