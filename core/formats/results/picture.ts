import type { PictureResult } from '../../../contract/format-sheets.ts';
import { levelSize, type Picture, type Pixels } from '../../kinds/picture/picture.ts';
import { sizeProblem } from '../../kinds/picture/read/single.ts';
import { texels, type Texels } from '../../kinds/picture/read/texels.ts';
import { compileExpression, shown, wholeNumber, type Compute } from '../language/expression.ts';
import { bytesOf } from '../language/conversions.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Struct, Value } from '../language/values.ts';
import { optional } from './items.ts';
import { indicesOf, ordered, rowsOf, type Order } from './pixel-order.ts';

/** Blocks of 4 x 4 pixels, by the bytes of one. */
const blockBytes: Readonly<Record<string, number>> = {
  ...{ bc1: 8, bc1Opaque: 8, bc4: 8, bc4s: 8 },
  ...{ bc2: 16, bc3: 16, bc5: 16, bc5s: 16, bc6h: 16, bc6hs: 16, bc7: 16 },
};

export const pixelFormats: readonly string[] = Object.keys(texels);

interface Layout {
  format: string;
  texels: Texels;
  /** Where pixels are numbers of a palette: RGBA of each. */
  palette: Uint8Array | null;
  indexBits: number;
  rowBytes: number | null;
  isUp: boolean;
  order: Order | null;
  swizzle: string | null;
}

/** Makes a picture of fields. Its images are decoded when they are asked for. @throws SheetError */
export function compilePicture(result: PictureResult): (root: Struct) => Picture {
  const whole = (name: string, expression: PictureResult['width']) => {
    const compute = compileExpression(expression);
    return (root: Struct): number => wholeNumber(compute(root), name);
  };
  const [width, height] = [whole('width', result.width), whole('height', result.height)];
  const [levels, layers] = [whole('levels', result.levels), whole('layers', result.layers)];
  const [faces, frames] = [whole('faces', result.faces), whole('frames', result.frames)];
  const format = compileName(result.format);
  const pixels = compileExpression(result.pixels);
  const palette = result.palette && {
    colours: compileExpression(result.palette.colours),
    format: compileName(result.palette.format),
  };
  const rows = result.rows === 'up' || result.rows === 'down' ? null : compileExpression(result.rows);
  const [rowBytes, indexBits] = [optional(result.rowBytes), optional(result.indexBits)];
  const tile = result.tiles && {
    width: whole('width of a tile', result.tiles.width),
    height: whole('height of a tile', result.tiles.height),
  };
  return (root) => {
    const size = { width: width(root), height: height(root) };
    const counts = { levels: levels(root), layers: layers(root), faces: faces(root), frames: frames(root) };
    const images = counts.layers * counts.faces * counts.frames;
    const problem = sizeProblem(size.width, size.height, images);
    if (problem) throw new SheetError(`it tells of ${problem}`);
    if (Math.min(...Object.values(counts)) < 1 || counts.levels > 32)
      throw new SheetError(`it tells of ${counts.levels} levels of ${images} images`);
    const name = format(root);
    const layout: Layout = {
      format: name,
      texels: texelsOf(name),
      palette: palette ? paletteOf(palette.colours(root), () => palette.format(root)) : null,
      indexBits: indexBits ? wholeNumber(indexBits(root), 'bits of an index') : 8,
      rowBytes: rowBytes ? wholeNumber(rowBytes(root), 'bytes of a row') : null,
      isUp: rows ? isUp(rows(root)) : result.rows === 'up',
      order:
        tile || result.morton
          ? {
              tile: tile ? { width: tile.width(root), height: tile.height(root) } : null,
              isMorton: result.morton ?? false,
            }
          : null,
      swizzle: result.swizzle ?? null,
    };
    if (layout.palette && ![1, 2, 4, 8].includes(layout.indexBits))
      throw new SheetError(`numbers of a palette have 1, 2, 4 or 8 bits, and here ${layout.indexBits}`);
    return pictureOf(size, counts, layout, bytesOf(pixels(root)), result);
  };
}

/** A name, or what says one: `bc7` is a name unless there is a field of that name. */
function compileName(expression: PictureResult['format']): (root: Struct) => string {
  if (typeof expression === 'string' && Object.hasOwn(texels, expression)) return () => expression;
  const compute: Compute = compileExpression(expression);
  return (root) => {
    const value = compute(root);
    if (typeof value === 'string') return value;
    throw new SheetError(`a pixel format is a name, and here it is ${shown(value)}`);
  };
}

function texelsOf(name: string): Texels {
  const found = Object.hasOwn(texels, name) ? texels[name as keyof typeof texels] : undefined;
  if (!found) throw new SheetError(`there is no pixel format ${name}: there are ${pixelFormats.join(', ')}`);
  return found;
}

function isUp(value: Value): boolean {
  if (value === 'up' || value === 'down') return value === 'up';
  if (typeof value === 'boolean') return value;
  throw new SheetError(`rows go “up” or “down”, and here ${shown(value)}`);
}

