import { expect } from 'chai';
import { Vector3 } from 'three';
import { groundGeometry } from './ground-mesh.ts';

const extent = { x: 10, z: 20, width: 4, depth: 8, isFlipped: false };
const levels = { lowest: -1, highest: 3 };
const field = { columns: 3, rows: 2, values: new Float32Array([0, 0.5, 1, 1, 0.5, 0]) };

describe('The shape of a ground', () => {
  const corners = (isFlipped: boolean, mostOfSide = 512): number[][] => {
    const positions = groundGeometry(field, { ...extent, isFlipped }, levels, mostOfSide).getAttribute(
      'position',
    );
    return Array.from({ length: positions.count }, (_, at) =>
      new Vector3().fromBufferAttribute(positions, at).toArray(),
    );
  };

  it('has each height where it lies, whichever way its rows go', () => {
    expect(corners(false)).to.deep.equal([
      ...[
        [8, -1, 16],
        [10, 1, 16],
        [12, 3, 16],
      ],
      ...[
        [8, 3, 24],
        [10, 1, 24],
        [12, -1, 24],
      ],
    ]);
    expect(corners(true)[0]).to.deep.equal([8, -1, 24]);
  });

  it('keeps its corners where it is made coarser, and lies flat without heights', () => {
    expect(corners(false, 2)).to.deep.equal([
      ...[
        [8, -1, 16],
        [12, 3, 16],
        [8, 3, 24],
        [12, -1, 24],
      ],
    ]);
    const flat = groundGeometry(null, extent, levels, 512);
    flat.computeBoundingBox();
    expect(flat.boundingBox?.min.toArray()).to.deep.equal([8, -1, 16]);
    expect(flat.boundingBox?.max.toArray()).to.deep.equal([12, -1, 24]);
  });

  it('is seen from above whichever way its rows go', () => {
    for (const isFlipped of [false, true]) {
      const level = { columns: 2, rows: 2, values: new Float32Array(4) };
      const normals = groundGeometry(level, { ...extent, isFlipped }, levels, 9).getAttribute('normal');
      for (let at = 0; at < normals.count; at++) expect(normals.getY(at)).to.be.closeTo(1, 1e-6);
    }
  });
});
