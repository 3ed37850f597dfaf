import { expect } from 'chai';
import { uvLayoutOf } from './uv-layout.ts';

describe('uvLayoutOf', () => {
  // A square of two triangles that share an edge.
  const square = { uvs: [0, 0, 1, 0, 1, 1, 0, 1], indices: [0, 1, 2, 0, 2, 3] };

  it('draws each edge once, and counts how much of the picture is covered', () => {
    const layout = uvLayoutOf([square]);
    expect(layout.edges.length / 4).to.equal(5);
    expect(layout).to.include({ triangles: 2, outside: 0, coverage: 1 });
    expect([layout.min, layout.max]).to.deep.equal([
      [0, 0],
      [1, 1],
    ]);
  });

  it('counts what lies over one another twice, and corners that are not shared as they follow', () => {
    const half = { uvs: [0, 0, 1, 0, 0, 1], indices: null };
    const layout = uvLayoutOf([half, half]);
    expect(layout.edges.length / 4).to.equal(6);
    expect(layout.coverage).to.equal(1);
  });

  it('tells what reaches beyond the picture, and passes over numbers that are none', () => {
    const layout = uvLayoutOf([
      { uvs: [0.5, -1, 2.5, 0, 0, 1, NaN, 0], indices: [0, 1, 2, 1, 2, 3, 9, 1, 2] },
      { uvs: [], indices: [] },
    ]);
    expect(layout).to.include({ triangles: 2, outside: 2 });
    expect([layout.min, layout.max]).to.deep.equal([
      [0, -1],
      [2.5, 1],
    ]);
  });
});
