import { SheetError } from '../language/sheet-error.ts';

/** How pixels, or blocks of pixels, lie that do not lie row by row. */
export interface Order {
  tile: { width: number; height: number } | null;
  isMorton: boolean;
}

/** Rows that are longer than their pixels, without what they are filled up with. @throws SheetError */
export function rowsOf(bytes: Uint8Array, stride: number, rowBytes: number, rows: number): Uint8Array {
  if (stride < rowBytes)
    throw new SheetError(`a row has ${stride} bytes, and its pixels alone have ${rowBytes}`);
  if (stride === rowBytes) return bytes;
  const packed = new Uint8Array(rowBytes * rows);
  for (let row = 0; row < rows; row++)
    packed.set(bytes.subarray(row * stride, row * stride + rowBytes), row * rowBytes);
  return packed;
}

/** Numbers of a palette, one byte to a pixel; the highest bits of a byte are the first pixel. Rows begin at whole bytes. */
export function indicesOf(
  bytes: Uint8Array,
  width: number,
  height: number,
  bits: number,
  rowBytes: number | null,
): Uint8Array {
  const stride = rowBytes ?? Math.ceil((width * bits) / 8);
  if (stride * 8 < width * bits)
    throw new SheetError(
      `a row has ${stride} bytes, and its pixels alone have ${Math.ceil((width * bits) / 8)}`,
    );
  if (bits === 8) return rowsOf(bytes, stride, width, height);
  const indices = new Uint8Array(width * height);
  const most = 2 ** bits - 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = x * bits;
      indices[y * width + x] = ((bytes[y * stride + (bit >> 3)] ?? 0) >> (8 - bits - (bit & 7))) & most;
    }
  return indices;
}

/**
 * Things of one size in rows that lie tile by tile, or along a Z curve (Morton, A Computer Oriented Geodetic Data Base, IBM 1966: bits
 * of x and y turn by turn, x the lower; the longer side goes on by itself where they differ).
 * @returns row by row @throws SheetError
 */
export function ordered(
  bytes: Uint8Array,
  columns: number,
  rows: number,
  itemBytes: number,
  { tile, isMorton }: Order,
): Uint8Array {
  const width = tile?.width ?? columns;
  const height = tile?.height ?? rows;
  if (width < 1 || height < 1 || width > 65_536 || height > 65_536)
    throw new SheetError(`a tile of ${width} x ${height} cannot be`);
  if (isMorton && (!isPowerOfTwo(width) || !isPowerOfTwo(height)))
    throw new SheetError(
      `a Z curve goes through sides that are powers of 2, and these are ${width} x ${height}`,
    );
  const inTile = isMorton ? mortonOf(width, height) : null;
  const across = Math.ceil(columns / width);
  const tileItems = width * height;
  const result = new Uint8Array(columns * rows * itemBytes);
  for (let y = 0, to = 0; y < rows; y++)
    for (let x = 0; x < columns; x++, to += itemBytes) {
      const tileNumber = Math.floor(y / height) * across + Math.floor(x / width);
      const place = (y % height) * width + (x % width);
      const from = (tileNumber * tileItems + (inTile ? (inTile[place] as number) : place)) * itemBytes;
      // At the edges tiles may be cut short.
      if (from + itemBytes > bytes.length) continue;
      for (let part = 0; part < itemBytes; part++) result[to + part] = bytes[from + part] as number;
    }
  return result;
}

function isPowerOfTwo(value: number): boolean {
  return (value & (value - 1)) === 0;
}

function mortonOf(width: number, height: number): Uint32Array {
  const order = new Uint32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let [place, bit] = [0, 0];
      for (let shift = 0; 1 << shift < width || 1 << shift < height; shift++) {
        if (1 << shift < width) place |= ((x >> shift) & 1) << bit++;
        if (1 << shift < height) place |= ((y >> shift) & 1) << bit++;
      }
      order[y * width + x] = place;
    }
  return order;
}
