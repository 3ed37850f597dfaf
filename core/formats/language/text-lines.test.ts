import { expect } from 'chai';
import { fieldsOf, sheetOf } from '../../../tests/support/by-sheet.ts';
import { failureOf } from '../../../tests/support/failure.ts';
import { List, Struct, Table } from './values.ts';

const sheetOfLines = (text: string) =>
  sheetOf(`sheet: Text\nlanguage: 1\nfiles: '*'\ntext:\n${text.replace(/^/gm, '  ')}`);
const read = (rules: string, text: string) => fieldsOf(sheetOfLines(rules), Buffer.from(text));

describe('Lines of a text sheet', () => {
  it('are words and numbers behind keywords, with comments and quotation marks', async () => {
    const rules = `comment: ['//', '#']
lines:
  prop: { keyword: prop, words: { name: word, at: number(3), tags: 'word[]' } }
  scale: { keyword: scale, words: { by: number }, single: true }
  title: { keyword: title, words: { text: rest }, single: true }`;
    const values = await read(
      rules,
      '// herons\nprop "Pier # lantern" 1 -2.5 3e2 old wet # comment\r\nscale 0.01\nprop b 4 5 6\nother 1\ntitle   Two   herons\n',
    );
    const props = values.prop as Table;
    expect(props.count).to.equal(2);
    expect((props.column('name') as List).items).to.deep.equal(['Pier # lantern', 'b']);
    expect([...(props.column('at') as Float64Array)]).to.deep.equal([1, -2.5, 300, 4, 5, 6]);
    expect((props.row(0).values.tags as List).items).to.deep.equal(['old', 'wet']);
    expect((props.row(1).values.tags as List).items).to.deep.equal([]);
    expect((values.scale as Struct).values.by).to.equal(0.01);
    expect((values.title as Struct).values.text).to.equal('Two herons');
  });

  it('lie in blocks: in braces, up to a word, by a count, up to the next of their kind', async () => {
    const rules = `lines:
  mesh: { keyword: mesh, words: { name: word }, block: { v: { keyword: v, words: { at: 'number(2)' } } } }
  list: { keyword: list, end: done, block: { row: { words: { value: integer } } } }
  counted: { keyword: rows, words: { number: integer }, count: number, block: { row: { words: { value: integer } } } }
  group: { keyword: group, words: { name: word }, end: next, block: { f: { keyword: f, split: /, words: { a: integer, b: integer? } } } }`;
    const values = await read(
      rules,
      'mesh one {\n v 1 2\n v 3 4\n}\nlist\n5\n6\ndone\nrows 2\n7\n8\ngroup a\nf 1/2 3/4\nmesh two {\n}\nf 5/ 6\ngroup b\nf 7/8\n',
    );
    const items = (name: string): Record<string, unknown>[] =>
      (values[name] as List).items.map((item) => (item as Struct).values);
    expect(items('mesh').map(({ name, v }) => [name, v instanceof Table ? v.count : 0])).to.deep.equal([
      ['one', 2],
      ['two', 0],
    ]);
    const column = (from: unknown, name: string): number[] => [
      ...((from as Table).column(name) as Float64Array),
    ];
    expect(column(items('list')[0]?.row, 'value')).to.deep.equal([5, 6]);
    expect(column(items('counted')[0]?.row, 'value')).to.deep.equal([7, 8]);
    expect(column(items('group')[0]?.f, 'a')).to.deep.equal([1, 3, 5, 6]);
    expect(column(items('group')[0]?.f, 'b')).to.deep.equal([2, 4, NaN, NaN]);
    expect(column(items('group')[0]?.f, 'words')).to.deep.equal([2, 2]);
    expect(column(items('group')[1]?.f, 'a')).to.deep.equal([7]);
  });

  it('have keywords of several words, and counts that an earlier line said', async () => {
    const rules = `lines:
  vertices: { keyword: element vertex, words: { number: integer }, single: true }
  faces: { keyword: element face, words: { number: integer }, single: true }
  body: { keyword: end, single: true, count: vertices.number, block: { vertex: { words: { at: 'number[]' } } } }
  face: { words: { corners: 'integer[]' } }`;
    const { faces, body, face } = await read(
      rules,
      'element vertex 2\nelement face 1\nend\n1 2\n3 4\n0 1 0\n',
    );
    expect((faces as Struct).values.number).to.equal(1);
    const { vertex } = (body as Struct).values;
    expect([...((vertex as Table).column('at') as Float64Array)]).to.deep.equal([1, 2, 3, 4]);
    expect([...((face as Table).column('corners') as Float64Array)]).to.deep.equal([0, 1, 0]);
    expect((await failureOf(read(rules, 'element vertex 2\nend\n1 2\n'))).message).to.equal(
      'the file ends within “end”: 1 lines are missing',
    );
  });

  it('that do not fit are told with their number', async () => {
    const rules = `begins: prop
lines:
  prop: { keyword: prop, words: { name: word, at: number } }
  rows: { keyword: rows, words: { number: integer }, count: number, block: { row: { words: { value: integer } } } }`;
    expect(await failureOf(read(rules, 'prop a 1\nprop b two\n'))).to.include({
      at: 2,
      message: '“two” is no number, as at must be',
    });
    expect(await failureOf(read(rules, 'prop a\n'))).to.include({
      at: 1,
      message: 'the line has 1 words, and none is left for at',
    });
    expect((await failureOf(read(rules, 'mesh\n'))).message).to.equal('the file does not begin with “prop”');
    expect((await failureOf(read(rules, 'prop a 1\nrows 3\n1\n'))).message).to.equal(
      'the file ends within “rows”: 2 lines are missing',
    );
    expect(() => sheetOfLines('lines: { a: { keyword: a, words: { x: numbr } } }')).to.throw(
      '“numbr” is no kind of word',
    );
  });
});
