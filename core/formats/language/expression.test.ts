import { expect } from 'chai';
import { fieldsOf, sheetWith } from '../../../tests/support/by-sheet.ts';
import { failureOf } from '../../../tests/support/failure.ts';
import { isNumbers, List, type Value } from './values.ts';

/** @param root fields that the expression sees */
const valueOf = async (
  expression: string,
  root = '_: skip(0)',
  data: Uint8Array = new Uint8Array(0),
): Promise<Value> =>
  (await fieldsOf(sheetWith(`${root}\nfound: { value: ${JSON.stringify(expression)} }`), data)).found ?? null;
const numbers = (value: Value): number[] => {
  if (!isNumbers(value)) throw new Error('no numbers');
  return Array.from(value, Number);
};

describe('Expressions of sheets', () => {
  it('reckon with whole numbers that do not turn over', async () => {
    const cases: [string, Value][] = [
      ['1 + 2 * 3', 7],
      ['0xFFFFFFFF & 0xFF00', 0xff00],
      ['0xF0000000 | 1', 0xf0000001],
      ['1 << 40', 2 ** 40],
      ['0xFFFFFFFF >> 28', 15],
      ['-7 % 4', 1],
      ['7 / 2', 3.5],
      ['~0', -1],
      ['5 ^ 1', 4],
      ['0b101', 5],
      ["'0x10' == '0x10'", true],
      ['3 == 3 && 2 < 1 || 1', 1],
      ["'a' + 1", 'a1'],
      ["'2' == 2", false],
      ['1 > 0 ? little : big', 'little'],
      ['align(13, 4)', 16],
      ['signed(255, 8)', -1],
      ['min(3, 1, 2)', 1],
      ["number('0000644 ', 8)", 420],
      ["hex(255, 4) + upper('a')", '00ffA'],
      ["replace('a/b/c', '/', '.')", 'a.b.c'],
      ['fileSize', 0],
    ];
    for (const [expression, value] of cases) expect(await valueOf(expression), expression).to.equal(value);
  });

  it('see fields, those around, and columns of lists', async () => {
    const root = 'n: u8\nrows: row[n]\nlist: u16[2]';
    const types = 'types:\n  row: { a: u8, at: { value: "n + index" } }';
    const sheet = (value: string) => sheetWith(`${root}\nfound: { value: ${JSON.stringify(value)} }`, types);
    const data = Buffer.from([2, 7, 9, 1, 0, 2, 0]);
    const found = async (value: string): Promise<Value> => (await fieldsOf(sheet(value), data)).found ?? null;
    expect(numbers(await found('rows.a'))).to.deep.equal([7, 9]);
    expect(numbers(await found('rows.at * 10 + list'))).to.deep.equal([21, 32]);
    expect(await found('rows[1].a + list[0] + count(rows) + root.n')).to.equal(14);
    expect(await found('rows.length')).to.equal(2);
    expect(numbers(await found('cumulative(list)'))).to.deep.equal([0, 1]);
    expect(numbers(await found('zip(rows.a, list)'))).to.deep.equal([7, 1, 9, 2]);
    expect(numbers(await found('every(zip(rows.a, list), 2, 1)'))).to.deep.equal([1, 2]);
    expect(numbers(await found('at(list, 1, [1][0] == 1 ? range(2) : list)'))).to.deep.equal([1, 2]);
    expect(await found("find(rows, 'a', 9).at")).to.equal(3);
    expect((await failureOf(found('rows[2]'))).message).to.equal('there is no number 2 in a list of 2');
    expect((await failureOf(found('rows.b'))).message).to.equal('there is no field b in what it is asked of');
    expect((await failureOf(found('nothing'))).message).to.equal('there is no field nothing here');
    expect((await failureOf(found('1 / (n - 2)'))).message).to.equal('something is divided by 0');
  });

  it('keep integers of 64 bits exact', async () => {
    const data = Buffer.alloc(16);
    data.writeBigUInt64LE(0xcbf29ce484222325n);
    data.writeBigUInt64LE(5n, 8);
    const root = 'hash: u64\nsmall: u64';
    expect(await valueOf("hash == fnv1a64('')", root, data)).to.equal(true);
    expect(await valueOf('(hash & 0xFF) + small', root, data)).to.equal(0x2a);
    expect(await valueOf('hex(hash)', root, data)).to.equal('cbf29ce484222325');
    expect(await valueOf('small / 2', root, data)).to.equal(2.5);
  });

  it('know check sums by their published values', async () => {
    // FNV-1a of “foobar” (draft-eastlake-fnv, appendix C); Adler-32 of “Wikipedia” is a widely told example, here from zlib’s formula by hand.
    expect(await valueOf("fnv1a32('foobar')")).to.equal(0xbf9cf968);
    expect(await valueOf("fnv1a64('foobar') == fnv1a64('foobaz')")).to.equal(false);
    expect(await valueOf("adler32('Wikipedia')")).to.equal(0x11e60398);
    expect(await valueOf("crc32('123456789')")).to.equal(0xcbf43926);
    expect(await valueOf("sum('ab')")).to.equal(195);
  });

  it('unpack normals and quaternions', async () => {
    const data = Buffer.alloc(16);
    const floats = async (expression: string, root: string): Promise<number[]> =>
      numbers(await valueOf(expression, root, data));
    data.writeInt8(127, 0);
    data.writeInt8(0, 1);
    expect(
      (await floats('octahedral(n / 127)', 'n: i8[2]')).map((value) => Math.round(value * 1000)),
    ).to.deep.equal([1000, 0, 0]);
    data.writeInt8(-64, 0);
    data.writeInt8(-127, 1);
    const [x = 0, y = 0, z = 0] = await floats('octahedral(n / 127)', 'n: i8[2]');
    expect(Math.hypot(x, y, z)).to.be.closeTo(1, 1e-12);
    expect(z).to.be.below(0);
    // No turn at all: w is the largest, the other three are in the middle of their range.
    data.writeUInt32LE((3 * 2 ** 30 + 511 * 2 ** 20 + 511 * 2 ** 10 + 511) >>> 0);
    const turn = await floats('smallestThree(q, 10)', 'q: u32[1]');
    expect(turn[3]).to.be.closeTo(1, 0.001);
    expect(Math.hypot(...turn)).to.be.closeTo(1, 1e-9);
    // A quarter turn about X as EXT_meshopt_compression’s filter writes it: the largest is w (3), one is 0x7FFF with 3 in its last bits.
    data.writeInt16LE(32_767, 0);
    data.writeInt16LE(0, 2);
    data.writeInt16LE(0, 4);
    data.writeInt16LE(32_767, 6);
    const quarter = await floats('smallestFour(q)', 'q: i16[4]');
    expect(quarter[0]).to.be.closeTo(Math.SQRT1_2, 1e-4);
    expect(quarter[3]).to.be.closeTo(Math.SQRT1_2, 1e-4);
    expect(await floats('quaternionOfThree([0][0] + v, -1)', 'v: i8[3]').catch(() => [])).to.be.an('array');
  });

  it('reach nothing but what a sheet may see', async () => {
    for (const expression of [
      'constructor',
      '__proto__',
      'toString',
      'this',
      'item.constructor',
      "root['constructor']",
      "root['__proto__']",
      'size.constructor',
      'globalThis',
    ])
      expect((await failureOf(valueOf(expression))).message, expression).to.match(
        /there is no|cannot be used/,
      );
    expect(await valueOf('[1, 2]')).to.be.instanceOf(List);
    for (const expression of ['a = 1', 'x => 1', '1; 2', 'new x', 'size()', 'size(1, 2)', 'eval(1)'])
      expect(() => sheetWith(`a: { value: ${JSON.stringify(expression)} }`), expression).to.throw();
  });
});
