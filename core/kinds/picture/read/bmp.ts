import type { Picture } from '../picture.ts';
import { ByteView } from './byte-view.ts';
import { singleImage, sizeProblem } from './single.ts';

interface Header {
  width: number;
  height: number;
  isFromTop: boolean;
  bits: number;
  compression: number;
  /** Red, green, blue, alpha; zeros where there are none. */
  masks: readonly number[];
  colours: Uint8Array;
  pixelsAt: number;
}

/**
 * Windows bitmaps with headers of 12, 40, 52, 56, 108 and 124 bytes (BITMAPCOREHEADER to BITMAPV5HEADER, as Microsoft
 * publishes them): 1, 4 and 8 bits with a colour table, RLE4 and RLE8, 16, 24 and 32 bits with or without masks.
 *
 * A package for it was tried: it gives opaque pictures an alpha of 0.
 * @throws ReadError
 */
export function readBmp(bytes: Uint8Array): Picture {
  const view = new ByteView(bytes, 'BMP');
  const header = readHeader(view);
  const { width, height, bits, compression, masks } = header;
  const hasAlpha = (masks[3] ?? 0) !== 0;
  return singleImage(
    {
      width,
      height,
      channels: hasAlpha ? 4 : 3,
      hasAlpha,
      bitsPerChannel: bits === 16 ? 5 : 8,
      colourSpace: 'srgb',
      encoding: bits <= 8 ? `palette, ${bits} bits${compression === 0 ? '' : ', RLE'}` : 'plain',
    },
    () => {
      const data = new Uint8Array(width * height * 4);
      if (compression === 1 || compression === 2) unpackRuns(view, header, data);
      else if (bits <= 8) unpackIndices(view, header, data);
      else unpackColours(view, header, data);
      return data;
    },
  );
}

function readHeader(view: ByteView): Header {
  const { bytes } = view;
  const pixelsAt = view.u32(10, 'the file header');
  const size = view.u32(14, 'the size of the header');
  const isCore = size === 12;
  if (!isCore && (size < 40 || size > 124)) view.fail(`byte 14 tells of a header of ${size} bytes`);
  view.need(14, size, 'the header');
  const width = isCore ? view.u16(18, '') : view.i32(18, '');
  const tall = isCore ? view.u16(20, '') : view.i32(22, '');
  const bits = view.u16(isCore ? 24 : 28, '');
  const compression = isCore ? 0 : view.u32(30, '');
  const used = isCore ? 0 : view.u32(46, '');
  const height = Math.abs(tall);
  const problem = sizeProblem(width, height);
  if (problem) view.fail(`its header tells of ${problem}`);
  if (![1, 2, 4, 8, 16, 24, 32].includes(bits)) view.fail(`its header tells of ${bits} bits to a pixel`);
  if (![0, 1, 2, 3, 6].includes(compression)) view.fail(`its header tells of compression ${compression}`);
  const hasMasks = compression === 3 || compression === 6;
  const masks = hasMasks
    ? [0, 1, 2, 3].map((mask) =>
        mask < 3 || size >= 56 || compression === 6 ? view.u32(54 + mask * 4, 'the masks') : 0,
      )
    : bits === 16
      ? [0x7c00, 0x3e0, 0x1f, 0]
      : [0xff0000, 0xff00, 0xff, 0];
  const tableAt = 14 + size + (hasMasks && size === 40 ? (compression === 6 ? 16 : 12) : 0);
  const entryBytes = isCore ? 3 : 4;
  const count =
    bits > 8
      ? 0
      : Math.min(used === 0 ? 1 << bits : used, 256, Math.floor((bytes.length - tableAt) / entryBytes));
  const colours = new Uint8Array(count * 4);
  for (let colour = 0; colour < count; colour++) {
    const at = tableAt + colour * entryBytes;
    for (let channel = 0; channel < 3; channel++)
      colours[colour * 4 + channel] = bytes[at + 2 - channel] ?? 0;
    colours[colour * 4 + 3] = 255;
  }
  return { width, height, isFromTop: tall < 0, bits, compression, masks, colours, pixelsAt };
}

