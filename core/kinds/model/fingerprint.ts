import type { Document, Node, Primitive } from '@gltf-transform/core';
import { propertyText } from './property-text.ts';
import { elements, triangleIndices } from './triangles.ts';

/**
 * A model's content in an order of its own, so that it is equal for equal models: the tree of nodes with their names and
 * places, the triangles of each mesh as a set (whatever the order of vertices and indices), materials, skins and clips.
 * Numbers count to their last bit: another precision is another content.
 */
export function decodedModel(document: Document): Uint8Array[] {
  const root = document.getRoot();
  const pieces: Uint8Array[] = [];
  const encoder = new TextEncoder();
  const write = (...words: (string | number)[]): void =>
    void pieces.push(encoder.encode(`${words.join('\t')}\n`));
  const visit = (node: Node, path: string): void => {
    const mesh = node.getMesh();
    write('node', path, ...node.getTranslation(), ...node.getRotation(), ...node.getScale());
    const skin = node.getSkin();
    if (skin) {
      write('skin', ...skin.listJoints().map((joint) => joint.getName()));
      const matrices = skin.getInverseBindMatrices();
      if (matrices) pieces.push(bytesOf(elements(matrices)));
    }
    const parts =
      mesh?.listPrimitives().map((primitive) => ({
        material: propertyText(primitive.getMaterial()),
        triangles: triangleHashes(primitive),
      })) ?? [];
    // Parts of one mesh have no order that says anything.
    parts.sort(
      (a, b) =>
        compare(a.material, b.material) ||
        a.triangles.length - b.triangles.length ||
        Number((a.triangles[0] ?? 0n) - (b.triangles[0] ?? 0n)),
    );
    for (const { material, triangles } of parts) {
      write('part', material, triangles.length);
      pieces.push(new Uint8Array(triangles.buffer, triangles.byteOffset, triangles.byteLength));
    }
    const children = [...node.listChildren()].sort((a, b) => compare(a.getName(), b.getName()));
    children.forEach((child, at) => visit(child, `${path}/${child.getName() || at}`));
  };
  for (const scene of root.listScenes())
    [...scene.listChildren()]
      .sort((a, b) => compare(a.getName(), b.getName()))
      .forEach((node, at) => visit(node, node.getName() || String(at)));
  for (const animation of [...root.listAnimations()].sort((a, b) => compare(a.getName(), b.getName()))) {
    write('clip', animation.getName());
    const channels = animation.listChannels().map((channel) => ({
      key: `${channel.getTargetNode()?.getName() ?? ''}\t${channel.getTargetPath() ?? ''}`,
      sampler: channel.getSampler(),
    }));
    channels.sort((a, b) => compare(a.key, b.key));
    for (const { key, sampler } of channels) {
      write('channel', key, sampler?.getInterpolation() ?? '');
      for (const accessor of [sampler?.getInput(), sampler?.getOutput()])
        if (accessor) pieces.push(bytesOf(elements(accessor)));
    }
  }
  return pieces;
}

function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/**
 * 64 bits for each triangle, of all that its corners have, beginning with the corner whose bits are least: the side that
 * faces out stays. Sorted. Points and lines are taken corner by corner.
 */
function triangleHashes(primitive: Primitive): BigUint64Array {
  const semantics = primitive.listSemantics().sort();
  const attributes = semantics.flatMap((name) => {
    const accessor = primitive.getAttribute(name);
    return accessor
      ? [{ bits: new Uint32Array(elements(accessor).buffer), size: accessor.getElementSize() }]
      : [];
  });
  const targets = primitive.listTargets().flatMap((target) =>
    target
      .listSemantics()
      .sort()
      .flatMap((name) => {
        const accessor = target.getAttribute(name);
        return accessor
          ? [{ bits: new Uint32Array(elements(accessor).buffer), size: accessor.getElementSize() }]
          : [];
      }),
  );
  const all = [...attributes, ...targets];
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  const lows = new Int32Array(count);
  const highs = new Int32Array(count);
  for (let vertex = 0; vertex < count; vertex++) {
    let low = 0x2545f491;
    let high = 0x9e3779b9 | 0;
    for (const { bits, size } of all)
      for (let part = 0; part < size; part++) {
        const word = bits[vertex * size + part] ?? 0;
        // Minus zero is zero.
        const value = word === 0x80000000 ? 0 : word;
        low = Math.imul(low ^ value, 0x85ebca6b);
        low ^= low >>> 13;
        high = Math.imul(high ^ value ^ low, 0xc2b2ae35);
        high ^= high >>> 16;
      }
    lows[vertex] = low;
    highs[vertex] = high;
  }
  const indices = triangleIndices(primitive);
  if (indices.length === 0) {
    const points = new BigUint64Array(count);
    for (let vertex = 0; vertex < count; vertex++)
      points[vertex] = joined(highs[vertex] ?? 0, lows[vertex] ?? 0);
    return points.sort();
  }
  const triangles = new BigUint64Array(indices.length / 3);
  for (let triangle = 0; triangle < triangles.length; triangle++) {
    const at = triangle * 3;
    const corners = [indices[at] ?? 0, indices[at + 1] ?? 0, indices[at + 2] ?? 0];
    let least = 0;
    for (let corner = 1; corner < 3; corner++) {
      const a = corners[corner] ?? 0;
      const b = corners[least] ?? 0;
      if ((highs[a] ?? 0) < (highs[b] ?? 0) || (highs[a] === highs[b] && (lows[a] ?? 0) < (lows[b] ?? 0)))
        least = corner;
    }
    let low = 0x165667b1;
    let high = 0x27d4eb2f;
    for (let step = 0; step < 3; step++) {
      const vertex = corners[(least + step) % 3] ?? 0;
      low = Math.imul(low ^ (lows[vertex] ?? 0), 0x85ebca6b);
      low ^= low >>> 15;
      high = Math.imul(high ^ (highs[vertex] ?? 0) ^ low, 0xc2b2ae35);
      high ^= high >>> 13;
    }
    triangles[triangle] = joined(high, low);
  }
  return triangles.sort();
}

function joined(high: number, low: number): bigint {
  return (BigInt(high >>> 0) << 32n) | BigInt(low >>> 0);
}

function bytesOf(values: Float32Array): Uint8Array {
  return new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
}
