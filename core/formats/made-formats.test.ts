import { expect } from 'chai';
import { deflateSync } from 'node:zlib';
import { seeded } from '../../demo/seeded.ts';
import { fieldsOf, sheetOf } from '../../tests/support/by-sheet.ts';
import { columnOf, isNumbers, List, Rows, Struct, type Value } from './language/values.ts';
import { usualLimits } from './language/budget.ts';
import { Budget } from './language/budget.ts';

type Scalar = 'u8' | 'i8' | 'u16' | 'i16' | 'u32' | 'i32' | 'f32' | 'f64';
const sizes: Record<Scalar, number> = { u8: 1, i8: 1, u16: 2, i16: 2, u32: 4, i32: 4, f32: 4, f64: 8 };
const scalars = Object.keys(sizes) as Scalar[];
type Setter =
  'setUint8' | 'setInt8' | 'setUint16' | 'setInt16' | 'setUint32' | 'setInt32' | 'setFloat32' | 'setFloat64';
const setters: Record<Scalar, Setter> = {
  ...{ u8: 'setUint8', i8: 'setInt8', u16: 'setUint16', i16: 'setInt16' },
  ...{ u32: 'setUint32', i32: 'setInt32', f32: 'setFloat32', f64: 'setFloat64' },
};

/** A format that somebody might have invented, a file of it, and what lies in that. */
interface MadeFormat {
  sheet: string;
  file: Buffer;
  names: string[];
  /** Columns of the rows, by name. */
  columns: Record<string, number[]>;
}

