import type { Raster, ReadRequest } from '../../reading.ts';

/** Pictures of models are taken in their own size, up to this. */
export const mostPixelsOfSide = 16_384;

type Rasters = Pick<ReadRequest, 'raster' | 'platform'>;

/** One channel of a picture as a grey PNG. @throws ReadError */
export async function singleChannel(
  image: Uint8Array,
  channel: 0 | 1 | 2 | 3,
  { raster, platform }: Rasters,
): Promise<Uint8Array> {
  const { rgba, width, height } = await raster(image, mostPixelsOfSide);
  const grey = new Uint8Array(rgba.length);
  for (let at = 0; at < rgba.length; at += 4) {
    const value = rgba[at + channel] ?? 0;
    grey[at] = grey[at + 1] = grey[at + 2] = value;
    grey[at + 3] = 255;
  }
  return platform.encodeImage({ width, height, data: grey }, { as: 'png', hasAlpha: false, quality: 100 });
}

/** What one channel of a picture that is made is taken from. */
export interface ChannelSource {
  from: Raster;
  channel: 0 | 1 | 2 | 3;
  isInverted?: boolean;
}

/** A picture whose channels are each taken from another one, in the size of the largest; what has no source is `otherwise`. */
export function packChannels(
  sources: readonly (ChannelSource | null)[],
  otherwise: readonly [number, number, number, number],
): Raster {
  const there = sources.filter((source) => source !== null);
  const width = Math.max(1, ...there.map(({ from }) => from.width));
  const height = Math.max(1, ...there.map(({ from }) => from.height));
  const rgba = new Uint8Array(width * height * 4);
  for (let channel = 0; channel < 4; channel++) {
    const source = sources[channel];
    if (!source) {
      for (let at = channel; at < rgba.length; at += 4) rgba[at] = otherwise[channel] ?? 0;
      continue;
    }
    const { from, isInverted = false } = source;
    for (let y = 0; y < height; y++) {
      const row = Math.floor((y * from.height) / height) * from.width;
      for (let x = 0; x < width; x++) {
        const pixel = row + Math.floor((x * from.width) / width);
        const value = from.rgba[pixel * 4 + source.channel] ?? 0;
        rgba[(y * width + x) * 4 + channel] = isInverted ? 255 - value : value;
      }
    }
  }
  return { width, height, rgba };
}
