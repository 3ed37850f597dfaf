import type { Pixels } from '../picture.ts';

export const shownChannels = ['all', 'colour', 'red', 'green', 'blue', 'alpha'] as const;
export type ShownChannels = (typeof shownChannels)[number];

/** How a picture is looked at. */
export interface PictureView {
  /** Of what is drawn, in its own pixels. */
  width: number;
  height: number;
  /** Drawn pixels to one of the picture. */
  scale: number;
  /** Where in the picture the upper left corner of what is drawn lies. */
  left: number;
  top: number;
  /** `colour` leaves alpha out of account: what lies where nothing is seen shows, too. */
  channels: ShownChannels;
  /** Steps: each one doubles the light. */
  exposure: number;
  /** Side by side with itself, on all sides. */
  isTiled: boolean;
  /** Where the light stands that a normal map is lit by, −1 to 1 across and up; null shows the map itself. */
  light: { x: number; y: number } | null;
  /** Whether green points down in a normal map. */
  isGreenDown: boolean;
}

/**
 * The picture as it is seen: RGBA of 8 bits, straight alpha.
 * @param levels see `pyramidOf`
 * @param whole size of the picture, where the first level is smaller than that
 */
export function drawView(
  levels: readonly Pixels[],
  view: PictureView,
  whole: { width: number; height: number } | undefined = levels[0],
): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, scale } = view;
  const out = new Uint8ClampedArray(width * height * 4);
  const [full] = levels;
  if (!full || !whole) return out;
  // The level whose pixels are no smaller than half of those that are drawn.
  const drawnToOne = (scale * whole.width) / full.width;
  const depth = drawnToOne >= 1 ? 0 : Math.min(levels.length - 1, Math.floor(Math.log2(1 / drawnToOne)));
  const level = levels[depth] ?? full;
  const toByte = byteTable(level.data, view.exposure);
  const columns = placesAlong(width, view.left, scale, whole.width, level.width, view.isTiled);
  const rows = placesAlong(height, view.top, scale, whole.height, level.height, view.isTiled);
  for (let y = 0; y < height; y++) {
    const row = rows[y] ?? -1;
    if (row < 0) continue;
    for (let x = 0; x < width; x++) {
      const column = columns[x] ?? -1;
      if (column >= 0)
        paint(out, (y * width + x) * 4, level.data, (row * level.width + column) * 4, view, toByte);
    }
  }
  return out;
}

/** For each drawn pixel the one of the picture that it shows; −1 for none. */
function placesAlong(
  count: number,
  first: number,
  scale: number,
  fullSize: number,
  levelSize: number,
  isTiled: boolean,
): Int32Array {
  const places = new Int32Array(count);
  for (let at = 0; at < count; at++) {
    const place = first + (at + 0.5) / scale;
    const within = isTiled ? place - Math.floor(place / fullSize) * fullSize : place;
    places[at] =
      within < 0 || within >= fullSize
        ? -1
        : Math.min(levelSize - 1, Math.floor((within / fullSize) * levelSize));
  }
  return places;
}

function paint(
  out: Uint8ClampedArray,
  to: number,
  data: Pixels['data'],
  from: number,
  { channels, light, isGreenDown }: PictureView,
  toByte: ToByte,
): void {
  if (light) {
    out.fill(litGrey(data, from, light, isGreenDown), to, to + 3);
    out[to + 3] = 255;
    return;
  }
  if (channels === 'all' || channels === 'colour') {
    for (let channel = 0; channel < 3; channel++) out[to + channel] = toByte(data[from + channel] ?? 0);
    out[to + 3] = channels === 'all' ? alphaOf(data, from) : 255;
    return;
  }
  const place = { red: 0, green: 1, blue: 2, alpha: 3 }[channels];
  out.fill(place === 3 ? alphaOf(data, from) : toByte(data[from + place] ?? 0), to, to + 3);
  out[to + 3] = 255;
}

function alphaOf(data: Pixels['data'], from: number): number {
  const value = data[from + 3] ?? 0;
  return data instanceof Float32Array ? value * 255 : data instanceof Uint16Array ? value / 257 : value;
}

/** Light from no direction: what is turned away is not black. */
const ambient = 0.16;

/**
 * A grey that a normal is lit to: the cosine between it and the light (Lambert), its blue worked out where a map has two
 * channels.
 */
function litGrey(
  data: Pixels['data'],
  from: number,
  light: { x: number; y: number },
  isGreenDown: boolean,
): number {
  const top = data instanceof Float32Array ? 1 : data instanceof Uint16Array ? 65535 : 255;
  const of = (channel: number): number => ((data[from + channel] ?? 0) / top) * 2 - 1;
  const [x, y] = [of(0), isGreenDown ? -of(1) : of(1)];
  const blue = of(2);
  const z = blue > 0 ? blue : Math.sqrt(Math.max(0, 1 - x * x - y * y));
  const flat = Math.hypot(light.x, light.y);
  const [lx, ly] = flat > 1 ? [light.x / flat, light.y / flat] : [light.x, light.y];
  const lz = Math.sqrt(Math.max(0, 1 - lx * lx - ly * ly));
  const cosine = (x * lx + y * ly + z * lz) / (Math.hypot(x, y, z) || 1);
  return (ambient + (1 - ambient) * Math.max(0, cosine)) * 235;
}

type ToByte = (value: number) => number;

/** sRGB's transfer, both ways (IEC 61966-2-1). */
function toLinear(value: number): number {
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
}

function toCoded(value: number): number {
  return value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055;
}

const steps = 4096;

/** From a stored value to what a screen shows of it, at an exposure. Floats are linear light; what is brighter than white is white. */
function byteTable(data: Pixels['data'], exposure: number): ToByte {
  const gain = 2 ** exposure;
  if (data instanceof Float32Array) {
    // Evenly spread over the roots, so that the dark has as many steps as the eye asks for.
    const table = Uint8ClampedArray.from({ length: steps + 1 }, (_, at) => toCoded((at / steps) ** 2) * 255);
    return (value) => table[Math.min(steps, Math.sqrt(Math.max(0, value * gain)) * steps + 0.5) | 0] ?? 0;
  }
  const top = data instanceof Uint16Array ? 65535 : 255;
  const table = Uint8ClampedArray.from({ length: top + 1 }, (_, value) =>
    exposure === 0 ? (value / top) * 255 : toCoded(Math.min(1, toLinear(value / top) * gain)) * 255,
  );
  return (value) => table[value] ?? 0;
}
