import { expect } from 'chai';
import { fieldsOf, sheetOf, sheetWith } from '../../../tests/support/by-sheet.ts';
import { failureOf } from '../../../tests/support/failure.ts';
import { List, Rows, Struct } from './values.ts';

const bytes = (text: string): Uint8Array => Buffer.from(text.replaceAll(' ', ''), 'hex');
const messageOf = async (...given: Parameters<typeof fieldsOf>): Promise<string> =>
  (await failureOf(fieldsOf(...given))).message;

describe('Fields of a binary sheet', () => {
  it('are integers, floats and fixed point in either byte order', async () => {
    const sheet = sheetWith(`a: u8
b: i8
c: u16
d: i16be
e: u24
f: i24be
g: u32be
h: i32
i: f16
j: f32
k: f64be
l: fixed(16, 16)
m: ufixed(4, 4)
n: u64
o: i64be`);
    const values = await fieldsOf(
      sheet,
      bytes(
        '01 ff 0102 fffe 010203 fffffe 00000102 feffffff 003c 0000c03f 400921fb54442d18 00800100 18 0100000000000080 fffffffffffffffe',
      ),
    );
    expect(values).to.deep.include({ a: 1, b: -1, c: 513, d: -2, e: 197_121, f: -2, g: 258, h: -2, i: 1 });
    expect(values).to.deep.include({ j: 1.5, k: Math.PI, l: 1.5, m: 1.5, n: 2n ** 63n + 1n, o: -2 });
  });

  it('are numbers of a variable size, texts and bytes', async () => {
    const sheet = sheetWith(`a: varint
b: zigzag
c: string
d: string(4)
e: string(u16)
f: { type: string, encoding: utf-16le }
g: bytes(2)
h: skip(1)
rest: bytes`);
    // 300 as LEB128 is AC 02: DWARF 5, figure in section 7.6 has 127, 128 and 12857.
    const values = await fieldsOf(
      sheet,
      bytes('b964 03 6162 00 61620000 0200 6364 6500 6600 0000 0102 00 0405'),
    );
    expect(values).to.include({ a: 12_857, b: -2, c: 'ab', d: 'ab', e: 'cd', f: 'ef' });
    expect([...(values.rest as Uint8Array)]).to.deep.equal([4, 5]);
  });

  it('have bits, names of numbers, and constants that must match', async () => {
    const sheet = sheetWith(`mark: { is: RT }
flags: { type: u16, bits: { low: 3, signed: -5, high: 8 } }
kind: { type: u8, values: { '0': none, '2': heron } }
two: { type: u16, is: 2 }
size: { type: u16, equals: fileSize }
sum: { type: u32, equals: "crc32(bytes(0, 9))" }`);
    const head = Buffer.concat([Buffer.from('RT'), bytes('fdff 02 0200 0d00')]);
    const sum = Buffer.alloc(4);
    // CRC-32 of “123456789” is CBF43926: the check value of the catalogue of parametrised CRC algorithms.
    const { crc32 } = await import('./check-sums.ts');
    expect(crc32(Buffer.from('123456789'))).to.equal(0xcbf43926);
    sum.writeUInt32LE(crc32(head));
    const values = await fieldsOf(sheet, Buffer.concat([head, sum]));
    expect((values.flags as Struct).values).to.deep.equal({ low: 5, signed: -1, high: 255 });
    expect(values).to.include({ kind: 'heron', two: 2, size: 13 });
    expect(await messageOf(sheet, Buffer.concat([head, bytes('00000000')]))).to.match(
      /^it is 0, and must be [\d,]+$/,
    );
    expect(await messageOf(sheet, Buffer.from('PK'))).to.equal('it is “PK”, and must be “RT”');
  });

  it('are structures in structures, repeated by a count, to the end, or until something is true', async () => {
    const sheet = sheetWith(
      `count: u8
points: point[count]
chain: { type: link, until: next == 0 }
words: { type: string, until: "item == ''", keepLast: false }
rest: { type: pair, count: 2 }
tail: u16[end]`,
      `types:
  point: { x: i8, y: i8, tags: 'u8[2]' }
  link: { value: u8, next: u8 }
  pair: { of: varint, at: { value: index } }`,
    );
    const values = await fieldsOf(
      sheet,
      bytes('02 01ff0102 02fe0304 0901 0800 6100 6263 00 00 05 8001 0100 0200'),
    );
    const points = values.points as Rows;
    expect(points).to.be.instanceOf(Rows);
    expect([...(points.column('x') as Int8Array)]).to.deep.equal([1, 2]);
    expect([...(points.column('tags') as Uint8Array)]).to.deep.equal([1, 2, 3, 4]);
    expect(points.row(1).values).to.deep.include({ x: 2, y: -2 });
    expect((values.chain as List).items).to.have.length(2);
    expect((values.words as List).items).to.deep.equal(['a', 'bc']);
    expect((values.rest as List).items.map((item) => (item as Struct).values)).to.deep.equal([
      { of: 5, at: 0 },
      { of: 128, at: 1 },
    ]);
    expect([...(values.tail as Uint16Array)]).to.deep.equal([1, 2]);
  });

  it('lie anywhere: at offsets, aligned, within a size, in other bytes', async () => {
    const sheet = sheetWith(
      `offset: u8
name: { type: string, at: offset }
_a: u8
aligned: { type: u16, align: 4 }
box: { size: 4, fields: { a: u8, rest: bytes } }
after: u8
inner: { type: point, in: box.rest }
far: { type: entry, count: 2 }`,
      `types:
  point: { x: u8, y: u8 }
  entry: { place: u8, text: { type: string(2), at: place } }`,
    );
    const data = bytes('10 00 0000 0201 01020304 09 10 12 00 00 00 6162 6300');
    const values = await fieldsOf(sheet, data);
    expect(values).to.include({ name: 'abc', aligned: 258, after: 9 });
    expect((values.inner as Struct).values).to.deep.equal({ x: 2, y: 3 });
    expect((values.far as List).items.map((item) => (item as Struct).values.text)).to.deep.equal(['ab', 'c']);
  });

  it('are there or not, by conditions, cases and versions', async () => {
    const sheet = sheetWith(
      `kind: u8
extra: { type: u8, if: kind == 1 }
added: { type: u8, since: '2' }
old: { type: u8, before: '3' }
body: { switch: kind, cases: { '1': u8, '2': u16 }, else: u32 }
order: { type: string(2) }
number: { type: u16, endian: "order == 'MM' ? big : little" }`,
      `versions: ['1', '2', '3']`,
    );
    const one = await fieldsOf(sheet, bytes('01 05 06 07 4d4d 0102'), { version: '1' });
    expect(one).to.deep.include({ extra: 5, old: 6, body: 7, number: 258 });
    expect(one).not.to.have.property('added');
    const three = await fieldsOf(sheet, bytes('02 06 0700 4949 0102'), { version: '3' });
    expect(three).to.deep.include({ extra: null, added: 6, body: 7, number: 513 });
    expect(three).not.to.have.property('old');
  });

  it('of a byte order that a field chooses hold for all that is in them', async () => {
    const sheet = sheetWith(
      `mark: string(2)
body: { endian: "mark == 'MM' ? big : little", fields: { n: u16, list: 'pair[1]', sure: u16le } }`,
      `types:
  pair: { a: u16, b: u32 }`,
    );
    const { body } = await fieldsOf(sheet, bytes('4d4d 0102 0003 00000004 0100'));
    const { n, list, sure } = (body as Struct).values;
    expect([n, sure, (list as Rows).row(0).values]).to.deep.equal([258, 1, { a: 3, b: 4 }]);
  });

  it('may hold themselves, as deep as is allowed', async () => {
    const sheet = sheetWith(
      'tree: node',
      'types:\n  node: { value: u8, count: u8, children: "node[count]" }',
    );
    const { tree } = await fieldsOf(sheet, bytes('01 02 02 00 03 01 04 00'));
    expect(((tree as Struct).values.children as List).items).to.have.length(2);
    const deep = Buffer.alloc(400, 1);
    expect(await messageOf(sheet, deep)).to.include('more than 64 structures within each other');
  });

  it('that do not fit are told with their byte and their name', async () => {
    const sheet = sheetWith('count: u32\nentries: entry[count]', 'types:\n  entry: { a: u32, b: u32 }');
    const error = await failureOf(fieldsOf(sheet, bytes('40030bfb 0000')));
    expect(error.message).to.equal(
      'count 4,211,802,944: 33,694,423,552 bytes are needed at 0x4, and the file has 2 more',
    );
    expect(error).to.include({ at: 4, where: 'entries' });
    const list = sheetWith(
      'entries: { type: entry, until: end }',
      'types:\n  entry: { n: varint, name: string }',
    );
    expect(await failureOf(fieldsOf(list, bytes('01 6100 02 62')))).to.include({
      where: 'entries[1].name',
      at: 4,
    });
  });

  it('are told at their line where the sheet is wrong', () => {
    const wrong = (root: string, more = ''): string => {
      try {
        sheetWith(root, more);
      } catch (error) {
        return error instanceof Error ? error.message : '';
      }
      return 'it is right';
    };
    expect(wrong('a: u16\nb: u17')).to.equal('line 6: b.u17: there is no type u17');
    expect(wrong('a: { type: u8, count: "2 +" }')).to.match(/^line 5: a: “2 \+” cannot be understood/);
    expect(wrong('a: { type: u8, since: "2" }', "versions: ['1']")).to.include(
      'there is no version 2 in the sheet',
    );
    expect(wrong('a: { type: u8, since: "2" }')).to.include('the sheet has no “versions”');
    expect(wrong('start: u8')).to.include('no field can be called start');
    expect(wrong('a: { type: u8, colour: red }')).to.match(/^line 5: .*colour/);
    expect(wrong('a: u8\na: u8')).to.equal('line 6: “a” stands there twice');
    expect(wrong('a: { type: u8, value: 3 }')).to.include('exclude each other');
    expect(wrong('a: u8', 'result: { picture: { width: 1 } }')).to.match(/^line 6: result\.picture\./);
    expect(wrong('a: u8', 'result: { sound: { rate: f(1), samples: a } }')).to.include(
      'there is no function f',
    );
    expect(() => sheetOf('sheet: [')).to.throw('line 1');
    expect(() => sheetOf(`sheet: &a x\nlanguage: 1\nfiles: *a\nroot: { a: u8 }`)).to.throw();
  });

  it('know the item before, numbers with the highest bits first, and lines of text among bytes', async () => {
    const sheet = sheetWith(
      `head: { type: string(line), until: "item == 'end'" }
events: { type: event, until: end }`,
      `types:
  event:
    delta: vlq
    status: { value: 'previous == null ? 1 : previous.status + delta' }
`,
    );
    // 0x40, 0x2000 and 0x1FFFFF as Standard MIDI Files 1.0 has them in its table of examples.
    const bytes = Buffer.concat([
      Buffer.from('one\r\ntwo\nend\n'),
      Buffer.from([0x40, 0xc0, 0x00, 0xff, 0xff, 0x7f]),
    ]);
    const { head, events } = await fieldsOf(sheet, bytes);
    expect((head as List).items).to.deep.equal(['one', 'two', 'end']);
    const values = (events as List).items.map((item) => (item as Struct).values);
    expect(values.map(({ delta }) => delta)).to.deep.equal([0x40, 0x2000, 0x1fffff]);
    expect(values.map(({ status }) => status)).to.deep.equal([1, 1 + 0x2000, 1 + 0x2000 + 0x1fffff]);
    const cut = (what: Uint8Array) => failureOf(fieldsOf(sheet, what));
    expect((await cut(Buffer.from('one'))).message).to.equal('the text at 0x0 has no line feed at its end');
    expect((await cut(Buffer.concat([Buffer.from('end\n'), Buffer.alloc(9, 255)]))).message).to.equal(
      'the number at 0x4 has more than 7 bytes',
    );
  });

  it('are counted, added up and found in lists, and sRGB is turned to light', async () => {
    const values = await fieldsOf(
      sheetWith(`numbers: u8[4]
sum: { value: total(numbers) }
place: { value: 'indexOf(numbers, 30)' }
none: { value: 'indexOf(numbers, 31)' }
light: { value: 'linear(0.5)' }`),
      Buffer.from([10, 20, 30, 40]),
    );
    expect(values).to.deep.include({ sum: 100, place: 2, none: -1 });
    // IEC 61966-2-1: 0.5 of sRGB is 0.2140 of light.
    expect(values.light).to.be.closeTo(0.21404, 1e-5);
  });
});

