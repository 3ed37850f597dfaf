import { drawView, type PictureView } from '../../../core/kinds/picture/view/draw-view.ts';
import { cropBox, histogramOf, type Histogram } from '../../../core/kinds/picture/view/figures-of-pixels.ts';
import {
  pixelsType,
  unpackPixels,
  type PixelRegion,
  type TravellingPixels,
} from '../../../core/kinds/picture/view/pixel-bytes.ts';
import { pyramidOf } from '../../../core/kinds/picture/view/pyramid.ts';
import { unfoldedSides } from '../../../core/kinds/picture/view/unfold.ts';
import type { Pixels } from '../../../core/kinds/picture/picture.ts';
import { failureOf, received } from '../receive.ts';

export type ToPictureWorker =
  /** One address, or those of the six sides of a cube. */
  | { type: 'load'; load: number; addresses: readonly string[] }
  /** A part of the picture in its full size. */
  | { type: 'part'; load: number; address: string }
  | { type: 'draw'; draw: number; view: PictureView }
  | { type: 'value'; x: number; y: number };

/** What a picture is, once it is there. */
export interface LoadedPicture {
  width: number;
  height: number;
  /** Whether all its pixels are here, or means of them. */
  isWhole: boolean;
  bits: 8 | 16 | 32;
  histogram: Histogram;
  crop: PixelRegion | null;
}

export type FromPictureWorker =
  | { type: 'progress'; load: number; bytes: number }
  | { type: 'loaded'; load: number; picture: LoadedPicture }
  | { type: 'part'; load: number; region: PixelRegion }
  | { type: 'failed'; load: number; reason: string }
  | { type: 'drawn'; draw: number; width: number; height: number; rgba: Uint8ClampedArray<ArrayBuffer> }
  | { type: 'value'; x: number; y: number; values: number[] | null };

interface Shown {
  levels: Pixels[];
  width: number;
  height: number;
}

let shown: Shown | null = null;
let part: TravellingPixels | null = null;
let current = 0;
const toldFromBytes = 1_000_000;

/** A thread that has the numbers of a picture, draws it as it is looked at, and says what it is made of. */
self.onmessage = ({ data }: MessageEvent<ToPictureWorker>): void => {
  switch (data.type) {
    case 'load':
      current = data.load;
      shown = null;
      part = null;
      load(data.load, data.addresses).catch((error: unknown) => fail(data.load, error));
      break;
    case 'part':
      receive(data.load, data.address).then(
        (loaded) => {
          if (data.load !== current) return;
          part = loaded;
          post({ type: 'part', load: data.load, region: loaded.region });
        },
        (error: unknown) => fail(data.load, error),
      );
      break;
    case 'draw': {
      const { view, draw } = data;
      const rgba = drawn(view);
      post({ type: 'drawn', draw, width: view.width, height: view.height, rgba }, [rgba.buffer]);
      break;
    }
    case 'value':
      post({ type: 'value', x: data.x, y: data.y, values: valuesAt(data.x, data.y) });
  }
};

async function load(id: number, addresses: readonly string[]): Promise<void> {
  const sides = await Promise.all(addresses.map((address) => receive(id, address)));
  if (id !== current) return;
  const [first] = sides;
  if (!first) return;
  const isCube = sides.length > 1;
  const pixels = isCube ? unfoldedSides(sides.map((side) => side.pixels)) : first.pixels;
  const [width, height] = isCube ? [pixels.width, pixels.height] : [first.fullWidth, first.fullHeight];
  shown = { levels: pyramidOf(pixels), width, height };
  const crop = isCube ? null : cropBox(pixels);
  const scale = width / pixels.width;
  post({
    type: 'loaded',
    load: id,
    picture: {
      ...{ width, height, isWhole: scale === 1, histogram: histogramOf(pixels) },
      bits: pixels.data instanceof Float32Array ? 32 : pixels.data instanceof Uint16Array ? 16 : 8,
      crop: crop && {
        left: Math.round(crop.left * scale),
        top: Math.round(crop.top * scale),
        width: Math.round(crop.width * scale),
        height: Math.round(crop.height * scale),
      },
    },
  });
}

/** Numbers as the server sends them, or a picture that the browser reads. */
async function receive(id: number, address: string): Promise<TravellingPixels> {
  const response = await fetch(address);
  if (!response.ok) throw new Error(await failureOf(response));
  if (response.headers.get('content-type') === pixelsType)
    return unpackPixels(await received(response, telling(id)));
  const bitmap = await createImageBitmap(await response.blob(), { colorSpaceConversion: 'none' });
  const { width, height } = bitmap;
  const context = new OffscreenCanvas(width, height).getContext('2d');
  if (!context) throw new Error('this browser draws no pictures apart from the page');
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  const { data } = context.getImageData(0, 0, width, height);
  return {
    pixels: { width, height, data: new Uint8Array(data.buffer) },
    region: { left: 0, top: 0, width, height },
    ...{ fullWidth: width, fullHeight: height },
  };
}

/** Tells of what has come from a megabyte on, and not of each piece. */
function telling(id: number): (bytes: number) => void {
  let told = 0;
  return (bytes) => {
    if (bytes - told <= toldFromBytes) return;
    told = bytes;
    post({ type: 'progress', load: id, bytes });
  };
}

function drawn(view: PictureView): Uint8ClampedArray<ArrayBuffer> {
  if (!shown) return new Uint8ClampedArray(view.width * view.height * 4);
  const rgba = drawView(shown.levels, view, shown);
  if (!part || view.isTiled) return rgba;
  // What is there in full size lies over what is there in means.
  const { left, top, width, height } = part.region;
  const fine = drawView([part.pixels], { ...view, left: view.left - left, top: view.top - top });
  const from = (edge: number, first: number, size: number): number =>
    Math.max(0, Math.min(size, Math.ceil((edge - first) * view.scale - 0.5)));
  const columns = [from(left, view.left, view.width), from(left + width, view.left, view.width)] as const;
  const rows = [from(top, view.top, view.height), from(top + height, view.top, view.height)] as const;
  for (let y = rows[0]; y < rows[1]; y++) {
    const start = (y * view.width + columns[0]) * 4;
    const end = (y * view.width + columns[1]) * 4;
    rgba.set(fine.subarray(start, end), start);
  }
  return rgba;
}

function valuesAt(x: number, y: number): number[] | null {
  if (!shown || x < 0 || y < 0 || x >= shown.width || y >= shown.height) return null;
  if (part) {
    const { left, top, width, height } = part.region;
    if (x >= left && x < left + width && y >= top && y < top + height)
      return fourAt(part.pixels, x - left, y - top);
  }
  const [whole] = shown.levels;
  return whole
    ? fourAt(
        whole,
        Math.floor((x / shown.width) * whole.width),
        Math.floor((y / shown.height) * whole.height),
      )
    : null;
}

function fourAt({ width, data }: Pixels, x: number, y: number): number[] {
  return [...data.subarray((y * width + x) * 4, (y * width + x) * 4 + 4)];
}

function fail(id: number, error: unknown): void {
  post({ type: 'failed', load: id, reason: error instanceof Error ? error.message : String(error) });
}

function post(message: FromPictureWorker, transfer: Transferable[] = []): void {
  self.postMessage(message, { transfer });
}
