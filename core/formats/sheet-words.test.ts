import { expect } from 'chai';
import { sheetWords, writingPlace } from './sheet-words.ts';

/** Words at the place where a bar stands. */
function wordsAt(marked: string): string[] {
  const at = marked.indexOf('|');
  return sheetWords(writingPlace(marked.slice(0, at)), marked.replace('|', '')).map(({ word }) => word);
}

describe('Words that fit into a sheet', () => {
  it('are its keys, by where somebody writes', () => {
    expect(wordsAt('sheet: A\n|')).to.include.members(['files', 'root', 'text', 'result', 'versions']);
    expect(wordsAt('root:\n  magic: { is: "A" }\n  count: { |')).to.include.members(['type', 'at', 'unpack']);
    expect(wordsAt('root:\n  parts:\n    type: Part\n    |')).to.include.members(['count', 'until']);
    expect(wordsAt('result:\n  picture:\n    |')).to.include.members(['width', 'pixels', 'palette']);
    expect(wordsAt('result: { sound: { |')).to.include.members(['rate', 'samples']);
    expect(wordsAt('text:\n  lines:\n    v: { |')).to.include.members(['keyword', 'words', 'block']);
    expect(wordsAt('text:\n  lines:\n    v:\n      block:\n        f: { |')).to.include('keyword');
  });

  it('are types, pixel formats, packings, or fields and functions, where a value is written', () => {
    expect(wordsAt('types:\n  Part: { x: f32 }\nroot:\n  a: |')).to.include.members([
      'u16',
      'string',
      'Part',
    ]);
    expect(wordsAt('result:\n  picture:\n    format: |')).to.include('bc1');
    expect(wordsAt('root:\n  a: { type: "bytes(4)", unpack: [ |')).to.include.members(['zlib', 'xor']);
    const words = wordsAt('root:\n  size: u16\n  a: { type: u8, count: |');
    expect(words).to.include.members(['size', 'sum']);
    expect(words).to.not.include('u16');
    expect(wordsAt('sheet: mesh|')).to.deep.equal([]);
    expect(wordsAt('root:\n  mark: { is: |')).to.deep.equal([]);
    expect(wordsAt('result:\n  picture:\n    rows: |')).to.include.members(['down', 'up']);
  });
});