describe('What a sheet may take', () => {
  const limits = { steps: 100_000, bytes: 1_000_000, depth: 16, milliseconds: 2000 };

  it('ends where counts take no bytes', async () => {
    const sheet = sheetWith('many: nothing[1000000000]', 'types:\n  nothing: { n: { value: index } }');
    expect(await messageOf(sheet, bytes('00'), { limits })).to.match(/takes more (than|memory)/);
    const empty = sheetWith('many: nothing[end]', 'types:\n  nothing: { n: { value: index } }');
    expect(await messageOf(empty, bytes('00'), { limits })).to.include('takes no bytes');
  });

  it('ends where nothing ever comes true', async () => {
    const sheet = sheetWith(
      'many: { type: u8, at: 0, count: 1 }\nlist: { type: nothing, until: false }',
      'types:\n  nothing: { n: { value: 1 } }',
    );
    expect(await messageOf(sheet, bytes('00'), { limits })).to.match(/takes more (than|memory)/);
  });

  it('ends where lists or texts would grow without bounds', async () => {
    for (const value of [
      'range(1e12)',
      'range(1e300)',
      "replace('aaaaaaaa', 'a', replace('bbbbbbbb', 'b', hex(1, 64)))",
    ]) {
      const sheet = sheetWith(`a: { value: "${value}" }\nb: { value: "a + a + a + a" }`);
      await fieldsOf(sheet, bytes('00'), { limits }).catch(({ message }: Error) =>
        expect(message).to.match(/takes more|cannot be|is not of/),
      );
    }
    expect(await messageOf(sheetWith('a: { value: range(1e12) }'), bytes('00'), { limits })).to.include(
      'takes more memory',
    );
    expect(
      await messageOf(sheetWith('a: { value: 1 << 5000 }'), bytes('00'), { limits }).catch(() => ''),
    ).to.be.a('string');
  });

  it('reads nothing outside of its bytes', async () => {
    const inner = new Uint8Array(Buffer.from('outside inside outside').buffer, 0).slice();
    const part = inner.subarray(8, 14);
    for (const field of [
      'a: { type: u8, at: 6 }',
      'a: { type: bytes(7) }',
      "a: { value: 'bytes(0, 7)' }",
      'a: { type: u8, at: 0 - 1 }',
      'a: bytes(0 - 1)',
      "a: { value: 'textAt(file, 7)' }",
    ])
      expect(await messageOf(sheetWith(field), part, { limits })).to.be.a('string');
    const { a } = await fieldsOf(sheetWith('a: bytes'), part, { limits });
    expect((a as Uint8Array).length).to.equal(6);
  });
});
