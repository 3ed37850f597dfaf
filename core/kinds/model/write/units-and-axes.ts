import type { Accessor, Document, Node, vec3, vec4 } from '@gltf-transform/core';
import { quat } from 'gl-matrix';
import { unitsPerMetre, type ModelSettings } from '../../../../contract/haul-settings.ts';
import { elements } from '../triangles.ts';

export type Frame = Pick<ModelSettings, 'unit' | 'up'>;

/**
 * A scale, and quarter turns about X: one, from Y up to Z up, is a turn of 90°; the way back is one of −90° (common practice, no
 * published source).
 */
export interface Similarity {
  scale: number;
  turns: -1 | 0 | 1;
}

/** From metres, Y up, to a frame. */
export function toFrame({ unit, up }: Frame): Similarity {
  return { scale: unitsPerMetre[unit], turns: up === 'Z' ? 1 : 0 };
}

export function inverseOf({ scale, turns }: Similarity): Similarity {
  return { scale: 1 / scale, turns: turns === 0 ? 0 : turns === 1 ? -1 : 1 };
}

/** Whether a frame is that of the canonical form: metres, Y up. */
export function isCanonical({ unit, up }: Frame): boolean {
  return unit === 'metres' && up === 'Y';
}

function turnOf({ turns }: Similarity): vec4 {
  return [turns * Math.SQRT1_2, 0, 0, turns === 0 ? 1 : Math.SQRT1_2];
}

/** xyz triples, scaled and turned. */
export function placedPoints(points: Float32Array, { scale, turns }: Similarity): Float32Array {
  const result = new Float32Array(points.length);
  for (let at = 0; at < points.length; at += 3) {
    const [x = 0, y = 0, z = 0] = [points[at], points[at + 1], points[at + 2]];
    result[at] = x * scale;
    result[at + 1] = (turns === 0 ? y : -turns * z) * scale;
    result[at + 2] = (turns === 0 ? z : turns * y) * scale;
  }
  return result;
}

/** xyz triples that have no length of their own. */
export function turnedDirections(directions: Float32Array, { turns }: Similarity): Float32Array {
  return placedPoints(directions, { scale: 1, turns });
}

/** Hangs all of a scene on one node that scales and turns. */
export function placeInRootNode(document: Document, map: Similarity): void {
  const { scale } = map;
  for (const scene of document.getRoot().listScenes()) {
    const holder = document.createNode('').setScale([scale, scale, scale]).setRotation(turnOf(map));
    for (const child of scene.listChildren()) holder.addChild(child);
    scene.addChild(holder);
  }
}

/**
 * Scales and turns every number of a document: places, points, normals, morphs, bind matrices and keys of clips. Each local matrix M
 * becomes S·M·S⁻¹, S being the scale and the turn, so that all that hangs together does so as before. Lights and cameras go on
 * looking where they looked.
 */
export function placeInData(document: Document, map: Similarity): void {
  const root = document.getRoot();
  const animated = new Set(
    root.listAnimations().flatMap((one) => one.listChannels().map((channel) => channel.getTargetNode())),
  );
  for (const node of root.listNodes()) {
    node.setTranslation([...placedPoints(new Float32Array(node.getTranslation()), map)] as vec3);
    node.setRotation(turnedRotation(node.getRotation(), map));
    node.setScale(turnedScale(node.getScale(), map));
    placeInstances(node, map);
    if (map.turns !== 0) keepLooking(document, node, map, animated.has(node));
  }
  const done = new Set<Accessor>();
  const once = (accessor: Accessor | null, change: (values: Float32Array) => Float32Array): void => {
    if (!accessor || done.has(accessor)) return;
    done.add(accessor);
    rewrite(accessor, change);
  };
  for (const mesh of root.listMeshes())
    for (const primitive of mesh.listPrimitives())
      for (const shape of [primitive, ...primitive.listTargets()]) {
        once(shape.getAttribute('POSITION'), (values) => placedPoints(values, map));
        once(shape.getAttribute('NORMAL'), (values) => turnedDirections(values, map));
        const isTarget = shape !== primitive;
        once(shape.getAttribute('TANGENT'), (values) =>
          isTarget ? turnedDirections(values, map) : turnedTangents(values, map),
        );
      }
  for (const skin of root.listSkins())
    once(skin.getInverseBindMatrices(), (values) => turnedMatrices(values, map));
  for (const animation of root.listAnimations())
    for (const channel of animation.listChannels()) {
      const output = channel.getSampler()?.getOutput() ?? null;
      switch (channel.getTargetPath()) {
        case 'translation':
          once(output, (values) => placedPoints(values, map));
          break;
        case 'rotation':
          once(output, (values) => turnedRotations(values, map));
          break;
        case 'scale':
          once(output, (values) => turnedScales(values, map));
          break;
        default:
          break;
      }
    }
}

