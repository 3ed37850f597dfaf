import { bc1, bc1Opaque, bc2, bc3, bc4, bc4Signed, bc5, bc5Signed } from '../blocks/bc1-to-bc5.ts';
import { bc6h, bc6hSigned } from '../blocks/bc6h.ts';
import { bc7 } from '../blocks/bc7.ts';
import { joinBc1To5, joinBc7 } from '../blocks/join-in-kernel.ts';
import { blockBytes, joinBlocks8, joinBlocksFloat, type BlockDecoder } from '../blocks/block-images.ts';
import { floatOfHalf } from '../half-float.ts';
import type { Pixels } from '../picture.ts';

/** How the pixels of a texture lie in its bytes. */
export interface Texels {
  encoding: string;
  channels: number;
  hasAlpha: boolean;
  bitsPerChannel: number;
  bytesOf(width: number, height: number): number;
  /** @param bytes as many as `bytesOf` says */
  unpack(bytes: Uint8Array, width: number, height: number): Pixels['data'];
}

type Value = (view: DataView, at: number) => number;

const u8: Value = (view, at) => view.getUint8(at);
/** -127 to 127 as 0 to 255. */
const s8: Value = (view, at) => Math.round((Math.max(-127, view.getInt8(at)) / 127 + 1) * 127.5);
const u16: Value = (view, at) => view.getUint16(at, true);
const s16: Value = (view, at) =>
  Math.round((Math.max(-32_767, view.getInt16(at, true)) / 32_767 + 1) * 32_767.5);
const half: Value = (view, at) => floatOfHalf(view.getUint16(at, true));
const single: Value = (view, at) => view.getFloat32(at, true);

const names = ['', 'R', 'RG', 'RGB', 'RGBA'];

/**
 * Channels that lie one beside the other. What is lacking is 0, alpha is 1; one channel alone is grey.
 * @param order of red, green, blue and alpha in the file: BGRA is [2, 1, 0, 3]
 */
function plain(
  channels: number,
  { bytes, value, kind }: { bytes: 1 | 2 | 4; value: Value; kind: 'integer' | 'float' },
  order: readonly number[] = [0, 1, 2, 3],
  hasAlpha = channels === 4,
): Texels {
  return {
    encoding: `${order[0] === 2 ? (hasAlpha ? 'BGRA' : 'BGR') : (names[channels] ?? '')}${bytes * 8}${kind === 'float' ? ' float' : ''}`,
    channels: hasAlpha || channels < 4 ? channels : 3,
    hasAlpha,
    bitsPerChannel: bytes * 8,
    bytesOf: (width, height) => width * height * channels * bytes,
    unpack(from, width, height) {
      const view = new DataView(from.buffer, from.byteOffset, from.byteLength);
      const count = width * height;
      const data =
        kind === 'float'
          ? new Float32Array(count * 4)
          : bytes === 1
            ? new Uint8Array(count * 4)
            : new Uint16Array(count * 4);
      const whole = kind === 'float' ? 1 : bytes === 1 ? 255 : 65_535;
      for (let pixel = 0, at = 0; pixel < count; pixel++, at += channels * bytes) {
        const to = pixel * 4;
        for (let channel = 0; channel < 3; channel++) {
          const stored = channels === 1 ? 0 : (order[channel] ?? 0);
          data[to + channel] = stored < channels ? value(view, at + stored * bytes) : 0;
        }
        data[to + 3] = hasAlpha ? value(view, at + (order[3] ?? 3) * bytes) : whole;
      }
      return data;
    },
  };
}

const byte = { bytes: 1, value: u8, kind: 'integer' } as const;
const signedByte = { bytes: 1, value: s8, kind: 'integer' } as const;
const word = { bytes: 2, value: u16, kind: 'integer' } as const;
const signedWord = { bytes: 2, value: s16, kind: 'integer' } as const;
const halfFloat = { bytes: 2, value: half, kind: 'float' } as const;
const float = { bytes: 4, value: single, kind: 'float' } as const;

/**
 * Channels that are bits of one little-endian number, as masks say.
 * @param masks of red, green, blue and alpha; 0 where there is none
 */
export function masked(
  bytes: 1 | 2 | 3 | 4,
  masks: readonly [number, number, number, number],
  isGrey = false,
): Texels {
  const channels = masks.map((mask) => {
    const shift = mask === 0 ? 0 : 31 - Math.clz32(mask & -mask);
    return { mask, shift, most: mask >>> shift };
  });
  const hasAlpha = masks[3] !== 0;
  const coloured = masks.slice(0, 3).filter((mask) => mask !== 0).length;
  const bits = Math.max(...channels.map(({ most }) => 32 - Math.clz32(most)));
  const isWide = bits > 8;
  return {
    encoding: `${isGrey ? 'grey' : 'RGB'}${hasAlpha ? 'A' : ''} in ${bytes * 8} bits`,
    channels: (isGrey ? 1 : Math.max(1, coloured)) + (hasAlpha && coloured > 0 ? 1 : 0),
    hasAlpha,
    bitsPerChannel: bits,
    bytesOf: (width, height) => width * height * bytes,
    unpack(from, width, height) {
      const count = width * height;
      const whole = isWide ? 65_535 : 255;
      const data = isWide ? new Uint16Array(count * 4) : new Uint8Array(count * 4);
      for (let pixel = 0, at = 0; pixel < count; pixel++) {
        let value = 0;
        for (let part = 0; part < bytes; part++) value |= (from[at++] ?? 0) << (part * 8);
        for (let channel = 0; channel < 4; channel++) {
          const { mask, shift, most } = channels[isGrey && channel < 3 ? 0 : channel] ?? {
            mask: 0,
            shift: 0,
            most: 1,
          };
          data[pixel * 4 + channel] =
            mask === 0
              ? channel === 3
                ? whole
                : 0
              : Math.round((((value & mask) >>> shift) * whole) / most);
        }
      }
      return data;
    },
  };
}

