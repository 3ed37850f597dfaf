import { expect } from 'chai';
import { openSheet } from '../open-sheet.ts';
import { drawGuess } from './draw.ts';
import type { Proposal } from './proposal.ts';
import { takenOver } from './take-over.ts';

const mark: Proposal = {
  ...{ kind: 'constant', at: 0, bytes: 4, says: 'files begin so', score: 0.97 },
  field: { name: 'mark', type: "{ is: 'MESH' }" },
};
const count: Proposal = {
  ...{ kind: 'count', at: 8, bytes: 4, says: 'so many', score: 0.97, stride: 32, isLittle: false },
  field: { name: 'count', type: 'u32' },
};
const order: Proposal = {
  ...{ kind: 'order', at: 0, bytes: 0, says: 'big', score: 0.98, isLittle: false, field: null },
};

describe('Proposals that are taken over', () => {
  it('are the root of a sheet, with what is not known between them, and leave the rest alone', () => {
    const before = 'sheet: A\nlanguage: 1\nfiles: "*"\nroot:\n  first: u32\n\n# why\nresult: {}\n';
    const text = takenOver(before, [count, order, mark]);
    expect(text.split('\n').filter((line) => !line.includes('#'))).to.deep.equal([
      ...['sheet: A', 'language: 1', 'files: "*"', 'endian: big', 'root:', "  mark: { is: 'MESH' }"],
      ...['  _unknown4: bytes(4)', '  count: u32', 'result: {}', ''],
    ]);
    expect(openSheet(text)).to.have.property('sheet');
    expect(takenOver(text, [{ ...order, isLittle: true }])).to.include('endian: little');
    expect(takenOver('sheet: A\nlanguage: 1\nfiles: "*"\n', [mark])).to.match(/root:\n.*\n {2}mark/);
    expect(takenOver(before, [])).to.equal(before);
  });
});

describe('A guess at pixels', () => {
  it('is drawn small, in the colours of its format', () => {
    const guess = { width: 2, height: 1, bytesPerPixel: 3, smoothness: 1, format: 'rgb8' as const };
    const drawn = drawGuess(Uint8Array.from([1, 2, 3, 4, 5, 6]), guess);
    expect([...drawn.rgba]).to.deep.equal([1, 2, 3, 255, 4, 5, 6, 255]);
    const large = drawGuess(new Uint8Array(3 * 1024 * 1024), { ...guess, width: 1024, height: 1024 });
    expect([large.width, large.height]).to.deep.equal([128, 128]);
  });
});