/** Where a row begins in RGBA, counted as the file has them. */
function rowAt({ width, height, isFromTop }: Header, row: number): number {
  return (isFromTop ? row : height - 1 - row) * width * 4;
}

function unpackIndices(view: ByteView, header: Header, data: Uint8Array): void {
  const { width, height, bits, pixelsAt } = header;
  const stride = Math.ceil((width * bits) / 32) * 4;
  const mask = (1 << bits) - 1;
  for (let row = 0; row < height; row++) {
    const from = view.part(pixelsAt + row * stride, stride, `row ${row}`);
    const to = rowAt(header, row);
    for (let x = 0; x < width; x++) {
      const bit = x * bits;
      putColour(view, header, ((from[bit >> 3] ?? 0) >> (8 - bits - (bit & 7))) & mask, data, to + x * 4);
    }
  }
}

function putColour(view: ByteView, { colours }: Header, index: number, data: Uint8Array, to: number): void {
  if (index * 4 >= colours.length)
    view.fail(`a pixel names colour ${index}, and its table has ${colours.length / 4}`);
  for (let channel = 0; channel < 4; channel++) data[to + channel] = colours[index * 4 + channel] ?? 0;
}

function unpackColours(view: ByteView, header: Header, data: Uint8Array): void {
  const { width, height, bits, pixelsAt, masks } = header;
  const pixelBytes = bits / 8;
  const stride = Math.ceil((width * bits) / 32) * 4;
  const channels = masks.map((mask) => ({ mask, shift: mask === 0 ? 0 : 31 - Math.clz32(mask & -mask) }));
  for (let row = 0; row < height; row++) {
    const from = view.part(pixelsAt + row * stride, stride, `row ${row}`);
    const to = rowAt(header, row);
    for (let x = 0; x < width; x++) {
      let value = 0;
      for (let byte = 0; byte < pixelBytes; byte++) value |= (from[x * pixelBytes + byte] ?? 0) << (byte * 8);
      channels.forEach(({ mask, shift }, channel) => {
        const most = mask >>> shift;
        data[to + x * 4 + channel] =
          mask === 0 ? (channel === 3 ? 255 : 0) : Math.round((((value & mask) >>> shift) * 255) / most);
      });
    }
  }
}

/** RLE4 and RLE8: pairs of count and colour; 0 and then 0 ends a row, 1 the picture, 2 moves on, more are literal. */
function unpackRuns(view: ByteView, header: Header, data: Uint8Array): void {
  const { width, height, bits, pixelsAt, compression } = header;
  if (bits !== (compression === 1 ? 8 : 4)) view.fail(`run lengths of ${bits} bits`);
  // What no run covers has the first colour.
  for (let to = 0; to < data.length; to += 4) putColour(view, header, 0, data, to);
  let at = pixelsAt;
  let x = 0;
  let row = 0;
  const put = (index: number): void => {
    if (x < width && row < height) putColour(view, header, index, data, rowAt(header, row) + x * 4);
    x++;
  };
  while (row < height) {
    const count = view.u8(at++, `a run of row ${row}`);
    const second = view.u8(at++, `a run of row ${row}`);
    if (count > 0) {
      for (let done = 0; done < count; done++)
        put(bits === 8 ? second : done % 2 === 0 ? second >> 4 : second & 15);
    } else if (second === 0) {
      x = 0;
      row++;
    } else if (second === 1) {
      return;
    } else if (second === 2) {
      x += view.u8(at++, 'a move');
      row += view.u8(at++, 'a move');
    } else {
      const length = bits === 8 ? second : Math.ceil(second / 2);
      const literal = view.part(at, length, 'literal pixels');
      for (let done = 0; done < second; done++)
        put(bits === 8 ? (literal[done] ?? 0) : ((literal[done >> 1] ?? 0) >> (done % 2 === 0 ? 4 : 0)) & 15);
      at += length + (length % 2);
    }
  }
}
