import { floatOfHalf } from '../../kinds/picture/half-float.ts';

export type NumberArray =
  | Uint8Array
  | Int8Array
  | Uint16Array
  | Int16Array
  | Uint32Array
  | Int32Array
  | Float32Array
  | Float64Array
  | BigUint64Array
  | BigInt64Array;

interface Scalar {
  bytes: number;
  read: (view: DataView, at: number, isLittle: boolean) => number;
  /** Of arrays of it. */
  array: new (length: number) => NumberArray;
  /** Its bytes are those of its array, where the machine and the file have one byte order. */
  isNative: boolean;
}

type Read = Scalar['read'];

/** A number whose bytes are those of its array. */
function native(bytes: number, array: Scalar['array'], read: Read): Scalar {
  return { bytes, array, read, isNative: true };
}

function other(bytes: number, array: Scalar['array'], read: Read): Scalar {
  return { bytes, array, read, isNative: false };
}

/** Numbers that a field can be. Integers of 64 bits are exact to 2^53; beyond, `wideValue` has them. */
export const scalars = {
  u8: native(1, Uint8Array, (view, at) => view.getUint8(at)),
  i8: native(1, Int8Array, (view, at) => view.getInt8(at)),
  u16: native(2, Uint16Array, (view, at, isLittle) => view.getUint16(at, isLittle)),
  i16: native(2, Int16Array, (view, at, isLittle) => view.getInt16(at, isLittle)),
  u24: other(3, Uint32Array, readU24),
  i24: other(3, Int32Array, (view, at, isLittle) => (readU24(view, at, isLittle) << 8) >> 8),
  u32: native(4, Uint32Array, (view, at, isLittle) => view.getUint32(at, isLittle)),
  i32: native(4, Int32Array, (view, at, isLittle) => view.getInt32(at, isLittle)),
  u64: native(8, BigUint64Array, (view, at, isLittle) => Number(view.getBigUint64(at, isLittle))),
  i64: native(8, BigInt64Array, (view, at, isLittle) => Number(view.getBigInt64(at, isLittle))),
  f16: other(2, Float32Array, (view, at, isLittle) => floatOfHalf(view.getUint16(at, isLittle))),
  f32: native(4, Float32Array, (view, at, isLittle) => view.getFloat32(at, isLittle)),
  f64: native(8, Float64Array, (view, at, isLittle) => view.getFloat64(at, isLittle)),
};

export type ScalarName = keyof typeof scalars;

export function isScalar(name: string): name is ScalarName {
  return Object.hasOwn(scalars, name);
}

function readU24(view: DataView, at: number, isLittle: boolean): number {
  return isLittle
    ? view.getUint16(at, true) | (view.getUint8(at + 2) << 16)
    : (view.getUint16(at) << 8) | view.getUint8(at + 2);
}

/** A number, or a BigInt where a number would not be exact. */
export function wideValue(name: ScalarName, view: DataView, at: number, isLittle: boolean): number | bigint {
  const value = scalars[name].read(view, at, isLittle);
  if ((name !== 'u64' && name !== 'i64') || Number.isSafeInteger(value)) return value;
  return name === 'u64' ? view.getBigUint64(at, isLittle) : view.getBigInt64(at, isLittle);
}

const isLittleMachine = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1;

/**
 * Numbers that lie one after the other, or one to each row of so many bytes.
 * @param width numbers to a row
 * @param stride bytes from a row to the next
 * @returns a copy: `rows * width` numbers
 */
export function numbersAt(
  name: ScalarName,
  bytes: Uint8Array,
  at: number,
  rows: number,
  isLittle: boolean,
  width = 1,
  stride = scalars[name].bytes * width,
): NumberArray {
  const scalar = scalars[name];
  const { bytes: size, isNative } = scalar;
  const count = rows * width;
  const numbers = new scalar.array(count);
  // Where there are none, nothing may lie where they would begin.
  if (count === 0) return numbers;
  const isPlain = isNative && (size === 1 || isLittle === isLittleMachine);
  const begin = bytes.byteOffset + at;
  if (isNative && stride === size * width) {
    new Uint8Array(numbers.buffer).set(bytes.subarray(at, at + count * size));
    if (!isPlain) swapBytes(new Uint8Array(numbers.buffer), size);
  } else if (isPlain && begin % size === 0 && stride % size === 0) {
    const Numbers = scalar.array as unknown as new (
      buffer: ArrayBufferLike,
      at: number,
      length: number,
    ) => Float64Array;
    const all = new Numbers(bytes.buffer, begin, ((rows - 1) * stride) / size + width);
    const into = numbers as Float64Array;
    const step = stride / size;
    for (let row = 0, from = 0, to = 0; row < rows; row++, from += step)
      for (let part = 0; part < width; part++) into[to++] = all[from + part] as number;
  } else {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (numbers instanceof BigUint64Array || numbers instanceof BigInt64Array)
      for (let row = 0, to = 0; row < rows; row++)
        for (let part = 0; part < width; part++)
          numbers[to++] = view.getBigUint64(at + row * stride + part * size, isLittle);
    else {
      const { read } = scalar;
      for (let row = 0, to = 0; row < rows; row++)
        for (let part = 0; part < width; part++)
          numbers[to++] = read(view, at + row * stride + part * size, isLittle);
    }
  }
  return numbers;
}

/** Turns the order of the bytes of each number, in place. @param size bytes of a number; what is left over stays */
export function swapBytes(bytes: Uint8Array, size: number): void {
  for (let at = 0; at + size <= bytes.length; at += size)
    for (let low = at, high = at + size - 1; low < high; low++, high--) {
      const kept = bytes[low] as number;
      bytes[low] = bytes[high] as number;
      bytes[high] = kept;
    }
}
