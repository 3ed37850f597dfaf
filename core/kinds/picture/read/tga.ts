import type { Picture } from '../picture.ts';
import { ByteView } from './byte-view.ts';
import { singleImage, sizeProblem } from './single.ts';

/**
 * TGA after the Truevision TGA File Format Specification 2.0: mapped (1, 9), true colour (2, 10) and grey (3, 11),
 * plain and run-length encoded, of 8, 15, 16, 24 and 32 bits, from any corner.
 *
 * A package for it was tried: it knows no order from right to left, and does not notice a file that is cut short.
 * @throws ReadError
 */
export function readTga(bytes: Uint8Array): Picture {
  const view = new ByteView(bytes, 'TGA');
  view.need(0, 18, 'the header');
  const idLength = bytes[0] ?? 0;
  const mapType = bytes[1] ?? 0;
  const type = bytes[2] ?? 0;
  const map = { first: view.u16(3, ''), length: view.u16(5, ''), bits: bytes[7] ?? 0 };
  const width = view.u16(12, '');
  const height = view.u16(14, '');
  const bits = bytes[16] ?? 0;
  const descriptor = bytes[17] ?? 0;
  const isRunLength = (type & 8) !== 0;
  const plainType = type & 7;
  const problem = sizeProblem(width, height);
  if (problem) view.fail(`its header tells of ${problem}`);
  if (![1, 2, 3].includes(plainType))
    view.fail(`byte 2 tells of type ${type}, which is none of 1, 2, 3, 9, 10 and 11`);
  if (plainType === 1 && mapType !== 1) view.fail('it is mapped, and byte 1 says that it has no colour map');
  const isFitting =
    plainType === 1
      ? bits === 8 || bits === 16
      : plainType === 3
        ? bits === 8 || bits === 16
        : [15, 16, 24, 32].includes(bits);
  if (!isFitting) view.fail(`byte 16 tells of ${bits} bits to a pixel`);

  const alphaBits = alphaOf(bytes, descriptor);
  const isMappedWithAlpha = plainType === 1 && (map.bits === 32 || (map.bits === 16 && alphaBits > 0));
  const hasAlpha =
    plainType === 1
      ? isMappedWithAlpha
      : plainType === 3
        ? bits === 16
        : alphaBits > 0 && (bits === 32 || bits === 16);

  const decode = (): Uint8Array => {
    const mapBytes = Math.ceil(map.bits / 8);
    const mapAt = 18 + idLength;
    const dataAt = mapAt + (mapType === 1 ? map.length * mapBytes : 0);
    const pixelBytes = Math.ceil(bits / 8);
    const stored = isRunLength
      ? unpackRuns(view, dataAt, width * height, pixelBytes)
      : view.part(dataAt, width * height * pixelBytes, 'the pixels');
    const toRgba =
      plainType === 1
        ? mapped(
            view,
            view.part(mapAt, map.length * mapBytes, 'the colour map'),
            map,
            alphaBits > 0,
            pixelBytes,
          )
        : plainType === 3
          ? bits === 16
            ? greyWithAlpha
            : greyOf
          : colourOf(bits, alphaBits > 0);
    const data = new Uint8Array(width * height * 4);
    const isFromRight = (descriptor & 0x10) !== 0;
    const isFromTop = (descriptor & 0x20) !== 0;
    let at = 0;
    for (let row = 0; row < height; row++) {
      const y = isFromTop ? row : height - 1 - row;
      for (let column = 0; column < width; column++, at += pixelBytes) {
        const x = isFromRight ? width - 1 - column : column;
        toRgba(stored, at, data, (y * width + x) * 4);
      }
    }
    return data;
  };
  return singleImage(
    {
      width,
      height,
      channels: (plainType === 3 ? 1 : 3) + (hasAlpha ? 1 : 0),
      hasAlpha,
      bitsPerChannel: plainType === 2 && bits <= 16 ? 5 : 8,
      colourSpace: 'srgb',
      encoding: `${['', 'palette', 'plain', 'grey'][plainType] ?? ''}${isRunLength ? ', RLE' : ''}`,
    },
    decode,
  );
}

