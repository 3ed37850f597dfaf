import type { Raster } from '../../reading.ts';
import { drawBatches, type Surface } from '../render.ts';
import type { Shell } from './shells.ts';

/** Linear light; each stands out from its neighbours on paper and on night. */
const colours: readonly [number, number, number][] = [
  [0.55, 0.42, 0.28],
  [0.2, 0.42, 0.4],
  [0.62, 0.26, 0.14],
  [0.36, 0.4, 0.2],
];
const paper = [242, 236, 222] as const;
const ink = [22, 44, 48] as const;
const gap = 8;
/** Pixels of a side of the whole picture, unless there are hundreds of pieces. */
const usualPixels = 1200;

/**
 * A picture of a thing in its pieces, and of each piece with its number, in rows.
 * @param whole the pieces where they belong, in metres and Y up
 * @param pieces the same pieces as they lie, in the same order
 */
export function picturePieces(whole: readonly Shell[], pieces: readonly Shell[]): Raster | null {
  const surfaces: Surface[] = pieces.map((_, at) => ({
    colour: colours[at % colours.length] ?? [0.5, 0.5, 0.5],
    texture: null,
  }));
  const count = pieces.length > 1 ? pieces.length + 1 : 1;
  const columns = Math.ceil(Math.sqrt(count));
  const rows = Math.ceil(count / columns);
  const tile = Math.max(96, Math.min(320, Math.floor(usualPixels / columns) - gap));
  const drawn = (shells: readonly Shell[], from: number): Raster | null =>
    drawBatches(
      shells.map(({ positions, indices }) => ({ positions, indices, uvs: null })),
      surfaces.slice(from),
      tile,
    );
  const first = drawn(whole, 0);
  if (!first) return null;
  const [width, height] = [columns * (tile + gap) + gap, rows * (tile + gap) + gap];
  const rgba = new Uint8Array(width * height * 4);
  // A pixel, and from there on as much again as there is.
  rgba.set([...paper, 255]);
  for (let done = 4; done < rgba.length; done *= 2) rgba.copyWithin(done, 0, done);
  const sheet = { rgba, width, height };
  for (let at = 0; at < count; at++) {
    const picture = at === 0 ? first : drawn(pieces.slice(at - 1, at), at - 1);
    const left = gap + (at % columns) * (tile + gap);
    const top = gap + Math.floor(at / columns) * (tile + gap);
    if (picture) lay(picture, sheet, left, top);
    if (at > 0) writeNumber(at, sheet, left, top, Math.max(14, Math.round(tile / 10)));
  }
  return sheet;
}

function lay({ rgba, width, height }: Raster, sheet: Raster, left: number, top: number): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (y * width + x) * 4;
      const share = (rgba[from + 3] ?? 0) / 255;
      if (share === 0) continue;
      const to = ((top + y) * sheet.width + left + x) * 4;
      for (let channel = 0; channel < 3; channel++)
        sheet.rgba[to + channel] = Math.round(
          (rgba[from + channel] ?? 0) * share + (sheet.rgba[to + channel] ?? 0) * (1 - share),
        );
    }
}

/** Strokes of each digit on a display of seven: top, upper right, lower right, bottom, lower left, upper left, middle. */
const digits = ['012345', '12', '01643', '01623', '5612', '05623', '054326', '012', '0123456', '560123'];
/** Each stroke as left, top, right and bottom of a field of 1 by 2. */
const strokes: readonly (readonly [number, number, number, number])[] = [
  [0, 0, 1, 0.22],
  [0.78, 0, 1, 1],
  [0.78, 1, 1, 2],
  [0, 1.78, 1, 2],
  [0, 1, 0.22, 2],
  [0, 0, 0.22, 1],
  [0, 0.89, 1, 1.11],
];

function writeNumber(number: number, sheet: Raster, left: number, top: number, height: number): void {
  const unit = height / 2;
  [...String(number)].forEach((digit, at) => {
    for (const stroke of digits[Number(digit)] ?? '') {
      const [x0, y0, x1, y1] = strokes[Number(stroke)] ?? [0, 0, 0, 0];
      for (let y = Math.round(y0 * unit); y < Math.round(y1 * unit); y++)
        for (let x = Math.round((x0 + at * 1.4) * unit); x < Math.round((x1 + at * 1.4) * unit); x++)
          sheet.rgba.set([...ink, 255], ((top + y) * sheet.width + left + x) * 4);
    }
  });
}