function rewrite(accessor: Accessor, change: (values: Float32Array) => Float32Array): void {
  accessor.setArray(new Float32Array(change(elements(accessor)))).setNormalized(false);
}

/** They look along −Z of their own node, which has turned with all others: one more turn brings them back. */
function keepLooking(document: Document, node: Node, map: Similarity, isAnimated: boolean): void {
  const camera = node.getCamera();
  const light = node.getExtension('KHR_lights_punctual');
  if (!camera && !light) return;
  const turn = turnOf(map);
  if (!isAnimated && node.listChildren().length === 0) {
    node.setRotation([...quat.multiply(quat.create(), node.getRotation(), turn)] as vec4);
    return;
  }
  const own = document
    .createNode(node.getName())
    .setRotation(turn)
    .setCamera(camera)
    .setExtension('KHR_lights_punctual', light);
  node.setCamera(null).setExtension('KHR_lights_punctual', null).addChild(own);
}

function placeInstances(node: Node, map: Similarity): void {
  const instanced = node.getExtension('EXT_mesh_gpu_instancing') as {
    getAttribute(name: string): Accessor | null;
  } | null;
  if (!instanced) return;
  const [translations, rotations, scales] = ['TRANSLATION', 'ROTATION', 'SCALE'].map((name) =>
    instanced.getAttribute(name),
  );
  if (translations) rewrite(translations, (values) => placedPoints(values, map));
  if (rotations) rewrite(rotations, (values) => turnedRotations(values, map));
  if (scales) rewrite(scales, (values) => turnedScales(values, map));
}

function turnedTangents(values: Float32Array, { turns }: Similarity): Float32Array {
  const result = values.slice();
  if (turns === 0) return result;
  for (let at = 0; at < values.length; at += 4) {
    result[at + 1] = -turns * (values[at + 2] ?? 0);
    result[at + 2] = turns * (values[at + 1] ?? 0);
  }
  return result;
}

function turnedRotation(value: vec4, map: Similarity): vec4 {
  return [...turnedRotations(new Float32Array(value), map)] as vec4;
}

/** R·q·R⁻¹: the axis turns, the angle stays. Tangents of cubic splines turn alike. */
function turnedRotations(values: Float32Array, { turns }: Similarity): Float32Array {
  return turnedTangents(values, { scale: 1, turns });
}

/** Along the axes that they have now: a scale has no direction. */
function turnedScale([x, y, z]: vec3, { turns }: Similarity): vec3 {
  return turns === 0 ? [x, y, z] : [x, z, y];
}

function turnedScales(values: Float32Array, map: Similarity): Float32Array {
  if (map.turns === 0) return values;
  const result = values.slice();
  for (let at = 0; at < values.length; at += 3) {
    result[at + 1] = values[at + 2] ?? 0;
    result[at + 2] = values[at + 1] ?? 0;
  }
  return result;
}

/** S·M·S⁻¹ of matrices in column-major order: R·A·R⁻¹ moves entries, and the scale meets the last column alone. */
function turnedMatrices(values: Float32Array, { scale, turns }: Similarity): Float32Array {
  const result = values.slice();
  const axes = turns === 0 ? ([0, 1, 2] as const) : ([0, 2, 1] as const);
  // Where axis Y or Z comes from, with the sign that it has there.
  const signs = [1, turns === 0 ? 1 : -turns, turns === 0 ? 1 : turns] as const;
  for (let at = 0; at < values.length; at += 16)
    for (const row of [0, 1, 2] as const) {
      for (const column of [0, 1, 2] as const)
        result[at + column * 4 + row] =
          (values[at + axes[column] * 4 + axes[row]] ?? 0) * signs[row] * signs[column];
      result[at + 12 + row] = (values[at + 12 + axes[row]] ?? 0) * signs[row] * scale;
    }
  return result;
}