/** Invents a format by a seed: byte order, header, strides with gaps, names, a table of offsets, a packing. */
function madeFormat(seed: number): MadeFormat {
  const random = seeded(seed);
  const below = (most: number): number => Math.floor(random() * most);
  const isLittle = random() < 0.6;
  const put = (buffer: Buffer, type: Scalar, at: number, value: number): void => {
    const view = new DataView(buffer.buffer, buffer.byteOffset, buffer.byteLength);
    view[setters[type]](at, value, isLittle);
  };
  const number = (type: Scalar, value: number): Buffer => {
    const buffer = Buffer.alloc(sizes[type]);
    put(buffer, type, 0, value);
    return buffer;
  };
  const valueOf = (type: Scalar): number => {
    if (type === 'f32') return Math.fround(random() * 2000 - 1000);
    if (type === 'f64') return random() * 1e6;
    const bits = sizes[type] * 8;
    return type.startsWith('u') ? below(2 ** bits) : below(2 ** bits) - 2 ** (bits - 1);
  };

  // Rows: columns with a gap at their end now and then.
  const count = below(40);
  const types = Array.from({ length: 1 + below(6) }, () => scalars[below(scalars.length)] ?? 'u8');
  const gap = random() < 0.4 ? 1 + below(7) : 0;
  const stride = types.reduce((sum, type) => sum + sizes[type], 0) + gap;
  const columns: Record<string, number[]> = Object.fromEntries(types.map((_, at) => [`c${at}`, []]));
  const rows = Buffer.alloc(stride * count, 0xcd);
  for (let row = 0; row < count; row++) {
    let at = row * stride;
    types.forEach((type, column) => {
      const value = valueOf(type);
      put(rows, type, at, value);
      columns[`c${column}`]?.push(value);
      at += sizes[type];
    });
  }
  const rowType = `{ ${types.map((type, at) => `c${at}: ${type}`).join(', ')}${gap > 0 ? `, _gap: bytes(${gap})` : ''} }`;

  // Names: of one size, with a 0 at the end, with their length before, or found by offsets.
  const names = Array.from({ length: below(12) }, (_, at) => `name_${at}_${'x'.repeat(below(9))}`);
  const way = below(4);
  const sized = 24;
  const nameBytes = {
    0: () => Buffer.concat(names.map((name) => Buffer.from(name.padEnd(sized, '\0')))),
    1: () => Buffer.concat(names.map((name) => Buffer.from(`${name}\0`))),
    2: () =>
      Buffer.concat(names.map((name) => Buffer.concat([number('u16', name.length), Buffer.from(name)]))),
    3: () => Buffer.alloc(0),
  }[way as 0 | 1 | 2 | 3]();
  const nameType = [`string(${sized})`, 'string', 'string(u16)', ''][way] ?? '';

  // The rows as they lie in the file.
  const packing = below(6);
  const key = [3, 250, 77];
  const packed =
    [
      () => rows,
      () => deflateSync(rows),
      () => rows.map((byte, at) => byte ^ (key[at % key.length] ?? 0)),
      () => rows.map((byte, at) => byte - (rows[at - 1] ?? 0)),
      () => deflateSync(rows.map((byte) => byte ^ 0x5a)),
      () =>
        Buffer.from(
          Array.from({ length: stride }, (_, plane) =>
            rows.filter((_byte, at) => at % stride === plane),
          ).flatMap((plane) => [...plane]),
        ),
    ][packing]?.() ?? rows;
  const steps =
    [
      '',
      'zlib',
      `{ xor: { key: [${key.join(', ')}] } }`,
      'delta',
      'zlib, { xor: { key: 0x5a } }',
      stride > 1 ? `{ planes: { bytes: ${stride} } }` : '',
    ][packing] ?? '';

  // The header: a mark, a filler, counts in some order, and where things lie.
  const mark = Array.from({ length: 2 + below(3) }, () => String.fromCharCode(65 + below(26))).join('');
  const filler = below(9);
  const isByOffset = way === 3 || random() < 0.5;
  const headBytes = mark.length + filler + 4 + 2 + 4 + 4;
  const lead = below(16);
  const strings = Buffer.concat(names.map((name) => Buffer.from(`${name}\0`)));
  const offsets = Buffer.alloc(4 * names.length);
  const rowsAt = headBytes + lead;
  const namesAt = rowsAt + packed.length;
  let text = namesAt + (way === 3 ? offsets.length : 0);
  names.forEach((name, at) => {
    put(offsets, 'u32', at * 4, text);
    text += name.length + 1;
  });
  const nameArea = way === 3 ? Buffer.concat([offsets, strings]) : nameBytes;
  const file = Buffer.concat([
    Buffer.from(mark),
    Buffer.alloc(filler, 0xee),
    number('u32', count),
    number('u16', names.length),
    number('u32', packed.length),
    number('u32', isByOffset ? rowsAt : 0),
    Buffer.alloc(lead, 0x11),
    packed,
    nameArea,
  ]);
  const unpack = steps === '' ? '' : `, unpack: [${steps}]`;
  const rowsField = `{ type: bytes(packedSize)${isByOffset ? ', at: rowsAt' : ''}${unpack}, as: 'row[count]' }`;
  const nameField =
    way === 3
      ? `{ type: 'name[nameCount]'${isByOffset ? ', at: rowsAt + packedSize' : ''} }`
      : `{ type: '${nameType}[nameCount]'${isByOffset ? ', at: rowsAt + packedSize' : ''} }`;
  const sheet = `sheet: Made ${seed}
language: 1
files: '*'
endian: ${isLittle ? 'little' : 'big'}
types:
  row: ${rowType}
  name: { place: u32, text: { type: string, at: place } }
root:
  mark: { is: ${mark} }
  _filler: bytes(${filler})
  count: u32
  nameCount: u16
  packedSize: u32
  rowsAt: u32
${isByOffset ? '' : `  _lead: bytes(${lead})\n`}  rows: ${unpack === '' ? `{ type: 'row[count]'${isByOffset ? ', at: rowsAt' : ''} }` : rowsField}
  names: ${nameField}
`;
  return { sheet, file, names, columns };
}

const budget = new Budget(usualLimits);

function column(rows: Value | undefined, name: string): number[] {
  const value =
    rows instanceof Rows ? rows.column(name) : rows instanceof List ? columnOf(rows, name, budget) : null;
  return isNumbers(value ?? undefined) ? Array.from(value as Float64Array, Number) : [];
}

function texts(list: Value | undefined): string[] {
  if (!(list instanceof List)) return [];
  return list.items.map((item) => {
    const text = item instanceof Struct ? item.values.text : item;
    return typeof text === 'string' ? text : '';
  });
}

/** Two hundred formats that nobody has: each is read back by its sheet as it was written. */
describe('Formats that a generator invents', () => {
  it('are read back exactly, whatever their byte order, strides, names, offsets and packings', async () => {
    for (let seed = 1; seed <= 200; seed++) {
      const { sheet, file, names, columns } = madeFormat(seed);
      const values = await fieldsOf(sheetOf(sheet), file).catch((error: unknown) => {
        throw new Error(
          `format ${seed}: ${error instanceof Error ? error.message : String(error)}\n${sheet}`,
        );
      });
      for (const [name, numbers] of Object.entries(columns)) {
        const found = column(values.rows, name);
        expect(found.length === 0 ? [] : found, `format ${seed}, ${name}\n${sheet}`).to.deep.equal(numbers);
      }
      if (names.length > 0) expect(texts(values.names), `format ${seed}`).to.deep.equal(names);
    }
  });
});
