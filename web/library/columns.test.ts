import { expect } from 'chai';
import {
  chosenColumns,
  figureText,
  fittingColumns,
  rowTemplate,
  withColumn,
  withoutExtension,
} from './columns.ts';

describe('columns of the library', () => {
  it('are the usual ones until somebody chooses, and stand in one order', () => {
    expect(chosenColumns(null).map(({ name }) => name)).to.include.members(['kind', 'size']);
    expect(chosenColumns('size,bones').map(({ name }) => name)).to.deep.equal(['bones', 'size']);
  });

  it('are switched on and off; the usual ones need no word in the address', () => {
    const more = withColumn(null, 'bones');
    expect(more).to.equal('kind,triangles,pixels,seconds,bones,first seen,size');
    expect(withColumn(more, 'bones')).to.equal('');
  });

  it('take an extension off a name, and no more', () => {
    expect(withoutExtension('a.b/c.d.glb')).to.equal('a.b/c.d');
    expect(withoutExtension('a.b/c')).to.equal('a.b/c');
  });

  it('give way to the names where there is no room, the last ones first', () => {
    const all = chosenColumns(null);
    expect(fittingColumns(all, 4000)).to.deep.equal(all);
    expect(fittingColumns(all, 390).length).to.be.below(2);
    expect(fittingColumns(all, 0)).to.deep.equal([]);
    let before = 0;
    for (let width = 200; width <= 1400; width += 50) {
      const fitting = fittingColumns(all, width);
      expect(fitting).to.deep.equal(all.slice(0, fitting.length));
      expect(fitting.length).to.be.at.least(before);
      // Tick and picture, a name of 180 pixels, and the gaps between all of them fit too.
      const taken = fitting.reduce((sum, { widthPixels }) => sum + widthPixels + 8, 34 + 40 + 180 + 2 * 8);
      if (fitting.length > 0) expect(taken).to.be.at.most(width);
      before = fitting.length;
    }
  });

  it('stand in a row after what it is chosen with, its picture and its name', () => {
    expect(rowTemplate(chosenColumns('size'))).to.match(/^34px 40px minmax\(180px, 1fr\) \d+px$/);
  });

  it('say what a figure counts where it does not say so itself', () => {
    expect(figureText('756', 'Triangles')).to.equal('756 triangles');
    expect(figureText('96 × 96', 'Pixels')).to.equal('96 × 96 pixels');
    expect(figureText('0.80 s', 'Seconds')).to.equal('0.80 s');
    expect(figureText('', 'Bones')).to.equal('');
  });
});
