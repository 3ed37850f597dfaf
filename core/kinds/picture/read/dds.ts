import { levelSize, type Picture } from '../picture.ts';
import { ByteView } from './byte-view.ts';
import { sizeProblem } from './single.ts';
import { masked, texels, type TexelName, type Texels } from './texels.ts';

interface Layout {
  texels: Texels;
  colourSpace: 'srgb' | 'linear' | 'unsaid';
}

/** DXGI_FORMAT numbers, as Microsoft publishes them: name and whether the values are sRGB. */
const dxgi: Readonly<Record<number, readonly [TexelName, isSrgb?: boolean]>> = {
  2: ['rgba32f'],
  6: ['rgb32f'],
  10: ['rgba16f'],
  11: ['rgba16'],
  13: ['rgba16s'],
  16: ['rg32f'],
  24: ['rgb10a2'],
  26: ['rg11b10f'],
  28: ['rgba8'],
  29: ['rgba8', true],
  31: ['rgba8s'],
  34: ['rg16f'],
  35: ['rg16'],
  37: ['rg16s'],
  41: ['r32f'],
  49: ['rg8'],
  51: ['rg8s'],
  54: ['r16f'],
  56: ['r16'],
  61: ['r8'],
  63: ['r8s'],
  65: ['a8'],
  67: ['rgb9e5'],
  70: ['bc1'],
  71: ['bc1'],
  72: ['bc1', true],
  73: ['bc2'],
  74: ['bc2'],
  75: ['bc2', true],
  76: ['bc3'],
  77: ['bc3'],
  78: ['bc3', true],
  79: ['bc4'],
  80: ['bc4'],
  81: ['bc4s'],
  82: ['bc5'],
  83: ['bc5'],
  84: ['bc5s'],
  85: ['b5g6r5'],
  86: ['b5g5r5a1'],
  87: ['bgra8'],
  88: ['bgrx8'],
  91: ['bgra8', true],
  93: ['bgrx8', true],
  94: ['bc6h'],
  95: ['bc6h'],
  96: ['bc6hs'],
  97: ['bc7'],
  98: ['bc7'],
  99: ['bc7', true],
  115: ['b4g4r4a4'],
};

/** Codes of files without the longer header. Numbers are those of D3DFORMAT. */
const codes: Readonly<Record<string, TexelName>> = {
  DXT1: 'bc1',
  DXT2: 'bc2',
  DXT3: 'bc2',
  DXT4: 'bc3',
  DXT5: 'bc3',
  ATI1: 'bc4',
  BC4U: 'bc4',
  BC4S: 'bc4s',
  ATI2: 'bc5',
  BC5U: 'bc5',
  BC5S: 'bc5s',
  '36': 'rgba16',
  '110': 'rgba16s',
  '111': 'r16f',
  '112': 'rg16f',
  '113': 'rgba16f',
  '114': 'r32f',
  '115': 'rg32f',
  '116': 'rgba32f',
};

const pixelFormat = { alphaPixels: 1, alpha: 2, fourCharacters: 4, rgb: 0x40, luminance: 0x20000 };
const capsCubemap = 0x200;
const capsVolume = 0x200000;

/**
 * DDS as Microsoft's Programming Guide for DDS publishes it: with and without the DX10 header, mips, cube maps, arrays
 * and volumes. Images lie layer by layer, in each face by face, in each level by level.
 * @throws ReadError
 */
