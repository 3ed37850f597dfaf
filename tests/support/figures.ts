import { Document, type Node } from '@gltf-transform/core';
import { quat } from 'gl-matrix';

/** A bone at rest: where it is and how it is turned on what it hangs on. */
export interface BoneSaid {
  name: string;
  parent: string | null;
  at: readonly [number, number, number];
  turn?: readonly [number, number, number, number];
}

/** A few bones, one of them with axes of its own. */
export const body: readonly BoneSaid[] = [
  { name: 'hips', parent: null, at: [0, 1, 0] },
  { name: 'spine', parent: 'hips', at: [0, 0.3, 0], turn: [0, Math.SQRT1_2, 0, Math.SQRT1_2] },
  { name: 'head', parent: 'spine', at: [0, 0.4, 0] },
  { name: 'arm_l', parent: 'spine', at: [0, 0.2, 0.3] },
  { name: 'hand_l', parent: 'arm_l', at: [0.1, 0, 0.4] },
];

/**
 * A skeleton with a triangle on each bone, and a clip that turns every bone and moves the first.
 * @param suffix behind each name
 * @param only bones that have triangles
 */
export function figure(
  bones: readonly BoneSaid[],
  {
    suffix = '',
    scale = 1,
    only,
    clip = true,
  }: { suffix?: string; scale?: number; only?: string[]; clip?: boolean } = {},
): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene();
  const floats = (type: 'SCALAR' | 'VEC3' | 'VEC4' | 'MAT4', values: readonly number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const nodes = new Map<string, Node>();
  for (const { name, parent, at, turn } of bones) {
    const node = document
      .createNode(`${name}${suffix}`)
      .setTranslation([at[0] * scale, at[1] * scale, at[2] * scale])
      .setRotation(turn ? [...turn] : [0, 0, 0, 1]);
    nodes.set(name, node);
    const above = parent === null ? undefined : nodes.get(parent);
    if (above) above.addChild(node);
    else scene.addChild(node);
  }
  const skin = document.createSkin('skin');
  const binds: number[] = [];
  const [positions, joints, weights]: [number[], number[], number[]] = [[], [], []];
  [...nodes].forEach(([name, node], number) => {
    skin.addJoint(node);
    binds.push(...inverse(node.getWorldMatrix()));
    if (only && !only.includes(name)) return;
    const [x, y, z] = node.getWorldTranslation();
    for (const [dx, dy] of [
      [0, 0],
      [0.1, 0],
      [0, 0.1],
    ] as const) {
      positions.push(x + dx * scale, y + dy * scale, z);
      joints.push(number, 0, 0, 0);
      weights.push(1, 0, 0, 0);
    }
  });
  skin.setInverseBindMatrices(floats('MAT4', binds));
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', floats('VEC3', positions))
    .setAttribute(
      'JOINTS_0',
      document.createAccessor().setType('VEC4').setArray(Uint8Array.from(joints)).setBuffer(buffer),
    )
    .setAttribute('WEIGHTS_0', floats('VEC4', weights));
  scene.addChild(
    document
      .createNode(`shape${suffix}`)
      .setMesh(document.createMesh().addPrimitive(primitive))
      .setSkin(skin),
  );
  if (!clip) return document;
  const animation = document.createAnimation('wave');
  [...nodes.values()].forEach((node, number) => {
    const rest = node.getRotation();
    const turned = [0.3, -0.5, 0.8].map((angle) => [
      ...quat.multiply(
        quat.create(),
        quat.setAxisAngle(
          quat.create(),
          [Math.sin(number), Math.cos(number), 0.4],
          angle * (number + 1) * 0.4,
        ),
        rest,
      ),
    ]);
    const sampler = document
      .createAnimationSampler()
      .setInput(floats('SCALAR', [0, 0.4, 1]))
      .setOutput(floats('VEC4', turned.map((one) => [...quat.normalize(quat.create(), one as quat)]).flat()));
    animation
      .addSampler(sampler)
      .addChannel(
        document.createAnimationChannel().setTargetNode(node).setTargetPath('rotation').setSampler(sampler),
      );
  });
  const first = [...nodes.values()][0];
  const sampler = document
    .createAnimationSampler()
    .setInput(floats('SCALAR', [0, 1]))
    .setOutput(floats('VEC3', [0, scale, 0, 0.5 * scale, 1.2 * scale, 0.3 * scale]));
  animation.addSampler(sampler).addChannel(
    document
      .createAnimationChannel()
      .setTargetNode(first ?? null)
      .setTargetPath('translation')
      .setSampler(sampler),
  );
  return document;
}

function inverse(m: readonly number[]): number[] {
  // Of a turn and a shift alone.
  const [tx = 0, ty = 0, tz = 0] = m.slice(12);
  const at = (row: number, column: number): number => m[row * 4 + column] ?? 0;
  const result: number[] = [];
  for (let column = 0; column < 3; column++) result.push(at(0, column), at(1, column), at(2, column), 0);
  for (let row = 0; row < 3; row++) result.push(-(at(row, 0) * tx + at(row, 1) * ty + at(row, 2) * tz));
  return [...result, 1];
}
