import { expect } from 'chai';
import fc from 'fast-check';
import { placementRecipeSchema, type PlacementRecipe } from '../../../contract/recipes.ts';
import { ReadError } from '../reading.ts';
import { decodedTable, rowsOf } from './recipe-rows.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const recipe = (form: PlacementRecipe['form'], more: object = {}): PlacementRecipe =>
  placementRecipeSchema.parse({ name: 'a', files: '*', form, model: 'm', position: ['p'], ...more });
const values = (content: string | Uint8Array, how: PlacementRecipe, ...selectors: string[]): unknown[][] =>
  rowsOf(typeof content === 'string' ? bytes(content) : content, how).map((row) => selectors.map(row));
const failure = (content: string | Uint8Array, how: PlacementRecipe): string => {
  try {
    rowsOf(typeof content === 'string' ? bytes(content) : content, how);
  } catch (error) {
    expect(error).to.be.instanceOf(ReadError);
    return (error as Error).message;
  }
  throw new Error('it was read');
};

describe('Rows of a placement table', () => {
  it('are found in JSON by dotted keys, lists and objects by name', () => {
    const json = JSON.stringify({
      zones: { a: { things: [{ m: 1 }, { m: 2 }] }, b: { things: [{ m: 3 }] } },
      'by.name': { lamp: { m: 4 }, reed: { m: 5 } },
    });
    expect(values(json, recipe('json', { rows: 'zones.*.things' }), 'm')).to.deep.equal([[1], [2], [3]]);
    expect(values(json, recipe('json', { rows: 'zones.b.things' }), 'm')).to.deep.equal([[3]]);
    expect(values('[{"m":{"n":6}}]', recipe('json'), 'm.n', 'm.q')).to.deep.equal([[6, undefined]]);
    // A key with a dot of its own, and letters that stand for a list.
    expect(
      values('[{"a.b":7,"p":{"x":1,"y":2,"z":3},"c":{"r":1,"g":2}}]', recipe('json'), 'a.b', 'p', 'c'),
    ).to.deep.equal([[7, [1, 2, 3], { r: 1, g: 2 }]]);
  });

  it('are not taken from what every object has', () => {
    expect(values('[{"m":1}]', recipe('json'), 'constructor', '__proto__', 'toString')).to.deep.equal([
      [undefined, undefined, undefined],
    ]);
    expect(failure('{"a":1}', recipe('json', { rows: '__proto__' }))).to.include('is not there; there are a');
  });

  it('say what is there where they are not', () => {
    expect(failure('{"map":{"props":[]}}', recipe('json', { rows: 'map.things' }))).to.equal(
      '“map.things” is not there; there are props',
    );
    expect(failure('{"a":[1,2]}', recipe('json', { rows: 'a' }))).to.include('“a” holds no rows');
    expect(failure('{"a":', recipe('json'))).to.include('this is not valid JSON');
    expect(failure('<a><b/></a>', recipe('xml', { rows: 'a/c' }))).to.include('there is no element a/c');
    expect(failure('<a><b></a>', recipe('xml', { rows: 'a' }))).to.include('this is not valid XML: line 1');
    expect(failure('m;x\n', recipe('csv'))).to.include('no row below the names');
  });

  it('are lines of CSV by the columns’ names or numbers, whatever stands between', () => {
    for (const delimiter of [',', ';', '\t', '|'])
      expect(
        values(`m${delimiter}x\nlamp${delimiter}1\n\n"a ""b"""${delimiter}2\n`, recipe('csv'), 'm', '2', '3'),
        JSON.stringify(delimiter),
      ).to.deep.equal([
        ['lamp', '1', undefined],
        ['a "b"', '2', undefined],
      ]);
    expect(values('\ufeffm~x\nlamp~1\n', recipe('csv', { delimiter: '~' }), 'm', 'x')).to.deep.equal([
      ['lamp', '1'],
    ]);
  });

  it('are elements of XML with attributes, inner elements and text', () => {
    const xml = `<map><set n="1"><thing m="lamp"><at x="1" y="2" z="3"/><id>7</id></thing></set>
      <set n="2"><thing m="&lt;reed&gt;">word</thing></set></map>`;
    expect(
      values(xml, recipe('xml', { rows: 'map/set/thing' }), '@m', 'at', 'at/@y', 'id', '#text'),
    ).to.deep.equal([
      ['lamp', ['1', '2', '3'], '2', '7', undefined],
      // Entities are not taken: a document’s own can grow without bounds.
      ['&lt;reed&gt;', undefined, undefined, undefined, 'word'],
    ]);
    expect(values(xml, recipe('xml', { rows: 'map/*' }), '@n')).to.deep.equal([['1'], ['2']]);
  });

  it('are read from bytes as they were written, for any numbers, in either order', () => {
    const number = fc.record({
      u8: fc.integer({ min: 0, max: 255 }),
      i16: fc.integer({ min: -32768, max: 32767 }),
      u32: fc.integer({ min: 0, max: 2 ** 32 - 1 }),
      f32: fc.float({ noNaN: true }),
      f64: fc.double({ noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(number, { minLength: 1, maxLength: 20 }), fc.boolean(), (rows, isBigEndian) => {
        const [head, row] = [8, 24];
        const file = new Uint8Array(head + rows.length * row + 5);
        const view = new DataView(file.buffer);
        view.setUint32(4, rows.length, !isBigEndian);
        for (const [at, { u8, i16, u32, f32, f64 }] of rows.entries()) {
          const begin = head + at * row;
          view.setUint8(begin, u8);
          view.setInt16(begin + 2, i16, !isBigEndian);
          view.setUint32(begin + 4, u32, !isBigEndian);
          view.setFloat32(begin + 8, f32, !isBigEndian);
          view.setFloat64(begin + 12, f64, !isBigEndian);
        }
        const how = recipe('binary', {
          binary: { headBytes: head, rowBytes: row, count: '4:u32', isBigEndian },
        });
        expect(values(file, how, '0:u8', '2:i16', '4:u32', '8:f32', '12:f64')).to.deep.equal(
          rows.map(({ u8, i16, u32, f32, f64 }) => [u8, i16, u32, f32, f64]),
        );
      }),
      { seed: 3, numRuns: 100 },
    );
  });

  it('of bytes may hold text and several numbers, and nothing beyond the end', () => {
    const file = Buffer.concat([Buffer.from('lamp\0xxx'), Buffer.from([1, 2, 3, 4])]);
    const how = recipe('binary', { binary: { headBytes: 0, rowBytes: 12 } });
    expect(values(file, how, '0:text8', '8:u8*4', '8:u8*5', '10:u32', '0:q9', 'odd')).to.deep.equal([
      ['lamp', [1, 2, 3, 4], undefined, undefined, undefined, undefined],
    ]);
  });

  it('are never more than the bytes have room for, whatever the file says', () => {
    const file = new Uint8Array(64);
    new DataView(file.buffer).setUint32(0, 4_000_000_000, true);
    const how = recipe('binary', { binary: { headBytes: 4, rowBytes: 20, count: '0:u32' } });
    expect(failure(file, how)).to.equal(
      'it says that it has 4,000,000,000 rows of 20 bytes, and there is room for 3',
    );
    expect(
      failure(file, recipe('binary', { binary: { headBytes: 4, rowBytes: 20, count: '0:text3' } })),
    ).to.include('is no number of rows');
    expect(
      failure(new Uint8Array(10), recipe('binary', { binary: { headBytes: 4, rowBytes: 20 } })),
    ).to.include('there is no row of 20 bytes after the first 4');
  });

  it('of a text are decoded by its byte order mark', () => {
    for (const [encoding, mark] of [
      ['utf-16le', [0xff, 0xfe]],
      ['utf-8', [0xef, 0xbb, 0xbf]],
    ] as const) {
      const text = Buffer.concat([
        Buffer.from(mark),
        Buffer.from('Fähre', encoding === 'utf-8' ? 'utf8' : 'utf16le'),
      ]);
      expect(decodedTable(text), encoding).to.equal('Fähre');
    }
    const big = Buffer.from('Fähre', 'utf16le').swap16();
    expect(decodedTable(Buffer.concat([Buffer.from([0xfe, 0xff]), big]))).to.equal('Fähre');
  });
});