export function readDds(bytes: Uint8Array): Picture {
  const view = new ByteView(bytes, 'DDS');
  view.need(0, 128, 'the header');
  if (view.u32(4, '') !== 124)
    view.fail(`byte 4 tells of a header of ${view.u32(4, '')} bytes, and 124 are expected`);
  const height = view.u32(12, '');
  const width = view.u32(16, '');
  const caps = view.u32(112, '');
  const code = view.u32(80, '') & pixelFormat.fourCharacters ? codeOf(view.u32(84, '')) : '';
  const isLong = code === 'DX10';
  const layout = isLong ? longLayout(view) : shortLayout(view, code);
  const isVolume = (caps & capsVolume) !== 0 || (isLong && view.u32(132, 'the DX10 header') === 4);
  const isCube = (caps & capsCubemap) !== 0 || (isLong && (view.u32(136, 'the DX10 header') & 4) !== 0);
  // A cube map of the shorter header may lack sides: each has a bit.
  const faces = !isCube
    ? 1
    : isLong
      ? 6
      : [10, 11, 12, 13, 14, 15].filter((bit) => caps & (1 << bit)).length || 6;
  const depth = isVolume ? Math.max(1, view.u32(24, '')) : 1;
  const levels = Math.max(1, view.u32(28, ''));
  const layers = isLong ? Math.max(1, view.u32(140, 'the DX10 header')) : 1;
  const problem = sizeProblem(width, height, depth * layers * faces);
  if (problem) view.fail(`its header tells of ${problem}`);
  if (levels > 32 - Math.clz32(Math.max(width, height, depth)))
    view.fail(`byte 28 tells of ${levels} levels, too many for its size`);
  if (layers > 4096) view.fail(`its header tells of ${layers} layers`);

  const dataAt = isLong ? 148 : 128;
  const sliceBytes = (level: number): number =>
    layout.texels.bytesOf(levelSize(width, level), levelSize(height, level));
  const levelBytes = (level: number): number => sliceBytes(level) * levelSize(depth, level);
  let faceBytes = 0;
  for (let level = 0; level < levels; level++) faceBytes += levelBytes(level);

  const { channels, hasAlpha, bitsPerChannel, encoding } = layout.texels;
  return {
    width,
    height,
    depth,
    levels,
    layers,
    faces,
    frames: 1,
    channels,
    hasAlpha,
    bitsPerChannel,
    encoding,
    colourSpace: layout.colourSpace,
    async image({ level = 0, layer = 0, face = 0, slice = 0 } = {}) {
      let at = dataAt + (layer * faces + face) * faceBytes;
      for (let before = 0; before < level; before++) at += levelBytes(before);
      const size = { width: levelSize(width, level), height: levelSize(height, level) };
      // All of it, whatever is asked for: a file that is cut short says so.
      view.need(
        dataAt,
        faceBytes * faces * layers,
        `${faces * layers > 1 ? `${faces * layers} images` : 'the image'} with ${levels} levels`,
      );
      const stored = view.part(at + slice * sliceBytes(level), sliceBytes(level), 'the image');
      return { ...size, data: layout.texels.unpack(stored, size.width, size.height) };
    },
  };
}

function codeOf(value: number): string {
  const text = String.fromCharCode(value & 255, (value >> 8) & 255, (value >> 16) & 255, value >>> 24);
  return /^[\w]{4}$/.test(text) ? text : String(value);
}

function longLayout(view: ByteView): Layout {
  const number = view.u32(128, 'the DX10 header');
  const known = dxgi[number];
  if (!known) view.fail(`byte 128 tells of DXGI format ${number}, which is not read`);
  const [name, isSrgb = false] = known;
  return { texels: texels[name], colourSpace: isSrgb ? 'srgb' : 'linear' };
}

function shortLayout(view: ByteView, code: string): Layout {
  if (code !== '') {
    const name = codes[code];
    if (!name) view.fail(`byte 84 tells of the format ${code}, which is not read`);
    return { texels: texels[name], colourSpace: 'unsaid' };
  }
  const flags = view.u32(80, '');
  const bits = view.u32(88, '');
  const [red, green, blue, alpha] = [92, 96, 100, 104].map((at) => view.u32(at, '')) as [
    number,
    number,
    number,
    number,
  ];
  if (![8, 16, 24, 32].includes(bits)) view.fail(`byte 88 tells of ${bits} bits to a pixel`);
  const size = (bits / 8) as 1 | 2 | 3 | 4;
  const hasAlpha = (flags & (pixelFormat.alphaPixels | pixelFormat.alpha)) !== 0;
  const isGrey = (flags & pixelFormat.luminance) !== 0;
  if (!isGrey && !hasAlpha && (flags & pixelFormat.rgb) === 0)
    view.fail(`byte 80 tells of pixels of an unknown sort, ${flags}`);
  return {
    texels: masked(size, [red, isGrey ? red : green, isGrey ? red : blue, hasAlpha ? alpha : 0], isGrey),
    colourSpace: 'unsaid',
  };
}
