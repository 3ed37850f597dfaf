import { ReadError, type DecodedPicture, type Platform, type Raster } from '../../core/kinds/reading.ts';
import { messageOf } from '../plain-error.ts';

/** The picture library, when it is first needed. */
let loading: Promise<typeof import('sharp').default> | null = null;

function loadSharp(): Promise<typeof import('sharp').default> {
  return (loading ??= import('sharp').then(({ default: sharp }) => {
    // A worker thread is one of several: the library must not start threads of its own beside them.
    sharp.concurrency(1);
    sharp.cache(false);
    return sharp;
  }));
}

const bitsOfDepth: Record<string, number> = {
  uchar: 8,
  char: 8,
  ushort: 16,
  short: 16,
  uint: 32,
  int: 32,
  float: 32,
  double: 64,
};

/** What readers need of a platform, on Node.js. */
export const nodePlatform: Platform = {
  async decodePicture(bytes, maximumSize): Promise<DecodedPicture> {
    const sharp = await loadSharp();
    try {
      const image = sharp(bytes, { failOn: 'truncated', limitInputPixels: 2 ** 30 });
      const metadata = await image.metadata();
      const { data, info } = await image
        .resize(maximumSize, maximumSize, { fit: 'inside', withoutEnlargement: true })
        .toColourspace('srgb')
        .ensureAlpha()
        .raw({ depth: 'uchar' })
        .toBuffer({ resolveWithObject: true });
      return {
        width: info.width,
        height: info.height,
        rgba: data,
        channels: metadata.channels,
        hasAlpha: metadata.hasAlpha,
        bitsPerChannel: bitsOfDepth[metadata.depth] ?? 8,
        frames: metadata.pages ?? 1,
        colourSpace: metadata.space,
        storedWidth: metadata.width,
        storedHeight: metadata.height,
      };
    } catch (error) {
      throw new ReadError(`the picture cannot be decoded: ${messageOf(error).split('\n')[0] ?? ''}`);
    }
  },
};

export async function encodePreview({ rgba, width, height }: Raster): Promise<Buffer> {
  const sharp = await loadSharp();
  return sharp(rgba, { raw: { width, height, channels: 4 } })
    .webp({ quality: 84, effort: 2 })
    .toBuffer();
}
