import { expect } from 'chai';
import { zlibSync } from 'fflate';
import { joinBytes } from '../../bytes.ts';
import { seeded } from '../../../demo/seeded.ts';
import { crc32 } from '../language/check-sums.ts';
import { openSheet, type OpenSheet } from '../open-sheet.ts';
import { whyNotTurned } from './can-turn.ts';
import { bytesOfEntry, openEntries, putEntries } from './put-entries.ts';

const text = (words: string): Uint8Array => new TextEncoder().encode(words);
const u32 = (value: number): Uint8Array => new Uint8Array(Uint32Array.of(value).buffer);
const u16big = (value: number): Uint8Array => Uint8Array.of(value >> 8, value & 255);
const contents = ['the first file', 'and the second, which is longer', '', 'the last'].map(text);
const other = text('something that is much longer than any of the files that were there before '.repeat(3));
const shorter = text('short');

function opened(sheet: string): OpenSheet {
  const found = openSheet(`sheet: Made\nlanguage: 1\nfiles: '**'\n${sheet}`);
  if (!('sheet' in found)) throw new Error(JSON.stringify(found.problems));
  return found.sheet;
}

const fileOf = (bytes: Uint8Array) => ({ bytes, path: 'made.bin', resolve: async () => null });

/** What comes out of each entry, as text. */
async function textsOf(open: OpenSheet, bytes: Uint8Array): Promise<string[]> {
  const { entries } = await openEntries(open, fileOf(bytes));
  const texts: string[] = [];
  for (const entry of entries) texts.push(new TextDecoder().decode(await bytesOfEntry(entry)));
  return texts;
}

async function expectPut(
  open: OpenSheet,
  bytes: Uint8Array,
  at: number,
  content: Uint8Array,
): Promise<Uint8Array> {
  const before = await textsOf(open, bytes);
  const { bytes: now } = await putEntries(open, fileOf(bytes), new Map([[at, content]]));
  before[at] = new TextDecoder().decode(content);
  expect(await textsOf(open, now)).to.deep.equal(before);
  return now;
}

/** A table of places in units of 16 bytes, then the files; the table's check sum and the file's length before it. */
function withTable(isPacked: boolean): Uint8Array {
  const packed = contents.map((bytes) => (isPacked ? zlibSync(bytes) : bytes));
  let place = 16 + contents.length * 16;
  const rows: Uint8Array[] = [];
  const bodies: Uint8Array[] = [];
  for (const [at, bytes] of packed.entries()) {
    const padded = new Uint8Array(Math.ceil(bytes.length / 16) * 16);
    padded.set(bytes);
    rows.push(u32(place / 16), u32(bytes.length), u32(contents[at]?.length ?? 0), u32(crc32(bytes)));
    bodies.push(padded);
    place += padded.length;
  }
  const table = joinBytes(rows);
  return joinBytes([text('TABL'), u32(contents.length), u32(crc32(table)), u32(place), table, ...bodies]);
}

const tableSheet = (unpack: string): string => `
root:
  mark: { is: TABL }
  count: u32
  check: { type: u32, equals: 'crc32(bytes(16, count * 16))' }
  length: { type: u32, equals: fileSize }
  rows: { type: row, count: count }
types:
  row: { place: u32, packed: u32, size: u32, sum: u32 }
result:
  entries: { each: rows, name: "'file' + index", offset: place * 16, size: packed${unpack} }
`;