type ToRgba = (from: Uint8Array, at: number, to: Uint8Array, place: number) => void;

/**
 * Alpha bits of the descriptor; where a 2.0 file has an extension area, its attributes type has the word (section C.6,
 * field 24): 0 to 2 is no alpha that counts.
 */
function alphaOf(bytes: Uint8Array, descriptor: number): number {
  const bits = descriptor & 15;
  const footer = bytes.length - 26;
  if (
    footer < 18 ||
    new TextDecoder('latin1').decode(bytes.subarray(footer + 8, footer + 24)) !== 'TRUEVISION-XFILE'
  )
    return bits;
  const extension = new ByteView(bytes, 'TGA').u32(footer, 'the footer');
  if (extension === 0 || extension + 495 > bytes.length) return bits;
  const attributes = bytes[extension + 494] ?? 0;
  return attributes < 3 ? 0 : bits;
}

const greyOf: ToRgba = (from, at, to, place) => {
  const grey = from[at] ?? 0;
  to[place] = to[place + 1] = to[place + 2] = grey;
  to[place + 3] = 255;
};

const greyWithAlpha: ToRgba = (from, at, to, place) => {
  greyOf(from, at, to, place);
  to[place + 3] = from[at + 1] ?? 0;
};

function colourOf(bits: number, hasAlpha: boolean): ToRgba {
  if (bits <= 16)
    return (from, at, to, place) => {
      const value = (from[at] ?? 0) | ((from[at + 1] ?? 0) << 8);
      to[place] = eightOfFive(value >> 10);
      to[place + 1] = eightOfFive(value >> 5);
      to[place + 2] = eightOfFive(value);
      to[place + 3] = hasAlpha && bits === 16 && (value & 0x8000) === 0 ? 0 : 255;
    };
  return (from, at, to, place) => {
    to[place] = from[at + 2] ?? 0;
    to[place + 1] = from[at + 1] ?? 0;
    to[place + 2] = from[at] ?? 0;
    to[place + 3] = bits === 32 && hasAlpha ? (from[at + 3] ?? 0) : 255;
  };
}

function eightOfFive(value: number): number {
  return Math.round(((value & 31) * 255) / 31);
}

function mapped(
  view: ByteView,
  map: Uint8Array,
  { first, length, bits }: { first: number; length: number; bits: number },
  hasAlpha: boolean,
  indexBytes: number,
): ToRgba {
  if (![15, 16, 24, 32].includes(bits)) view.fail(`byte 7 tells of a colour map of ${bits} bits`);
  const colours = new Uint8Array(length * 4);
  const toRgba = colourOf(bits, hasAlpha || bits === 32);
  for (let entry = 0; entry < length; entry++) toRgba(map, entry * Math.ceil(bits / 8), colours, entry * 4);
  return (from, at, to, place) => {
    const entry = (from[at] ?? 0) + (indexBytes === 2 ? (from[at + 1] ?? 0) << 8 : 0) - first;
    if (entry < 0 || entry >= length)
      view.fail(`a pixel names colour ${entry + first}, and its map has ${first} to ${first + length - 1}`);
    for (let channel = 0; channel < 4; channel++) to[place + channel] = colours[entry * 4 + channel] ?? 0;
  };
}

/** Section C.5: a packet is its count less one, with the highest bit for a run, and one pixel or as many as it counts. */
function unpackRuns(view: ByteView, from: number, count: number, pixelBytes: number): Uint8Array {
  const out = new Uint8Array(count * pixelBytes);
  let at = from;
  for (let to = 0; to < out.length;) {
    const packet = view.u8(at++, 'a packet of pixels');
    const length = Math.min(((packet & 127) + 1) * pixelBytes, out.length - to);
    if (packet & 128) {
      const pixel = view.part(at, pixelBytes, 'the pixel of a run');
      for (let done = 0; done < length; done++) out[to + done] = pixel[done % pixelBytes] ?? 0;
      at += pixelBytes;
    } else {
      out.set(view.part(at, length, 'the pixels of a packet'), to);
      at += length;
    }
    to += length;
  }
  return out;
}
