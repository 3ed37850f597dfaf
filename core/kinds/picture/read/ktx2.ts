import { read, type KTX2Container } from 'ktx-parse';
import { ZSTDDecoder } from 'zstddec';
import type { BasisFile, Platform } from '../../reading.ts';
import { ReadError } from '../../reading.ts';
import { levelSize, type Picture } from '../picture.ts';
import { sizeProblem } from './single.ts';
import { texels, type TexelName, type Texels } from './texels.ts';

/** VkFormat numbers of the Vulkan specification: name and whether the values are sRGB. */
const vkFormats: Readonly<Record<number, readonly [TexelName, isSrgb?: boolean]>> = {
  9: ['r8'],
  10: ['r8s'],
  15: ['r8', true],
  16: ['rg8'],
  17: ['rg8s'],
  22: ['rg8', true],
  23: ['rgb8'],
  29: ['rgb8', true],
  30: ['bgr8'],
  36: ['bgr8', true],
  37: ['rgba8'],
  38: ['rgba8s'],
  43: ['rgba8', true],
  44: ['bgra8'],
  50: ['bgra8', true],
  64: ['rgb10a2'],
  70: ['r16'],
  76: ['r16f'],
  77: ['rg16'],
  83: ['rg16f'],
  84: ['rgb16'],
  90: ['rgb16f'],
  91: ['rgba16'],
  97: ['rgba16f'],
  100: ['r32f'],
  103: ['rg32f'],
  106: ['rgb32f'],
  109: ['rgba32f'],
  122: ['rg11b10f'],
  123: ['rgb9e5'],
  131: ['bc1Opaque'],
  132: ['bc1Opaque', true],
  133: ['bc1'],
  134: ['bc1', true],
  135: ['bc2'],
  136: ['bc2', true],
  137: ['bc3'],
  138: ['bc3', true],
  139: ['bc4'],
  140: ['bc4s'],
  141: ['bc5'],
  142: ['bc5s'],
  143: ['bc6h'],
  144: ['bc6hs'],
  145: ['bc7'],
  146: ['bc7', true],
};

const modelEtc1s = 163;
const modelUastc = 166;
const schemeBasis = 1;
const schemeZstd = 2;
const transferSrgb = 2;

let decoder: Promise<ZSTDDecoder> | null = null;

function zstd(): Promise<ZSTDDecoder> {
  return (decoder ??= (async () => {
    const made = new ZSTDDecoder();
    await made.init();
    return made;
  })());
}

/**
 * KTX2 (Khronos KTX File Format Specification 2.0): uncompressed and BCn, as they are and under Zstandard; ETC1S and
 * UASTC of Basis Universal.
 * @throws ReadError
 */
export function readKtx2(bytes: Uint8Array, platform: Platform): Picture {
  let container: KTX2Container;
  try {
    container = read(bytes);
  } catch (error) {
    throw new ReadError(
      `this KTX2 file cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const { pixelWidth: width, vkFormat, supercompressionScheme: scheme } = container;
  const height = Math.max(1, container.pixelHeight);
  const depth = Math.max(1, container.pixelDepth);
  const layers = Math.max(1, container.layerCount);
  const faces = container.faceCount === 6 ? 6 : 1;
  const problem = sizeProblem(width, height, depth * layers * faces);
  if (problem) throw new ReadError(`this KTX2 file cannot be read: its header tells of ${problem}`);
  const [descriptor] = container.dataFormatDescriptor;
  if (!descriptor) throw new ReadError('this KTX2 file cannot be read: it has no data format descriptor');
  const colourSpace = descriptor.transferFunction === transferSrgb ? 'srgb' : 'linear';
  const same = {
    width,
    height,
    depth,
    layers,
    faces,
    frames: 1,
    levels: Math.max(1, container.levels.length),
    colourSpace,
  };

  if (vkFormat === 0) {
    const model = Number(descriptor.colorModel);
    if (model !== modelEtc1s && model !== modelUastc)
      throw new ReadError(`this KTX2 file is packed by colour model ${model}, which is not read`);
    const hasAlpha =
      descriptor.samples.length > 1 || (model === modelUastc && descriptor.samples[0]?.channelType === 3);
    return {
      ...same,
      channels: hasAlpha ? 4 : 3,
      hasAlpha,
      bitsPerChannel: 8,
      encoding: model === modelEtc1s ? 'ETC1S' : `UASTC${scheme === schemeZstd ? ', Zstandard' : ''}`,
      image: async ({ level = 0, layer = 0, face = 0 } = {}) => {
        const file = await platform.openBasis(bytes);
        return transcode(file, level, layer, face);
      },
    };
  }
  const known = vkFormats[vkFormat];
  if (!known)
    throw new ReadError(`this KTX2 file has the pixel format ${vkFormat} of Vulkan, which is not read`);
  if (scheme !== 0 && scheme !== schemeZstd)
    throw new ReadError(
      `this KTX2 file is packed by scheme ${scheme === schemeBasis ? 'BasisLZ without its format' : scheme}, which is not read`,
    );
  const layout: Texels = texels[known[0]];
  // All images of a level lie in one packed stream, which is unpacked once.
  const unpacked = new Map<number, Promise<Uint8Array>>();
  const keep = (level: number, bytes: Promise<Uint8Array>): Promise<Uint8Array> => {
    unpacked.clear();
    unpacked.set(level, bytes);
    return bytes;
  };
  const { channels, hasAlpha, bitsPerChannel } = layout;
  return {
    ...same,
    channels,
    hasAlpha,
    bitsPerChannel,
    colourSpace: known[1] ? 'srgb' : colourSpace,
    encoding: `${layout.encoding}${scheme === schemeZstd ? ', Zstandard' : ''}`,
    async image({ level = 0, layer = 0, face = 0, slice = 0 } = {}) {
      const size = { width: levelSize(width, level), height: levelSize(height, level) };
      const imageBytes = layout.bytesOf(size.width, size.height);
      const expected = imageBytes * layers * faces * levelSize(depth, level);
      const all = await (unpacked.get(level) ?? keep(level, levelBytes(container, level, expected)));
      const at = ((layer * faces + face) * levelSize(depth, level) + slice) * imageBytes;
      if (at + imageBytes > all.length)
        throw new ReadError(
          `this KTX2 file is cut short: level ${level} has ${all.length} bytes, and ${at + imageBytes} are expected`,
        );
      return { ...size, data: layout.unpack(all.subarray(at, at + imageBytes), size.width, size.height) };
    },
  };
}

async function levelBytes(
  { levels, supercompressionScheme }: KTX2Container,
  level: number,
  expectedBytes: number,
): Promise<Uint8Array> {
  const stored = levels[level];
  if (!stored) throw new ReadError(`this KTX2 file has no level ${level}`);
  if (Number(supercompressionScheme) !== schemeZstd) return stored.levelData;
  // What is told is made room for before anything is unpacked.
  if (stored.uncompressedByteLength > expectedBytes)
    throw new ReadError(
      `level ${level} of this KTX2 file is damaged: it tells of ${stored.uncompressedByteLength} bytes, and ${expectedBytes} are expected`,
    );
  try {
    return (await zstd()).decode(stored.levelData, stored.uncompressedByteLength);
  } catch (error) {
    throw new ReadError(
      `level ${level} of this KTX2 file cannot be unpacked: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
}

function transcode(file: BasisFile, level: number, layer: number, face: number) {
  try {
    const image = file.image(level, layer, face);
    if (!image) throw new ReadError(`level ${level} of this KTX2 file cannot be unpacked: it is damaged`);
    return image;
  } finally {
    file.close();
  }
}