/** Numbers of 32 bits that hold three small floats: 11, 11 and 10 bits, or 9 bits each with one exponent. */
function packedFloats(
  encoding: string,
  unpackOne: (value: number, to: Float32Array, at: number) => void,
): Texels {
  return {
    encoding,
    channels: 3,
    hasAlpha: false,
    bitsPerChannel: 11,
    bytesOf: (width, height) => width * height * 4,
    unpack(from, width, height) {
      const view = new DataView(from.buffer, from.byteOffset, from.byteLength);
      const data = new Float32Array(width * height * 4);
      for (let pixel = 0; pixel < width * height; pixel++) {
        unpackOne(view.getUint32(pixel * 4, true), data, pixel * 4);
        data[pixel * 4 + 3] = 1;
      }
      return data;
    },
  };
}

function blocks(
  encoding: string,
  bytesPerBlock: 8 | 16,
  channels: number,
  decode: BlockDecoder<Int32Array>,
  format?: Parameters<typeof joinBc1To5>[4],
): Texels {
  return {
    encoding,
    channels,
    hasAlpha: channels === 4,
    bitsPerChannel: 8,
    bytesOf: (width, height) => blockBytes(width, height, bytesPerBlock),
    unpack: (from, width, height) =>
      (format && joinBc1To5(from, width, height, bytesPerBlock, format)) ??
      joinBlocks8(from, width, height, bytesPerBlock, decode),
  };
}

function floatBlocks(encoding: string, decode: BlockDecoder<Float32Array>): Texels {
  return {
    encoding,
    channels: 3,
    hasAlpha: false,
    bitsPerChannel: 16,
    bytesOf: (width, height) => blockBytes(width, height, 16),
    unpack: (from, width, height) => joinBlocksFloat(from, width, height, 16, decode),
  };
}

/** Layouts by names of our own; the numbers that files use for them are in `dds.ts` and `ktx2.ts`. */
export const texels = {
  r8: plain(1, byte),
  rg8: plain(2, byte),
  rgb8: plain(3, byte),
  bgr8: plain(3, byte, [2, 1, 0]),
  rgba8: plain(4, byte),
  bgra8: plain(4, byte, [2, 1, 0, 3]),
  bgrx8: plain(4, byte, [2, 1, 0, 3], false),
  r8s: plain(1, signedByte),
  rg8s: plain(2, signedByte),
  rgba8s: plain(4, signedByte),
  r16: plain(1, word),
  rg16: plain(2, word),
  rgb16: plain(3, word),
  rgba16: plain(4, word),
  rg16s: plain(2, signedWord),
  rgba16s: plain(4, signedWord),
  r16f: plain(1, halfFloat),
  rg16f: plain(2, halfFloat),
  rgb16f: plain(3, halfFloat),
  rgba16f: plain(4, halfFloat),
  r32f: plain(1, float),
  rg32f: plain(2, float),
  rgb32f: plain(3, float),
  rgba32f: plain(4, float),
  a8: masked(1, [0, 0, 0, 0xff]),
  b5g6r5: masked(2, [0xf800, 0x7e0, 0x1f, 0]),
  b5g5r5a1: masked(2, [0x7c00, 0x3e0, 0x1f, 0x8000]),
  b4g4r4a4: masked(2, [0xf00, 0xf0, 0xf, 0xf000]),
  rgb10a2: masked(4, [0x3ff, 0xffc00, 0x3ff00000, 0xc0000000]),
  rg11b10f: packedFloats('RG11B10 float', (value, to, at) => {
    to[at] = floatOfHalf((value & 0x7ff) << 4);
    to[at + 1] = floatOfHalf(((value >>> 11) & 0x7ff) << 4);
    to[at + 2] = floatOfHalf((value >>> 22) << 5);
  }),
  rgb9e5: packedFloats('RGB9E5', (value, to, at) => {
    const scale = 2 ** ((value >>> 27) - 24);
    for (let channel = 0; channel < 3; channel++)
      to[at + channel] = ((value >>> (channel * 9)) & 511) * scale;
  }),
  bc1: blocks('BC1', 8, 4, bc1, 'bc1'),
  bc1Opaque: blocks('BC1', 8, 3, bc1Opaque, 'bc1Opaque'),
  bc2: blocks('BC2', 16, 4, bc2, 'bc2'),
  bc3: blocks('BC3', 16, 4, bc3, 'bc3'),
  bc4: blocks('BC4', 8, 1, bc4, 'bc4'),
  bc4s: blocks('BC4 signed', 8, 1, bc4Signed),
  bc5: blocks('BC5', 16, 2, bc5, 'bc5'),
  bc5s: blocks('BC5 signed', 16, 2, bc5Signed),
  bc6h: floatBlocks('BC6H', bc6h),
  bc6hs: floatBlocks('BC6H signed', bc6hSigned),
  bc7: { ...blocks('BC7', 16, 4, bc7), unpack: joinBc7 },
} as const satisfies Record<string, Texels>;

export type TexelName = keyof typeof texels;
