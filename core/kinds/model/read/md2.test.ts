import { expect } from 'chai';
import { readFile } from 'node:fs/promises';
import { convertModel } from '../../../../server/decode/assimp.ts';
import { readMd2 } from './md2.ts';

const models = '/usr/share/assimp/models/MD2';

/** A square of two triangles in one frame. */
function square(frames = 1): Uint8Array {
  const [skinsAt, uvsAt, trianglesAt, framesAt] = [68, 132, 148, 172];
  const frameBytes = 40 + 4 * 4;
  const end = framesAt + frames * frameBytes;
  const bytes = new Uint8Array(end);
  const view = new DataView(bytes.buffer);
  [
    ...[0x32504449, 8, 64, 64, frameBytes, 1, 4, 4, 2, 0, frames],
    ...[skinsAt, uvsAt, trianglesAt, framesAt, end, end],
  ].forEach((word, at) => view.setInt32(at * 4, word, true));
  bytes.set(new TextEncoder().encode('.oar'), skinsAt);
  [0, 0, 64, 0, 64, 64, 0, 64].forEach((value, at) => view.setInt16(uvsAt + at * 2, value, true));
  [0, 1, 2, 0, 1, 2, 0, 2, 3, 0, 2, 3].forEach((value, at) =>
    view.setUint16(trianglesAt + at * 2, value, true),
  );
  for (let frame = 0; frame < frames; frame++) {
    const at = framesAt + frame * frameBytes;
    [1, 1, 1, 0, 0, 0].forEach((value, part) => view.setFloat32(at + part * 4, value, true));
    bytes.set(new TextEncoder().encode(`row${frame + 1}`), at + 24);
    [0, 0, 0, 0, 10, 0, 0, 0, 10, 20, frame, 0, 0, 20, frame, 0].forEach(
      (value, part) => (bytes[at + 40 + part] = value),
    );
  }
  return bytes;
}

describe('readMd2', () => {
  for (const name of ['faerie', 'sydney'])
    it(`reads ${name}.md2 of Debian’s assimp-testmodels as assimp does, neither mirrored nor inside out`, async () => {
      const bytes = new Uint8Array(await readFile(`${models}/${name}.md2`));
      const { mesh, clips } = await readMd2(bytes);
      const position = mesh.geometry.getAttribute('position');
      const { glb } = await convertModel(bytes, 'model.md2', () => Promise.resolve(null));
      const triangles = trianglesOf(glb);
      expect(position.count).to.equal(triangles.length * 3);
      const turned = ([x = 0, y = 0, z = 0]: number[]): number[] => [x, z, -y];
      // Its node turns Z up to Y up; triangles stand in one order here and there.
      for (const [at, corners] of triangles.entries())
        corners.forEach((corner, place) => {
          const own = position.array.slice((at * 3 + place) * 3, (at * 3 + place) * 3 + 3);
          turned(corner).forEach((value, axis) => expect(own[axis]).to.be.closeTo(value, 1e-3));
        });
      expect(clips.map((clip) => clip.name)).to.include.members(['stand', 'run', 'jump']);
      expect(mesh.geometry.morphAttributes.position).to.have.length(198);
    });

  it('has its skin as the picture of its material, and UVs as the file has them', async () => {
    const { mesh, clips } = await readMd2(square());
    const material = mesh.material as unknown as { name: string; map: { userData: { file: string } } };
    expect(material.name).to.equal('oar');
    expect(material.map.userData.file).to.equal('oar');
    expect(clips).to.deep.equal([]);
    expect(mesh.geometry.morphAttributes).to.deep.equal({});
    expect([...mesh.geometry.getAttribute('position').array.slice(0, 3)]).to.deep.equal([10, 0, -20]);
  });

  it('moves where it has frames', async () => {
    const { clips } = await readMd2(square(3));
    expect(clips.map(({ name }) => name)).to.deep.equal(['row']);
  });

  it('says what goes beyond the file, and allocates nothing for it', async () => {
    const broken = async (change: (view: DataView) => void, cut?: number): Promise<string> => {
      const bytes = square().slice(0, cut);
      change(new DataView(bytes.buffer));
      return readMd2(bytes).then(
        () => 'it was read',
        (error: Error) => error.message,
      );
    };
    const word = (at: number, value: number) => (view: DataView) => view.setInt32(at * 4, value, true);
    expect(await broken(() => undefined, 40)).to.contain('its header has 68 bytes, and it has 40');
    expect(await broken(word(1, 7))).to.contain('no MD2 model');
    expect(await broken(word(8, 500_000_000))).to.contain('500000000 triangles from byte 148 on');
    expect(await broken(word(10, -1))).to.contain('-1 frames');
    expect(await broken(word(6, 2_000_000_000))).to.contain('frames');
    expect(await broken(word(10, 0))).to.contain('no frame');
    expect(await broken((view) => view.setUint16(148, 9, true))).to.contain('triangle 0 names vertex 9 of 4');
    expect(await broken((view) => view.setUint16(154, 4, true))).to.contain('names UV 4 of 4');
  });
});

/** Positions of the first shape of a GLB, three corners to a triangle (glTF 2.0, 3.6 and 4.4). */
function trianglesOf(glb: Uint8Array | null): number[][][] {
  if (!glb) throw new Error('assimp does not accept it');
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const length = view.getUint32(12, true);
  const { accessors, bufferViews, meshes } = JSON.parse(
    new TextDecoder().decode(glb.subarray(20, 20 + length)),
  ) as {
    accessors: { bufferView: number; byteOffset?: number; count: number; componentType: number }[];
    bufferViews: { byteOffset?: number }[];
    meshes: { primitives: { indices: number; attributes: { POSITION: number } }[] }[];
  };
  const primitive = meshes[0]?.primitives[0];
  const begin = (accessor: { bufferView: number; byteOffset?: number }): number =>
    28 + length + (bufferViews[accessor.bufferView]?.byteOffset ?? 0) + (accessor.byteOffset ?? 0);
  const [positions, indices] = [
    accessors[primitive?.attributes.POSITION ?? 0],
    accessors[primitive?.indices ?? 0],
  ];
  if (!positions || !indices) throw new Error('it has no triangles');
  const corner = (place: number): number[] => {
    const index =
      indices.componentType === 5125
        ? view.getUint32(begin(indices) + place * 4, true)
        : view.getUint16(begin(indices) + place * 2, true);
    return [0, 1, 2].map((axis) => view.getFloat32(begin(positions) + index * 12 + axis * 4, true));
  };
  return Array.from({ length: indices.count / 3 }, (_, at) => [0, 1, 2].map((part) => corner(at * 3 + part)));
}
