import type { Document, Node } from '@gltf-transform/core';
import type { Shape } from '../shapes.ts';
import type { Bone, Place } from './bird-bones.ts';
import { newDocument, primitiveOf, writeDocument, type GrownPart } from './scene-parts.ts';

/** How a bone moves in a clip: turned about X, Y and Z, in radians, or shifted, in metres, at each of its moments. */
export interface BoneMove {
  turns?: (moment: number) => Place;
  shift?: (moment: number) => Place;
}

export interface Clip {
  name: string;
  seconds: number;
  moves: Readonly<Record<string, BoneMove>>;
}

const framesPerSecond = 30;

/** A part that follows some bones, each point by those that it is near. */
export interface SkinnedPart extends GrownPart {
  bones: readonly string[];
}

function nodesOf(document: Document, bones: readonly Bone[], scale: number): Map<string, Node> {
  const places = new Map(bones.map(({ name, at }) => [name, at]));
  const nodes = new Map<string, Node>();
  for (const { name, parent, at } of bones) {
    const above = places.get(parent) ?? [0, 0, 0];
    const node = document
      .createNode(name)
      .setTranslation([(at[0] - above[0]) * scale, (at[1] - above[1]) * scale, (at[2] - above[2]) * scale]);
    nodes.get(parent)?.addChild(node);
    nodes.set(name, node);
  }
  return nodes;
}

/** A model of parts that follow a skeleton. @param scale of bones and shapes */
export function skinned(
  name: string,
  bones: readonly Bone[],
  parts: readonly SkinnedPart[],
  clips: readonly Clip[],
  scale: number,
): Promise<Uint8Array> {
  const document = newDocument(name);
  const buffer = document.getRoot().listBuffers()[0] ?? null;
  const nodes = nodesOf(document, bones, scale);
  const scene = document.getRoot().listScenes()[0];
  const root = nodes.get(bones[0]?.name ?? '');
  if (root) scene?.addChild(root);
  const inverse = bones.flatMap(({ at: [x, y, z] }) => [
    ...[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0],
    ...[-x * scale, -y * scale, -z * scale, 1],
  ]);
  const skin = document
    .createSkin(name)
    .setInverseBindMatrices(
      document.createAccessor().setType('MAT4').setArray(new Float32Array(inverse)).setBuffer(buffer),
    );
  for (const { name: called } of bones) {
    const node = nodes.get(called);
    if (node) skin.addJoint(node);
  }
  for (const part of parts) {
    const { joints, weights } = follow(part.shape, bones, part.bones);
    const shape = { ...part.shape, positions: part.shape.positions.map((value) => value * scale) };
    const primitive = primitiveOf(document, { ...part, shape })
      .setAttribute(
        'JOINTS_0',
        document.createAccessor().setType('VEC4').setArray(new Uint8Array(joints)).setBuffer(buffer),
      )
      .setAttribute(
        'WEIGHTS_0',
        document.createAccessor().setType('VEC4').setArray(new Float32Array(weights)).setBuffer(buffer),
      );
    scene?.addChild(
      document
        .createNode(part.name)
        .setMesh(document.createMesh(part.name).addPrimitive(primitive))
        .setSkin(skin),
    );
  }
  for (const clip of clips) addClip(document, clip, nodes);
  return writeDocument(document);
}

/** Clips alone, of a skeleton without a model. */
export function clipsAlone(
  name: string,
  bones: readonly Bone[],
  clips: readonly Clip[],
  scale: number,
): Promise<Uint8Array> {
  const document = newDocument(name);
  const nodes = nodesOf(document, bones, scale);
  const root = nodes.get(bones[0]?.name ?? '');
  if (root) document.getRoot().listScenes()[0]?.addChild(root);
  for (const clip of clips) addClip(document, clip, nodes);
  return writeDocument(document);
}

/** The two nearest of some bones for each point, the nearer the more. */
function follow(
  { positions }: Shape,
  bones: readonly Bone[],
  named: readonly string[],
): { joints: number[]; weights: number[] } {
  const followed = bones.flatMap(({ name, at }, place) => (named.includes(name) ? [{ at, place }] : []));
  const joints: number[] = [];
  const weights: number[] = [];
  for (let point = 0; point < positions.length; point += 3) {
    const near = followed
      .map(({ at, place }) => ({
        place,
        distance: Math.hypot(
          (positions[point] ?? 0) - at[0],
          (positions[point + 1] ?? 0) - at[1],
          (positions[point + 2] ?? 0) - at[2],
        ),
      }))
      .sort((a, b) => a.distance - b.distance);
    const [first, second] = [near[0], near[1]];
    const nearness = first && second ? second.distance / (first.distance + second.distance || 1) : 1;
    joints.push(first?.place ?? 0, second?.place ?? 0, 0, 0);
    weights.push(nearness, second ? 1 - nearness : 0, 0, 0);
  }
  return { joints, weights };
}

function addClip(document: Document, { name, seconds, moves }: Clip, nodes: ReadonlyMap<string, Node>): void {
  const buffer = document.getRoot().listBuffers()[0] ?? null;
  const frames = Math.round(seconds * framesPerSecond);
  const moments = Array.from({ length: frames + 1 }, (_, frame) => frame / framesPerSecond);
  const input = document
    .createAccessor()
    .setType('SCALAR')
    .setArray(new Float32Array(moments))
    .setBuffer(buffer);
  const animation = document.createAnimation(name);
  const channel = (node: Node, path: 'rotation' | 'translation', values: readonly number[]): void => {
    const sampler = document
      .createAnimationSampler()
      .setInput(input)
      .setOutput(
        document
          .createAccessor()
          .setType(path === 'rotation' ? 'VEC4' : 'VEC3')
          .setArray(new Float32Array(values))
          .setBuffer(buffer),
      );
    animation
      .addSampler(sampler)
      .addChannel(
        document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler),
      );
  };
  for (const [bone, { turns, shift }] of Object.entries(moves)) {
    const node = nodes.get(bone);
    if (!node) continue;
    if (turns)
      channel(
        node,
        'rotation',
        moments.flatMap((moment) => quaternion(turns(moment / seconds))),
      );
    if (shift) {
      const [x, y, z] = node.getTranslation();
      channel(
        node,
        'translation',
        moments.flatMap((moment) => {
          const by = shift(moment / seconds);
          return [x + by[0], y + by[1], z + by[2]];
        }),
      );
    }
  }
}

/** About X, then Y, then Z. */
function quaternion([x, y, z]: Place): number[] {
  const [cx, cy, cz] = [Math.cos(x / 2), Math.cos(y / 2), Math.cos(z / 2)];
  const [sx, sy, sz] = [Math.sin(x / 2), Math.sin(y / 2), Math.sin(z / 2)];
  return [
    sx * cy * cz - cx * sy * sz,
    cx * sy * cz + sx * cy * sz,
    cx * cy * sz - sx * sy * cz,
    cx * cy * cz + sx * sy * sz,
  ];
}
