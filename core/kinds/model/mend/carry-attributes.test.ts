import { Document } from '@gltf-transform/core';
import { expect } from 'chai';
import { TorusKnotGeometry } from 'three';
import { elements, triangleIndices } from '../triangles.ts';
import { carryAttributes } from './carry-attributes.ts';

/** Numbers that look like chance and are the same every time. */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

interface Mesh {
  positions: number[];
  uvs: number[];
  colours: number[];
  indices: number[];
}

function documentOf({ positions, uvs, colours, indices }: Mesh, hasAttributes: boolean): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const floats = (type: 'VEC2' | 'VEC3' | 'VEC4', values: readonly number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', floats('VEC3', positions))
    .setIndices(
      document.createAccessor().setType('SCALAR').setArray(Uint32Array.from(indices)).setBuffer(buffer),
    );
  if (hasAttributes)
    primitive
      .setAttribute('TEXCOORD_0', floats('VEC2', uvs))
      .setAttribute('COLOR_0', floats('VEC4', colours));
  document
    .createScene()
    .addChild(document.createNode('knot').setMesh(document.createMesh().addPrimitive(primitive)));
  return document;
}

/** A knot with UVs that have seams, and a colour of its own in every place. */
function knot(): Mesh {
  const shape = new TorusKnotGeometry(1, 0.3, 220, 24);
  const positions = [...(shape.getAttribute('position').array as Float32Array)];
  const colours: number[] = [];
  for (let at = 0; at < positions.length; at += 3)
    colours.push(...[0, 1, 2].map((axis) => 0.5 + 0.5 * Math.sin((positions[at + axis] ?? 0) * 2 + axis)), 1);
  return {
    ...{ positions, colours },
    uvs: [...(shape.getAttribute('uv').array as Float32Array)],
    indices: [...(shape.getIndex()?.array ?? [])],
  };
}

/** The same mesh as another program may write it: shuffled, welded by place alone, and moved by noise. */
function otherExport(mesh: Mesh, noise: number): { mesh: Mesh; triangles: number[] } {
  const random = chance(7);
  const triangles = Array.from({ length: mesh.indices.length / 3 }, (_, at) => at);
  for (let at = triangles.length - 1; at > 0; at--) {
    const other = Math.floor(random() * (at + 1));
    [triangles[at], triangles[other]] = [triangles[other] ?? 0, triangles[at] ?? 0];
  }
  const places = new Map<string, number>();
  const positions: number[] = [];
  const indices = triangles.flatMap((triangle) =>
    [0, 1, 2].map((k) => {
      const vertex = mesh.indices[triangle * 3 + k] ?? 0;
      const place = mesh.positions.slice(vertex * 3, vertex * 3 + 3);
      const key = place.map((value) => value.toFixed(4)).join(' ');
      let known = places.get(key);
      if (known === undefined) {
        places.set(key, (known = places.size));
        positions.push(...place.map((value) => value + (random() - 0.5) * 2 * noise));
      }
      return known;
    }),
  );
  return { mesh: { positions, indices, uvs: [], colours: [] }, triangles };
}

describe('Attributes carried over by place', () => {
  it('are right for 99.5 of 100 corners of a mesh that was shuffled, welded and moved by noise', async () => {
    const mesh = knot();
    const { mesh: other, triangles } = otherExport(mesh, 0.0005);
    const target = documentOf(other, false);
    const { notes, picture } = await carryAttributes(target, documentOf(mesh, true), 0.01);
    expect(notes[0]).to.match(/^COLOR_0, TEXCOORD_0 taken over for 100\.0 % of /);
    expect(picture).to.equal(null);
    const [primitive] = target.getRoot().listMeshes()[0]?.listPrimitives() ?? [];
    const [uv, colour] = [primitive?.getAttribute('TEXCOORD_0'), primitive?.getAttribute('COLOR_0')];
    if (!primitive || !uv || !colour) throw new Error('nothing was taken over');
    const [uvs, colours] = [elements(uv), elements(colour)];
    const corners = triangleIndices(primitive);
    let right = 0;
    corners.forEach((vertex, corner) => {
      const from = mesh.indices[(triangles[Math.floor(corner / 3)] ?? 0) * 3 + (corner % 3)] ?? 0;
      const off = Math.max(
        ...[0, 1].map((k) => Math.abs((uvs[vertex * 2 + k] ?? NaN) - (mesh.uvs[from * 2 + k] ?? NaN))),
        ...[0, 1, 2].map((k) =>
          Math.abs((colours[vertex * 4 + k] ?? NaN) - (mesh.colours[from * 4 + k] ?? NaN)),
        ),
      );
      // A fifth of a step of the mesh's own UVs around the tube.
      if (off < 0.2 / 24) right++;
    });
    expect(corners).to.have.length(mesh.indices.length);
    expect(right / corners.length).to.be.at.least(0.995);
  });

  it('are kept where nothing is near enough, and that is shown in colour', async () => {
    const mesh = knot();
    const far = {
      ...mesh,
      positions: mesh.positions.map((value, at) => value + (at % 3 === 0 && at < 3000 ? 5 : 0)),
    };
    const { notes, picture } = await carryAttributes(documentOf(far, false), documentOf(mesh, true), 0.01);
    expect(notes.join('\n')).to.match(
      /corners found no partner within 1\.0 % of the size: they keep what they had/,
    );
    const reds = picture?.rgba.reduce(
      (sum, value, at) => sum + (at % 4 === 0 && value > 120 && (picture.rgba[at + 1] ?? 255) < 90 ? 1 : 0),
      0,
    );
    expect(reds).to.be.above(20);
  });

  it('leave weights where the skeletons are not the same', async () => {
    const mesh = knot();
    const source = documentOf(mesh, true);
    const [primitive] = source.getRoot().listMeshes()[0]?.listPrimitives() ?? [];
    const count = mesh.positions.length / 3;
    primitive
      ?.setAttribute(
        'JOINTS_0',
        source
          .createAccessor()
          .setType('VEC4')
          .setArray(new Uint8Array(count * 4)),
      )
      .setAttribute(
        'WEIGHTS_0',
        source
          .createAccessor()
          .setType('VEC4')
          .setArray(new Float32Array(count * 4)),
      );
    const target = documentOf(mesh, false);
    const { notes } = await carryAttributes(target, source, 0.01);
    expect(notes).to.include('weights stay: the two skeletons have other bones');
    expect(target.getRoot().listMeshes()[0]?.listPrimitives()[0]?.listSemantics()).not.to.include(
      'WEIGHTS_0',
    );
  });

  it('say so where there is nothing to take over', async () => {
    const mesh = knot();
    const { notes } = await carryAttributes(documentOf(mesh, false), documentOf(mesh, false), 0.01);
    expect(notes[0]).to.equal('the other model has nothing to take over');
    const empty = await carryAttributes(documentOf(mesh, false), new Document(), 0.01);
    expect(empty.notes[0]).to.contain('has no triangles');
  });
});