describe('Files that are put into a container of a sheet', () => {
  for (const [what, unpack, isPacked] of [
    ['stored', '', false],
    ['packed with zlib', ', unpack: [{ zlib: { size: size } }]', true],
  ] as const)
    it(`have places, sizes and check sums of a table written anew: ${what}`, async () => {
      const open = opened(tableSheet(unpack));
      const bytes = withTable(isPacked);
      for (const at of contents.keys())
        for (const content of [other, shorter, new Uint8Array(0)]) {
          const now = await expectPut(open, bytes, at, content);
          const view = new DataView(now.buffer);
          const row = 16 + at * 16;
          const place = view.getUint32(row, true) * 16;
          // The sheet does not look at these: the game may.
          expect(view.getUint32(row + 8, true)).to.equal(content.length);
          expect(view.getUint32(row + 12, true)).to.equal(
            crc32(now.subarray(place, place + view.getUint32(row + 4, true))),
          );
        }
    });

  it('move what lies behind them where one lies after the other', async () => {
    const open = opened(`
endian: big
root: { mark: { is: ROW }, files: { type: 'file[end]' } }
types:
  file: { name: string(u8), size: u16, body: bytes(size) }
result:
  entries: { each: files, name: name, data: body }
`);
    const bytes = joinBytes([
      text('ROW'),
      ...contents.flatMap((body, at) => [Uint8Array.of(5), text(`file${at}`), u16big(body.length), body]),
    ]);
    for (const at of contents.keys())
      for (const content of [other, shorter]) await expectPut(open, bytes, at, content);
    const first = (await expectPut(open, bytes, 0, other)).length;
    expect(first).to.equal(bytes.length + other.length - (contents[0]?.length ?? 0));
  });

  it('move a list that lies behind the files, and what says where it lies', async () => {
    const open = opened(`
root:
  mark: { is: TAIL }
  listAt: u32
  count: u32
  list: { type: row, count: count, at: listAt }
  _end: { value: "crc32(bytes(listAt, count * 8)) > 0 && listAt + count * 8 == fileSize ? 1 : 1 / 0" }
  tight: { type: u8, at: listAt + count * 8 - 1 }
types:
  row: { place: u32, size: u32 }
result:
  entries: { each: list, if: listAt + count * 8 == fileSize, name: "'f' + index", offset: place, size: size }
`);
    let place = 12;
    const rows = contents.flatMap((body) => {
      const row = [u32(place), u32(body.length)];
      place += body.length;
      return row;
    });
    const bytes = joinBytes([text('TAIL'), u32(place), u32(contents.length), ...contents, ...rows]);
    const now = await expectPut(open, bytes, 1, other);
    const listAt = new DataView(now.buffer).getUint32(4, true);
    expect(listAt + contents.length * 8).to.equal(now.length);
  });

  it('come back to the same bytes where they are put back unchanged', async () => {
    const open = opened(tableSheet(''));
    const bytes = withTable(false);
    expect(await whyNotTurned(open, fileOf(bytes))).to.equal(null);
    const { bytes: now } = await putEntries(open, fileOf(bytes), new Map([[1, contents[1] ?? shorter]]));
    expect(now).to.deep.equal(bytes);
  });

  it('take any packing that can be turned round, and say which cannot', async () => {
    const random = seeded(7);
    const content = Uint8Array.from({ length: 3001 }, () => Math.floor(random() * 7));
    const even = content.subarray(0, 3000);
    const steps = [
      ...[
        'deflate',
        'zlib',
        'gzip',
        'zstd',
        'lz4',
        'lzss',
        '{ xor: { key: 90 } }',
        '{ xor: { key: [1, 2, 3], step: 5 } }',
      ],
      ...['{ swap: { bytes: 4 } }', '{ delta: { bytes: 2, stride: 3 } }', '{ delta: { kind: "\'xor\'" } }'],
      ...['{ lzss: { literal: 0, flagOrder: "\'high\'" } }', '{ planes: { bytes: 4 } }'],
    ];
    for (const step of [
      ...steps,
      'zlib, { xor: { key: 3 } }',
      '{ xor: { key: 3 } }, { swap: { bytes: 2 } }',
    ]) {
      const open = opened(`
root: { size: u32, body: bytes(size) }
result:
  entries: { name: "'body'", offset: '4', size: size, unpack: [${step}] }
`);
      const empty = joinBytes([u32(0)]);
      const { bytes } = await putEntries(open, fileOf(empty), new Map([[0, even]])).catch(
        (error: unknown) => {
          throw new Error(`${step}: ${String(error)}`);
        },
      );
      expect(await textsOf(open, bytes), step).to.deep.equal([new TextDecoder().decode(even)]);
    }
    const open = opened(`
root: { size: u32, body: bytes(size) }
result:
  entries: { name: "'body'", offset: '4', size: size, unpack: [{ runs: { coding: "'tga'", unit: 1 } }] }
`);
    const reason = await putEntries(open, fileOf(u32(0)), new Map([[0, even]])).then(
      () => '',
      (error: unknown) => (error as Error).message,
    );
    expect(reason).to.equal('runs cannot be turned round: nothing here packs in this way');
  });

  it('are refused where no field says what has to be said, and nothing comes out', async () => {
    const open = opened(`
root: { first: { type: bytes(14) }, second: bytes }
result:
  entries: { name: "'first'", offset: '0', size: '14' }
`);
    const bytes = joinBytes([contents[0] ?? shorter, other]);
    const reason = await putEntries(open, fileOf(bytes), new Map([[0, other]])).then(
      () => '',
      (error: unknown) => (error as Error).message,
    );
    expect(reason).to.match(
      /^the sheet “Made” cannot be turned round here: first would not be what it should be/,
    );
    expect(reason).to.contain('No field of an entry was found');
    expect(await whyNotTurned(open, fileOf(bytes))).to.contain('No field of an entry was found');
    // What is as large as before needs no field.
    await expectPut(open, bytes, 0, text('14 other bytes'));
  });

  it('are refused where a number has no room for what it has to say', async () => {
    const open = opened(`
root: { size: u8, body: bytes(size) }
result: { entries: { name: "'body'", data: body } }
`);
    const bytes = joinBytes([Uint8Array.of(3), text('abc')]);
    const reason = await putEntries(open, fileOf(bytes), new Map([[0, new Uint8Array(300)]])).then(
      () => '',
      (error: unknown) => (error as Error).message,
    );
    expect(reason).to.contain('300 does not fit into size, which has 1 byte');
  });
});
