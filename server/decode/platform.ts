import { createRequire } from 'node:module';
import { inflateSync } from 'node:zlib';
import { ReadError, type Platform, type PlatformPicture, type Raster } from '../../core/kinds/reading.ts';
import { messageOf } from '../platform/plain-error.ts';
import { convertModel } from './assimp.ts';
import { openBasis } from './basis.ts';
import { encodeSound } from './encode-sound.ts';

type Sharp = typeof import('sharp').default;

/** The picture library, when it is first needed. */
let loading: Promise<Sharp> | null = null;

function loadSharp(): Promise<Sharp> {
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
const mostPixels = 2 ** 28;
/** Pixels of the longer side that a drawing of vectors is looked at with, at the least. */
const vectorSize = 512;

/** What readers need of a platform, on Node.js. */
export const nodePlatform: Platform = {
  openBasis,
  async encodePicture({ rgba, width, height }) {
    const sharp = await loadSharp();
    return sharp(rgba, { raw: { width, height, channels: 4 } })
      .png({ compressionLevel: 3 })
      .toBuffer();
  },
  async encodeImage({ data, width, height }, { as, hasAlpha, quality }) {
    if (data instanceof Float32Array)
      throw new RangeError('encodeImage: floats have no place in this format');
    const sharp = await loadSharp();
    const isWide = data instanceof Uint16Array;
    const all = sharp(data, { raw: { width, height, channels: 4 }, limitInputPixels: mostPixels });
    const image = hasAlpha ? all : all.removeAlpha();
    switch (as) {
      case 'png':
        return (isWide ? image.toColourspace('rgb16') : image).png({ compressionLevel: 4 }).toBuffer();
      case 'webp':
        // What is transparent has colours that a material may use.
        return image.webp({ lossless: true, exact: true, effort: 2 }).toBuffer();
      case 'jpeg':
        return image.jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer();
    }
  },
  encodeSound,
  sameBytes: (first, second) => bufferOf(first).equals(bufferOf(second)),
  inflate: (bytes) => inflateSync(bytes),
  convertModel,
  makeTangents(positions, normals, uvs) {
    // Made for Node.js: it looks for a file of its own beside itself.
    const { generateTangents } = createRequire(import.meta.url)('mikktspace') as typeof import('mikktspace');
    return generateTangents(positions, normals, uvs);
  },
  async openSolids() {
    // Made for Node.js as it is, too.
    const { default: open } = await import('manifold-3d');
    const solids = await open();
    solids.setup();
    return solids;
  },
  async openDraco() {
    const { default: draco } = await import('draco3dgltf');
    return draco.createDecoderModule();
  },
  async provideDom() {
    (await import('./dom.ts')).provideDom();
  },
  async openPicture(bytes): Promise<PlatformPicture> {
    const sharp = await loadSharp();
    try {
      const {
        width,
        height,
        channels,
        hasAlpha,
        depth,
        pages,
        space,
        format,
        isPalette,
        compression,
        ...told
      } = await sharp(bytes, { limitInputPixels: mostPixels }).metadata();
      return {
        orientation: told.orientation ?? 1,
        profile: told.icc ?? null,
        frameMs: (pages ?? 1) > 1 ? (told.delay ?? []) : [],
        width,
        height,
        channels,
        hasAlpha,
        bitsPerChannel: bitsOfDepth[depth] ?? 8,
        frames: pages ?? 1,
        colourSpace: space === 'rgb16' ? 'srgb' : space,
        encoding: isPalette ? 'palette' : (compression ?? format),
        decode: (frame = 0) =>
          decode(sharp, bytes, format === 'svg' ? Math.max(width, height) : null, depth === 'ushort', frame),
      };
    } catch (error) {
      throw cannotDecode(error);
    }
  },
};

function bufferOf({ buffer, byteOffset, byteLength }: ArrayBufferView): Buffer {
  return Buffer.from(buffer as ArrayBuffer, byteOffset, byteLength);
}

async function decode(
  sharp: Sharp,
  bytes: Uint8Array,
  vectorPixels: number | null,
  isWide: boolean,
  frame: number,
): Promise<{ width: number; height: number; data: Uint8Array | Uint16Array }> {
  try {
    const density =
      vectorPixels === null
        ? {}
        : { density: Math.min(2400, Math.max(72, (72 * vectorSize) / vectorPixels)) };
    // Values as they are stored: the profile of a texture says nothing about what the game does with it.
    const image = sharp(bytes, {
      failOn: 'truncated',
      limitInputPixels: mostPixels,
      ignoreIcc: true,
      ...(frame > 0 ? { page: frame } : {}),
      ...density,
    })
      .toColourspace(isWide ? 'rgb16' : 'srgb')
      .ensureAlpha();
    const { data, info } = await image
      .raw({ depth: isWide ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true });
    const { buffer, byteOffset, byteLength } = data;
    const Values = isWide ? Uint16Array : Uint8Array;
    return { ...size(info), data: new Values(buffer, byteOffset, byteLength / Values.BYTES_PER_ELEMENT) };
  } catch (error) {
    throw cannotDecode(error);
  }
}

const size = ({ width, height }: { width: number; height: number }) => ({ width, height });

function cannotDecode(error: unknown): ReadError {
  return new ReadError(`the picture cannot be decoded: ${messageOf(error).split('\n')[0] ?? ''}`);
}

export async function encodePreview({ rgba, width, height }: Raster): Promise<Buffer> {
  const sharp = await loadSharp();
  return sharp(rgba, { raw: { width, height, channels: 4 } })
    .webp({ quality: 84, effort: 0 })
    .toBuffer();
}
