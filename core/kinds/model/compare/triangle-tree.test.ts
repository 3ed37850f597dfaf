import { expect } from 'chai';
import { BufferAttribute, BufferGeometry, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { seeded } from '../../../../demo/seeded.ts';
import { TriangleTree } from './triangle-tree.ts';

const random = seeded(12);
const number = (): number => random() * 2 - 1;

/** Triangles here and there; some are lines, some points, some the same as others, many in one plane. */
function someTriangles(count: number): { positions: Float32Array; indices: Uint32Array } {
  const positions = new Float32Array(count * 9);
  for (let triangle = 0; triangle < count; triangle++) {
    const [x, y, z] = [number(), number(), triangle % 5 === 0 ? 0 : number()];
    const size = triangle % 7 === 0 ? 0 : 0.1;
    for (let corner = 0; corner < 3; corner++)
      positions.set(
        triangle % 11 === 0
          ? [x + corner * size, y, z]
          : [x + number() * size, y + number() * size, z + (triangle % 5 === 0 ? 0 : number() * size)],
        triangle * 9 + corner * 3,
      );
  }
  const indices = Uint32Array.from({ length: count * 3 }, (_, at) => at);
  if (count > 20) indices.copyWithin(30, 3, 12);
  return { positions, indices };
}

describe('TriangleTree', () => {
  it('finds the distance that an independent tree finds (three-mesh-bvh)', () => {
    for (const count of [1, 2, 7, 50, 3000]) {
      const { positions, indices } = someTriangles(count);
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(positions, 3));
      geometry.setIndex(new BufferAttribute(new Uint32Array(indices), 1));
      const other = new MeshBVH(geometry);
      const tree = new TriangleTree(positions, indices);
      for (let point = 0; point < 500; point++) {
        const [x, y, z] = [number() * 1.5, number() * 1.5, number() * 1.5];
        const expected = other.closestPointToPoint(new Vector3(x, y, z))?.distance ?? NaN;
        expect(tree.find(x, y, z)).to.be.closeTo(expected, 1e-6);
        expect(Math.hypot(tree.x - x, tree.y - y, tree.z - z)).to.be.closeTo(expected, 1e-6);
        expect(tree.find(x, y, z, expected * 1.001 + 1e-6)).to.be.closeTo(expected, 1e-6);
        expect(tree.find(x, y, z, expected * 0.999 - 1e-6)).to.equal(Infinity);
      }
    }
  });

  it('says which triangle is nearest, and of corners and edges that they are on it', () => {
    const { positions, indices } = someTriangles(1000);
    const tree = new TriangleTree(positions, indices);
    for (let at = 0; at < indices.length; at += 7) {
      const place = (indices[at] ?? 0) * 3;
      const [x = 0, y = 0, z = 0] = positions.subarray(place, place + 3);
      expect(tree.find(x, y, z)).to.be.below(1e-7);
      expect(tree.triangle).to.be.within(0, 999);
    }
  });

  it('takes very many triangles at one place, and none at all', () => {
    const positions = new Float32Array(9).map((_, at) => at);
    const tree = new TriangleTree(
      positions,
      new Uint32Array(300_000).map((_, at) => at % 3),
    );
    expect(tree.find(0, 1, 2)).to.equal(0);
    expect(new TriangleTree(positions, new Uint32Array(0)).find(0, 0, 0)).to.equal(Infinity);
  });
});
