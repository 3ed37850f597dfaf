import { expect } from 'chai';
import { fieldPathText, fieldsWithin, gapsOf, runsIn, type FieldPath } from './field-tree.ts';
import { SheetError } from './language/sheet-error.ts';
import { Trace } from './language/trace.ts';
import { openSheet } from './open-sheet.ts';
import { readFields } from './read-by-sheet.ts';

async function traced(sheet: string, bytes: Uint8Array): Promise<{ trace: Trace; error: string | null }> {
  const opened = openSheet(sheet);
  if ('problems' in opened) throw new Error(opened.problems.map(({ message }) => message).join('; '));
  const trace = new Trace();
  const file = { bytes, path: 'a.bin', resolve: async () => Promise.resolve(null) };
  try {
    await readFields(opened.sheet, opened.sheet.versions[0] ?? '', file, () => null, undefined, trace);
    return { trace, error: null };
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    return { trace, error: error.message };
  }
}

const head = 'sheet: Made\nlanguage: 1\nfiles: "*.bin"\n';
const sheet = `${head}root:
  magic: { is: "MADE" }
  count: u16
  place: u16
  points: { type: Point, count: count, at: place }
types:
  Point: { x: f32, colour: "u8[4]" }
`;

/** Magic, two points at 16, and 8 bytes between that nobody explains. */
function made(): Uint8Array {
  const bytes = new Uint8Array(34);
  bytes.set(new TextEncoder().encode('MADE'));
  const view = new DataView(bytes.buffer);
  view.setUint16(4, 2, true);
  view.setUint16(6, 16, true);
  view.setFloat32(16, 1.5, true);
  view.setFloat32(24, -2, true);
  bytes.set([1, 2, 3, 4], 20);
  return bytes;
}

describe('Fields of a file, for people who look at its bytes', () => {
  it('say where they lie, also in rows that are read when they are asked for', async () => {
    const { trace } = await traced(sheet, made());
    const within = (path: FieldPath) =>
      fieldsWithin(trace, path).fields.map(
        ({ path: found, text, place }) =>
          `${fieldPathText(found)} = ${text} @${place ? `${place.begin}–${place.end}` : ''}`,
      );
    expect(within([])).to.deep.equal([
      'magic = “MADE” @0–4',
      'count = 2 @4–6',
      'place = 16 @6–8',
      'points = 2 of it @16–32',
    ]);
    expect(within(['points', 1])).to.deep.equal([
      'points[1].x = -2 @24–28',
      'points[1].colour = 4 numbers: 0 0 0 0 @28–32',
    ]);
    expect(within(['points', 0, 'colour'])).to.deep.equal([
      ...['points[0].colour[0] = 1 @20–21', 'points[0].colour[1] = 2 @21–22'],
      ...['points[0].colour[2] = 3 @22–23', 'points[0].colour[3] = 4 @23–24'],
    ]);
    expect(fieldsWithin(trace, ['points'], 1, 1)).to.deep.include({ count: 2 });
    expect(fieldsWithin(trace, ['nothing', 3])).to.deep.equal({ fields: [], count: 0 });
  });

  it('colour the bytes that they lie in, and leave what nobody explains', async () => {
    const { trace } = await traced(sheet, made());
    const runs = runsIn(trace, 4, 26).map(({ begin, end, path }) => `${begin}–${end} ${fieldPathText(path)}`);
    expect(runs).to.deep.equal([
      ...['4–6 count', '6–8 place', '16–20 points[0].x', '20–24 points[0].colour'],
      '24–28 points[1].x',
    ]);
    expect(gapsOf(trace, 34)).to.deep.equal([
      { begin: 8, end: 16 },
      { begin: 32, end: 34 },
    ]);
    const [first, second] = runsIn(trace, 16, 24);
    expect(first?.tint).to.not.equal(second?.tint);
  });

  it('are there up to the place where the file does not fit', async () => {
    const { trace, error } = await traced(sheet, made().subarray(0, 30));
    expect(error).to.match(/count 2/);
    expect(fieldsWithin(trace, []).fields.map(({ text }) => text)).to.deep.equal([
      ...['“MADE”', '2', '16', 'not read'],
    ]);
  });

  it('within what was unpacked have no place in the file', async () => {
    const packed = `${head}root:
  body: { type: "bytes(4)", unpack: [{ xor: { key: [255] } }], as: Two }
types:
  Two: { a: u16, b: u16 }
`;
    const { trace } = await traced(packed, new Uint8Array([254, 255, 253, 255]));
    expect(fieldsWithin(trace, []).fields.map(({ place }) => place)).to.deep.equal([{ begin: 0, end: 4 }]);
    expect(fieldsWithin(trace, ['body']).fields.map(({ text, place }) => ({ text, place }))).to.deep.equal([
      { text: '1', place: null },
      { text: '2', place: null },
    ]);
    expect(runsIn(trace, 0, 4).map(({ path }) => path)).to.deep.equal([['body']]);
  });

  it('of a text are lines, by the rules that took them', async () => {
    const text = `${head}text:
  comment: ["#"]
  lines:
    part: { keyword: part, words: { name: word }, block: { face: { keyword: f, words: { corner: "integer(3)" } } }, end: "end" }
`;
    const file = new TextEncoder().encode('# of a text\npart roof\nf 1 2 3\nf 2 3 4\nend\n');
    const { trace, error } = await traced(text, file);
    expect(error).to.equal(null);
    expect(
      fieldsWithin(trace, []).fields.map(({ path: [name], count }) => `${name}: ${count}`),
    ).to.deep.equal(['part: 1']);
    expect(
      runsIn({ root: trace.lines }, 0, 100).map(({ begin, path }) => `${begin} ${path.join('.')}`),
    ).to.deep.equal(['2 part', '3 face', '4 face']);
  });

  it('are not kept without end', async () => {
    const many = `${head}root:\n  all: { type: One, until: end }\ntypes:\n  One: { length: u8, text: "string(length)" }\n`;
    const { trace } = await traced(many, new Uint8Array(500_000));
    expect(trace.isCut).to.equal(true);
    expect(fieldsWithin(trace, ['all'], 10, 1).fields[0]?.path).to.deep.equal(['all', 10]);
  });
});