/** Null where there are no colours: the pixels are colours themselves. */
function paletteOf(colours: Value, formatOf: () => string): Uint8Array | null {
  if (colours === null) return null;
  const bytes = bytesOf(colours);
  const format = formatOf();
  const layout = texelsOf(format);
  const each = layout.bytesOf(1, 1);
  const count = Math.floor(bytes.length / each);
  const data = layout.unpack(bytes.subarray(0, count * each), count, 1);
  if (!(data instanceof Uint8Array)) throw new SheetError(`colours of a palette cannot be ${format}`);
  return data;
}

interface Counts {
  levels: number;
  layers: number;
  faces: number;
  frames: number;
}

function pictureOf(
  { width, height }: { width: number; height: number },
  counts: Counts,
  layout: Layout,
  bytes: Uint8Array,
  { order, colours }: PictureResult,
): Picture {
  const sizeAt = (level: number): number =>
    imageBytes(layout, levelSize(width, level), levelSize(height, level));
  const images = counts.layers * counts.faces * counts.frames;
  const placeOf = (image: number, level: number): number => {
    let at = 0;
    if (order === 'layers') {
      for (let each = 0; each < counts.levels; each++) at += sizeAt(each) * image;
      for (let each = 0; each < level; each++) at += sizeAt(each);
    } else {
      for (let each = 0; each < level; each++) at += sizeAt(each) * images;
      at += sizeAt(level) * image;
    }
    return at;
  };
  const last = placeOf(images - 1, counts.levels - 1) + sizeAt(counts.levels - 1);
  if (last > bytes.length)
    throw new SheetError(
      `its pixels need ${last.toLocaleString('en')} bytes, and there are ${bytes.length.toLocaleString('en')}`,
    );
  const { palette, texels: kind } = layout;
  const hasAlpha = palette
    ? palette.some((value, at) => at % 4 === 3 && value < 255)
    : layout.swizzle
      ? layout.swizzle[3] !== '1' && (kind.hasAlpha || layout.swizzle[3] !== 'a')
      : kind.hasAlpha;
  return {
    ...{ width, height, depth: 1, ...counts, hasAlpha, colourSpace: colours },
    channels: palette ? (hasAlpha ? 4 : 3) : layout.swizzle ? (hasAlpha ? 4 : 3) : kind.channels,
    bitsPerChannel: palette ? 8 : kind.bitsPerChannel,
    encoding: palette ? `palette, ${layout.indexBits} bits` : kind.encoding,

    image: async ({ level = 0, layer = 0, face = 0, frame = 0 } = {}) => {
      const size = { width: levelSize(width, level), height: levelSize(height, level) };
      const at = placeOf((frame * counts.layers + layer) * counts.faces + face, level);
      const part = bytes.subarray(at, at + sizeAt(level));
      return imageOf(part, size.width, size.height, layout);
    },
  };
}

function imageBytes(
  { texels: kind, palette, indexBits, rowBytes }: Layout,
  width: number,
  height: number,
): number {
  if (rowBytes !== null) return rowBytes * height;
  return palette ? Math.ceil((width * indexBits) / 8) * height : kind.bytesOf(width, height);
}

function imageOf(bytes: Uint8Array, width: number, height: number, layout: Layout): Pixels {
  const { format, order, palette, indexBits, rowBytes, texels: kind } = layout;
  const block = blockBytes[format];
  let packed = bytes;
  if (rowBytes !== null && !palette && block === undefined)
    packed = rowsOf(packed, rowBytes, kind.bytesOf(width, 1), height);
  if (order)
    packed = block
      ? ordered(packed, Math.ceil(width / 4), Math.ceil(height / 4), block, order)
      : ordered(packed, width, height, palette ? 1 : kind.bytesOf(1, 1), order);
  let data: Pixels['data'];
  if (palette) {
    const indices = indicesOf(packed, width, height, indexBits, rowBytes);
    const colours = new Uint32Array(256);
    new Uint8Array(colours.buffer).set(palette.subarray(0, 1024));
    const pixels = new Uint32Array(indices.length);
    for (let at = 0; at < indices.length; at++) pixels[at] = colours[indices[at] as number] as number;
    data = new Uint8Array(pixels.buffer);
  } else data = kind.unpack(packed, width, height);
  if (layout.isUp) flip(data, width * 4, height);
  if (layout.swizzle) swizzle(data, layout.swizzle);
  return { width, height, data };
}

/** The last row first, in place. */
function flip(data: Pixels['data'], rowValues: number, height: number): void {
  const row = data.slice(0, rowValues);
  for (let low = 0, high = height - 1; low < high; low++, high--) {
    row.set(data.subarray(low * rowValues, (low + 1) * rowValues));
    data.copyWithin(low * rowValues, high * rowValues, (high + 1) * rowValues);
    data.set(row, high * rowValues);
  }
}

function swizzle(data: Pixels['data'], order: string): void {
  const whole = data instanceof Float32Array ? 1 : data instanceof Uint8Array ? 255 : 65_535;
  const from = [...order].map((letter) => 'rgba'.indexOf(letter));
  const constants = [...order].map((letter) => (letter === '1' ? whole : 0));
  const pixel = [0, 0, 0, 0];
  for (let at = 0; at < data.length; at += 4) {
    for (let channel = 0; channel < 4; channel++) {
      const place = from[channel] as number;
      pixel[channel] = place < 0 ? (constants[channel] as number) : (data[at + place] as number);
    }
    data.set(pixel, at);
  }
}
