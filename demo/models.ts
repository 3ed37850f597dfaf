import { Document, WebIO, type Material, type Node } from '@gltf-transform/core';
import { ball, box, hull, joined, placed, tube, turned, type Shape } from './shapes.ts';

export interface Part {
  name: string;
  shape: Shape;
  /** Linear RGB. */
  colour: readonly [number, number, number];
  /** PNG bytes. */
  texture?: Uint8Array;
}

/** One GLB of some parts. */
export async function glb(name: string, parts: readonly Part[]): Promise<Uint8Array> {
  return new WebIO().writeBinary(documentOf(name, parts));
}

/** The same as glTF with a buffer and pictures beside it, by file name. `leaveOut` is named but not written. */
export async function gltf(
  name: string,
  parts: readonly Part[],
  pictureName: string,
  leaveOut: boolean,
): Promise<Map<string, Uint8Array>> {
  const document = documentOf(name, parts);
  document.getRoot().listBuffers()[0]?.setURI(`${name}.bin`);
  for (const texture of document.getRoot().listTextures()) texture.setURI(pictureName);
  const { json, resources } = await new WebIO().writeJSON(document, { basename: name });
  const files = new Map([[`${name}.gltf`, new TextEncoder().encode(JSON.stringify(json, null, 1))]]);
  for (const [file, bytes] of Object.entries(resources))
    if (!(leaveOut && file === pictureName)) files.set(file, bytes);
  return files;
}

function documentOf(name: string, parts: readonly Part[]): Document {
  const document = new Document();
  document.createBuffer();
  const scene = document.createScene(name);
  for (const part of parts) scene.addChild(partNode(document, part));
  return document;
}

function partNode(document: Document, part: Part): Node {
  const primitive = primitiveOf(document, part);
  return document.createNode(part.name).setMesh(document.createMesh(part.name).addPrimitive(primitive));
}

function primitiveOf(document: Document, { name, shape, colour, texture }: Part) {
  const buffer = document.getRoot().listBuffers()[0] ?? null;
  const accessor = (type: 'VEC2' | 'VEC3', values: number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const material: Material = document
    .createMaterial(name)
    .setBaseColorFactor([...colour, 1])
    .setRoughnessFactor(0.8)
    .setMetallicFactor(0)
    .setDoubleSided(true);
  if (texture)
    material.setBaseColorTexture(
      document.createTexture(`${name}_col`).setImage(texture).setMimeType('image/png'),
    );
  return document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', shape.positions))
    .setAttribute('NORMAL', accessor('VEC3', shape.normals))
    .setAttribute('TEXCOORD_0', accessor('VEC2', shape.uvs))
    .setIndices(
      document.createAccessor().setType('SCALAR').setArray(new Uint16Array(shape.indices)).setBuffer(buffer),
    )
    .setMaterial(material);
}

/** A heron with a skeleton of four bones and a clip in which it nods. `seconds` is where the clip's last key is. */
export async function heron(scale: number, segments: number, seconds: number): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const body = ball([0, 1, 0], 0.28, segments);
  const neck = tube(
    [
      [0.18, 1.1, 0, 0.07],
      [0.3, 1.4, 0, 0.05],
      [0.24, 1.7, 0, 0.045],
    ],
    segments,
  );
  const head = joined(ball([0.26, 1.76, 0], 0.08, segments), box([0.42, 1.75, 0], [0.26, 0.03, 0.03]));
  const legs = joined(
    tube(
      [
        [0, 0, 0.09, 0.02],
        [0, 0.85, 0.09, 0.02],
      ],
      6,
    ),
    tube(
      [
        [0, 0, -0.09, 0.02],
        [0, 0.85, -0.09, 0.02],
      ],
      6,
    ),
  );
  const shapes: [Shape, number][] = [
    [body, 1],
    [neck, 2],
    [head, 3],
    [legs, 0],
  ];
  const whole = joined(...shapes.map(([shape]) => shape));
  whole.positions = whole.positions.map((value) => value * scale);
  const joints = shapes.flatMap(([shape, bone]) =>
    Array.from({ length: shape.positions.length / 3 }, () => [bone, 0, 0, 0]).flat(),
  );
  const primitive = primitiveOf(document, { name: 'plumage', shape: whole, colour: [0.42, 0.5, 0.55] });
  const count = joints.length / 4;
  primitive
    .setAttribute(
      'JOINTS_0',
      document.createAccessor().setType('VEC4').setArray(new Uint8Array(joints)).setBuffer(buffer),
    )
    .setAttribute(
      'WEIGHTS_0',
      document
        .createAccessor()
        .setType('VEC4')
        .setArray(new Float32Array(Array.from({ length: count }, () => [1, 0, 0, 0]).flat()))
        .setBuffer(buffer),
    );
  const heights = [0, 1, 1.15, 1.7].map((height) => height * scale);
  const bones = ['root', 'spine', 'neck', 'head'].map((name, index) =>
    document.createNode(name).setTranslation([0, (heights[index] ?? 0) - (heights[index - 1] ?? 0), 0]),
  );
  bones.forEach((bone, index) => bones[index - 1]?.addChild(bone));
  const inverse = heights.flatMap((height) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -height, 0, 1]);
  const skin = document
    .createSkin('heron')
    .setInverseBindMatrices(
      document.createAccessor().setType('MAT4').setArray(new Float32Array(inverse)).setBuffer(buffer),
    );
  for (const bone of bones) skin.addJoint(bone);
  const scene = document.createScene('heron');
  const root = bones[0];
  if (root) scene.addChild(root);
  scene.addChild(
    document.createNode('heron').setMesh(document.createMesh('heron').addPrimitive(primitive)).setSkin(skin),
  );

  const half = Math.sin(0.25);
  const sampler = document
    .createAnimationSampler()
    .setInput(
      document
        .createAccessor()
        .setType('SCALAR')
        .setArray(new Float32Array([0, seconds / 2, seconds]))
        .setBuffer(buffer),
    )
    .setOutput(
      document
        .createAccessor()
        .setType('VEC4')
        .setArray(new Float32Array([0, 0, 0, 1, 0, 0, -half, Math.cos(0.25), 0, 0, 0, 1]))
        .setBuffer(buffer),
    );
  const channel = document
    .createAnimationChannel()
    .setTargetNode(bones[2] ?? null)
    .setTargetPath('rotation')
    .setSampler(sampler);
  document.createAnimation('nod').addSampler(sampler).addChannel(channel);
  return new WebIO().writeBinary(document);
}

