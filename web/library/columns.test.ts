import { expect } from 'chai';
import { chosenColumns, withColumn, withoutExtension } from './columns.ts';

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
});
