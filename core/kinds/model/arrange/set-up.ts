import type { Animation, AnimationChannel, Document, Node, vec3, vec4 } from '@gltf-transform/core';
import { quat } from 'gl-matrix';
import type { Layer, Prop, SetUp } from '../../../../contract/arrangements.ts';
import { plural } from '../../../figures.ts';
import type { ReadRequest } from '../../reading.ts';
import { mergeModels, openBeside } from '../mend/merge-models.ts';
import { addTrack } from '../pose/add-track.ts';
import { boneKey } from '../pose/bone-names.ts';
import { bonesInMask } from '../pose/bone-mask.ts';
import { layOver, type Move } from '../pose/lay-over.ts';
import { spanOfClip, valuesAt } from '../pose/pose-at.ts';
import { partsByKey } from './part-keys.ts';

/** Keys to a second of layers that are made one clip. */
const bakedRate = 30;
const mostKeys = 20_000;

/**
 * Sets a model up as somebody had it in the viewer: parts that were left out are gone, moved parts stand where they were put, props
 * hang on their bones, and layers of clips are one clip of the set-up's name.
 * @returns what was done and what could not be done, in words
 */
export async function applySetUp(
  document: Document,
  name: string,
  { leftOut, moved, props, layers }: SetUp,
  request: ReadRequest,
): Promise<string[]> {
  const parts = partsByKey(document);
  const notes: string[] = [];
  const gone: string[] = [];
  for (const { part, place, turnDegrees, scale } of moved) {
    const found = parts.get(part) ?? [];
    if (found.length === 0) gone.push(part);
    for (const { node, isAlone } of found) {
      if (!isAlone || node.getSkin()) {
        notes.push(`“${part}” is not moved: it follows bones, or shares its place with others`);
        continue;
      }
      const [x, y, z] = node.getTranslation();
      node
        .setTranslation([x + place[0], y + place[1], z + place[2]])
        .setRotation(product(node.getRotation(), turnOf(turnDegrees)))
        .setScale(node.getScale().map((value) => value * scale) as vec3);
    }
  }
  if (moved.length > 0) notes.push(`${plural(moved.length, 'part')} moved`);
  for (const part of leftOut) {
    const found = parts.get(part) ?? [];
    if (found.length === 0) gone.push(part);
    for (const { node, primitive } of found) {
      const mesh = node.getMesh();
      // Another place may show the same mesh, and keep it whole.
      const own = mesh && mesh.listParents().length > 2 ? mesh.clone() : mesh;
      own?.removePrimitive(primitive);
      node.setMesh(own && own.listPrimitives().length > 0 ? own : null);
      if (!node.getMesh()) node.setSkin(null);
    }
  }
  if (leftOut.length > 0) notes.push(`${plural(leftOut.length, 'part')} left out`);
  if (layers.length > 0) notes.push(...(await bakeLayers(document, name, layers, request)));
  for (const prop of props) notes.push(...(await hang(document, prop, request)));
  if (gone.length > 0) notes.push(`not there any more: ${gone.map((part) => `“${part}”`).join(', ')}`);
  return notes;
}

/** About x, then y, then z of its own. */
function turnOf([x, y, z]: readonly [number, number, number]): quat {
  const about = (axis: vec3, degrees: number): quat =>
    quat.setAxisAngle(quat.create(), axis, (degrees * Math.PI) / 180);
  const turn = quat.multiply(quat.create(), about([1, 0, 0], x), about([0, 1, 0], y));
  return quat.multiply(turn, turn, about([0, 0, 1], z));
}

function product(rotation: vec4, turn: quat): vec4 {
  return [...quat.multiply(quat.create(), rotation, turn)] as vec4;
}

async function hang(
  document: Document,
  { path, on, place, turnDegrees, scale }: Prop,
  request: ReadRequest,
): Promise<string[]> {
  const root = document.getRoot();
  const joints = new Set(root.listSkins().flatMap((skin) => skin.listJoints()));
  const named = root.listNodes().filter((node) => boneKey(node.getName()) === boneKey(on));
  const target = on === '' ? null : (named.find((node) => joints.has(node)) ?? named[0]);
  if (target === undefined) return [`${path} does not hang: the model has nothing that is called “${on}”`];
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  const before = new Set(scene?.listChildren());
  try {
    await mergeModels(document, request, [path]);
  } catch (error) {
    return [`${path} does not hang: ${error instanceof Error ? error.message : String(error)}`];
  }
  const holder = document
    .createNode(path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, ''))
    .setTranslation([...place])
    .setRotation([...turnOf(turnDegrees)] as vec4)
    .setScale([scale, scale, scale]);
  const now = root.getDefaultScene() ?? root.listScenes()[0];
  for (const node of now?.listChildren() ?? []) if (!before.has(node)) holder.addChild(node);
  if (target) target.addChild(holder);
  else now?.addChild(holder);
  return [`${path} hung on ${on === '' ? 'the model' : `“${target?.getName() ?? on}”`}`];
}