/** Segments by level of detail: 0 is the finest (common practice, no published source). */
export const segmentsOfLevel = [32, 14, 7] as const;

const brass = [0.62, 0.42, 0.14] as const;
const glow = [0.98, 0.78, 0.38] as const;
const wood = [0.32, 0.2, 0.11] as const;
const green = [0.2, 0.34, 0.16] as const;

/** A lantern; `ridges` gives newer ones a finer roof. */
export function lantern(segments: number, height: number, ridges: number, texture: Uint8Array): Part[] {
  const roof = Array.from(
    { length: ridges + 2 },
    (_, step) =>
      [
        0.19 - (0.18 * step) / (ridges + 1),
        height * (0.72 + (0.2 * step) / (ridges + 1)) + (step % 2) * 0.01,
      ] as const,
  );
  return [
    {
      name: 'frame',
      colour: brass,
      shape: joined(
        turned(
          [
            [0.001, 0],
            [0.17, 0],
            [0.17, 0.05],
            [0.11, 0.08],
            [0.001, 0.08],
          ],
          segments,
        ),
        turned(roof, segments),
      ),
      texture,
    },
    {
      name: 'glass',
      colour: glow,
      shape: turned(
        [
          [0.1, 0.08],
          [0.15, height * 0.4],
          [0.11, height * 0.72],
        ],
        segments,
      ),
    },
    {
      name: 'ring',
      colour: brass,
      shape: placed(
        turned(
          [
            [0.02, 0],
            [0.035, 0.02],
            [0.02, 0.05],
          ],
          segments,
        ),
        [0, height * 0.92, 0],
      ),
    },
  ];
}

export function ferry(sections: number, length: number, texture: Uint8Array): Part[] {
  const depth = length * 0.11;
  return [
    { name: 'hull', colour: wood, shape: hull(length, length * 0.34, depth, sections), texture },
    {
      name: 'deck',
      colour: [0.55, 0.42, 0.26],
      shape: box([0, depth * 0.8, 0], [length * 0.72, 0.05, length * 0.26]),
    },
    {
      name: 'cabin',
      colour: [0.7, 0.24, 0.15],
      shape: box([-length * 0.12, depth * 1.6, 0], [length * 0.24, depth * 1.5, length * 0.18]),
    },
    {
      name: 'mast',
      colour: wood,
      shape: tube(
        [
          [length * 0.16, depth * 0.8, 0, 0.06],
          [length * 0.16, length * 0.5, 0, 0.03],
        ],
        Math.max(6, sections),
      ),
    },
  ];
}

export function reeds(stalks: number, segments: number, random: () => number): Part[] {
  const shapes = Array.from({ length: stalks }, () => {
    const [x, z, height, lean] = [
      random() - 0.5,
      random() - 0.5,
      0.9 + random() * 0.9,
      (random() - 0.5) * 0.3,
    ];
    return tube(
      [
        [x, 0, z, 0.015],
        [x + lean * 0.4, height * 0.6, z, 0.012],
        [x + lean, height, z + lean * 0.5, 0.003],
      ],
      segments,
    );
  });
  return [{ name: 'stalks', colour: green, shape: joined(...shapes) }];
}

/** A landing stage of planks on posts. */
export function stage(planks: number, texture: Uint8Array): Part[] {
  const boards = Array.from({ length: planks }, (_, index) =>
    box([0, 0.6, (index - (planks - 1) / 2) * 0.34], [2.2, 0.07, 0.3]),
  );
  const posts = [-1, 1].flatMap((x) =>
    [-1, 1].map((z) =>
      tube(
        [
          [x, -0.4, z * planks * 0.15, 0.09],
          [x, 1, z * planks * 0.15, 0.08],
        ],
        10,
      ),
    ),
  );
  return [
    { name: 'planks', colour: [0.6, 0.52, 0.4], shape: joined(...boards), texture },
    { name: 'posts', colour: wood, shape: joined(...posts) },
  ];
}
