import { Document, type Node } from '@gltf-transform/core';

/** Corners of a box, four to each side, with normals, and its triangles. */
function box(width: number, height: number, depth: number, above: number) {
  const positions: number[] = [];
  const indices: number[] = [];
  const sides = [
    [0, 1, 2],
    [1, 2, 0],
    [2, 0, 1],
  ] as const;
  const half = [width / 2, height / 2, depth / 2];
  for (const [axis, across, up] of sides)
    for (const sign of [1, -1]) {
      const first = positions.length / 3;
      for (const [u, v] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const) {
        const corner = [0, 0, 0];
        corner[axis] = sign * (half[axis] ?? 0);
        corner[across] = u * sign * (half[across] ?? 0);
        corner[up] = v * (half[up] ?? 0);
        positions.push(corner[0] ?? 0, (corner[1] ?? 0) + above, corner[2] ?? 0);
      }
      indices.push(first, first + 1, first + 2, first, first + 2, first + 3);
    }
  return { positions, indices };
}

/** A figure of two blocks on bones with a double among them, a collision shape, and two clips, one of 91 frames. */
export function boneBlockDocument(): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const floats = (type: 'SCALAR' | 'VEC3' | 'VEC4' | 'MAT4', values: readonly number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const root = document.createNode('root');
  const bone = (name: string, parent: Node, y: number): Node => {
    const node = document.createNode(name).setTranslation([0, y, 0]);
    parent.addChild(node);
    return node;
  };
  const spine = bone('spine', root, 0.5);
  const head = bone('head', spine, 0.8);
  const hand = bone('hand', spine, 0.1);
  const double = bone('hand.001', spine, 0.1);
  const bones = [root, spine, head, hand, double];
  const heights = [0, 0.5, 1.3, 0.6, 0.6];
  const skin = document.createSkin('figure').setInverseBindMatrices(
    floats(
      'MAT4',
      heights.flatMap((height) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -height, 0, 1]),
    ),
  );
  for (const one of bones) skin.addJoint(one);
  const group = document.createNode('figure');
  const part = (name: string, shape: ReturnType<typeof box>, joint: number | null): void => {
    const count = shape.positions.length / 3;
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', floats('VEC3', shape.positions))
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Uint16Array(shape.indices))
          .setBuffer(buffer),
      )
      .setMaterial(document.createMaterial(name).setBaseColorFactor([0.5, 0.4, 0.3, 1]));
    if (joint !== null) {
      const joints = new Uint8Array(count * 4);
      for (let corner = 0; corner < count; corner++) joints[corner * 4] = joint;
      primitive
        .setAttribute(
          'JOINTS_0',
          document.createAccessor().setType('VEC4').setArray(joints).setBuffer(buffer),
        )
        .setAttribute('WEIGHTS_0', floats('VEC4', Array.from({ length: count }, () => [1, 0, 0, 0]).flat()));
    }
    const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive));
    if (joint !== null) node.setSkin(skin);
    group.addChild(node);
  };
  part('body', box(0.5, 1, 0.3, 0.5), 1);
  part('head_block', box(0.3, 0.3, 0.3, 1.3), 2);
  part('UCX_body', box(0.6, 1.5, 0.4, 0.75), null);
  const clip = (name: string, target: Node, frames: number, turn: readonly number[]): void => {
    const sampler = document
      .createAnimationSampler()
      .setInput(
        floats(
          'SCALAR',
          Array.from({ length: frames + 1 }, (_, frame) => frame / 30),
        ),
      )
      .setOutput(
        floats(
          'VEC4',
          Array.from({ length: frames + 1 }, (_, frame) =>
            frame % 2 === 0 ? [0, 0, 0, 1] : [...turn],
          ).flat(),
        ),
      );
    const channel = document
      .createAnimationChannel()
      .setTargetNode(target)
      .setTargetPath('rotation')
      .setSampler(sampler);
    document.createAnimation(name).addSampler(sampler).addChannel(channel);
  };
  clip('nod', head, 91, [Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
  clip('turn', spine, 30, [0, Math.SQRT1_2, 0, Math.SQRT1_2]);
  document.createScene().addChild(root).addChild(group);
  return document;
}