/** What a layer moves of one bone. */
interface Track {
  node: Node;
  move: Move;
  channel: AnimationChannel;
  seconds: number;
  weight: number;
}

const pathOfMove = { position: 'translation', rotation: 'rotation', scale: 'scale' } as const;

async function bakeLayers(
  document: Document,
  name: string,
  layers: readonly Layer[],
  request: ReadRequest,
): Promise<string[]> {
  const notes: string[] = [];
  const tracks: Track[] = [];
  const nodes = document.getRoot().listNodes();
  const places = new Map(nodes.map((node, at) => [node, at]));
  const bones = nodes.map((node) => ({
    name: node.getName(),
    parent: places.get(node.getParentNode() as Node) ?? -1,
  }));
  const byKey = new Map<string, Node>();
  const joints = new Set(
    document
      .getRoot()
      .listSkins()
      .flatMap((skin) => skin.listJoints()),
  );
  for (const node of nodes) {
    const key = boneKey(node.getName());
    if (key !== '' && (!byKey.has(key) || joints.has(node))) byKey.set(key, node);
  }
  let seconds = 0;
  for (const { path, clip, weight, moves, mask } of layers) {
    const from = path === '' ? document : (await openBeside(request, path)).document;
    const animation = clipCalled(from, clip);
    if (!animation) {
      notes.push(`there is no clip “${clip}”${path === '' ? '' : ` in ${path}`}`);
      continue;
    }
    const { last } = spanOfClip(animation);
    seconds = Math.max(seconds, last);
    const inMask = bonesInMask(bones, mask);
    for (const channel of animation.listChannels()) {
      const move = (['position', 'rotation', 'scale'] as const).find(
        (one) => pathOfMove[one] === channel.getTargetPath(),
      );
      const source = channel.getTargetNode();
      const node = source && (path === '' ? source : byKey.get(boneKey(source.getName())));
      if (!move || !node || !moves.includes(move) || !inMask.has(places.get(node) ?? -1)) continue;
      tracks.push({ node, move, channel, seconds: last, weight });
    }
  }
  if (tracks.length === 0) return [...notes, 'no layer moves anything'];
  const count = Math.min(mostKeys, Math.max(1, Math.round(seconds * bakedRate)));
  const times = Array.from({ length: count + 1 }, (_, at) => (seconds * at) / count);
  const buffer = document.getRoot().listBuffers()[0] ?? null;
  const input = document
    .createAccessor()
    .setType('SCALAR')
    .setArray(new Float32Array(times))
    .setBuffer(buffer);
  const baked = document.createAnimation(name);
  const ofTarget = new Map<string, Track[]>();
  for (const track of tracks) {
    const key = `${places.get(track.node) ?? -1} ${track.move}`;
    ofTarget.set(key, [...(ofTarget.get(key) ?? []), track]);
  }
  for (const own of ofTarget.values()) {
    const [{ node, move }] = own as [Track];
    const values = times.flatMap((time) => layered(own, node, move, time));
    addTrack(document, baked, node, pathOfMove[move], input, values);
  }
  return [...notes, `${plural(layers.length, 'layer')} made one clip, “${name}”, of ${seconds.toFixed(2)} s`];
}

function clipCalled(document: Document, name: string): Animation | undefined {
  const all = document.getRoot().listAnimations();
  return all.find((animation) => animation.getName() === name) ?? (all.length === 1 ? all[0] : undefined);
}

/** Values of one thing at a moment: its rest with each layer over it; each goes round by itself. */
function layered(tracks: readonly Track[], node: Node, move: Move, time: number): number[] {
  const rest = { position: node.getTranslation(), rotation: node.getRotation(), scale: node.getScale() };
  const values: number[] = [...rest[move]];
  for (const { channel, seconds, weight } of tracks) {
    const sampler = channel.getSampler();
    if (!sampler) continue;
    const moment = seconds > 0 && time > seconds ? time % seconds : time;
    const above = valuesAt(sampler, Math.min(moment, seconds), move === 'rotation');
    if (above.length === values.length) layOver(values, above, weight, move === 'rotation');
  }
  return values;
}
