import type { Accessor, Document, Node, Primitive, Skin, mat4 } from '@gltf-transform/core';
import { mat4 as matrices } from 'gl-matrix';
import { plural } from '../../../figures.ts';
import { boneKey } from '../pose/bone-names.ts';
import { elements, numbersOf } from '../triangles.ts';
import { hangOnBones, hasJointAbove } from './bone-parents.ts';

/** Places that count as one, as a share of the skeleton's size, and how far axes may be turned. */
const placeTolerance = 1e-4;
const axisTolerance = 1e-3;
const listed = 6;

/**
 * Makes one skeleton with one root of all that a document has: bones of one name and one rest pose become one (a number behind the
 * name, as `.001`, is what programs put there where a name was taken; common practice), bones that hang on none get a parent, and what
 * has more than one root gets one above them. Bones of one name with another rest pose are told, and stay.
 * @param said bones with the bones that they are to hang on, as people have it
 * @returns what was done, in words
 */
export function joinSkeletons(document: Document, said: ReadonlyMap<string, string>): string[] {
  const root = document.getRoot();
  const notes = bindLoose(document);
  const skins = root.listSkins().sort((a, b) => b.listJoints().length - a.listJoints().length);
  if (skins.length === 0) return [...notes, 'it has no bones: there is nothing to join'];
  const matched = matchBones(skins);
  for (const skin of skins) repoint(document, skin, matched.kept);
  moveClips(document, matched.kept);
  takeApart(document, matched.kept);
  if (matched.doubles > 0) notes.push(`${plural(matched.doubles, 'double')} of bones joined`);
  if (matched.differing.length > 0)
    notes.push(
      `${plural(matched.differing.length, 'bone')} of one name stand elsewhere at rest and stay apart: ${matched.differing.slice(0, listed).join(', ')}${matched.differing.length > listed ? ' …' : ''}`,
    );
  notes.push(...hangOnBones(document, said), ...oneRoot(document));
  const left = oneSkin(document);
  const bones = new Set(root.listSkins().flatMap((skin) => skin.listJoints())).size;
  notes.push(
    left === 1
      ? `one skeleton of ${plural(bones, 'bone')}`
      : `one skeleton of ${plural(bones, 'bone')}, bound in ${left} ways`,
  );
  return notes;
}

/** Shapes that have weights and point to no skeleton hang on the one that there is, where it has as many bones as they ask for. */
function bindLoose(document: Document): string[] {
  const skins = document.getRoot().listSkins();
  const notes: string[] = [];
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh();
    if (!mesh || node.getSkin()) continue;
    let most = -1;
    for (const primitive of mesh.listPrimitives()) {
      const joints = primitive.getAttribute('JOINTS_0');
      if (joints) for (const joint of numbersOf(joints)) most = Math.max(most, joint);
    }
    if (most < 0) continue;
    const fitting = skins.filter((skin) => skin.listJoints().length > most);
    const [only] = fitting;
    if (only && fitting.length === 1) {
      node.setSkin(only);
      notes.push(`“${node.getName()}” has weights and no skeleton: bound to the one that there is`);
    } else
      notes.push(
        `“${node.getName()}” has weights and no skeleton, and ${plural(fitting.length, 'skeleton')} would do`,
      );
  }
  return notes;
}

interface Matched {
  /** What each bone became; itself where it stays. */
  kept: Map<Node, Node>;
  doubles: number;
  differing: string[];
}

function matchBones(skins: readonly Skin[]): Matched {
  const joints = [...new Set(skins.flatMap((skin) => skin.listJoints()))];
  const names = new Set(joints.map((joint) => boneKey(joint.getName())));
  const worlds = new Map(joints.map((joint) => [joint, joint.getWorldMatrix()]));
  const size = sizeOf([...worlds.values()]);
  const known = new Map<string, Node[]>();
  const matched: Matched = { kept: new Map(), doubles: 0, differing: [] };
  for (const joint of joints) {
    // Without a name nothing says that it is another one's double.
    const key = joint.getName() ? baseOf(boneKey(joint.getName()), names) : `\n${matched.kept.size}`;
    const others = known.get(key) ?? [];
    const world = worlds.get(joint) as mat4;
    const same = others.find((other) => standAlike(worlds.get(other) as mat4, world, size));
    if (same) {
      matched.kept.set(joint, same);
      matched.doubles++;
      continue;
    }
    if (others.length > 0 && joint.getName() !== '') matched.differing.push(`“${joint.getName()}”`);
    matched.kept.set(joint, joint);
    known.set(key, [...others, joint]);
  }
  return matched;
}

/** A name without the number behind it, where the name without it is there, too. */
function baseOf(key: string, names: ReadonlySet<string>): string {
  const base = /^(.+?)[._]\d{3}$/.exec(key)?.[1];
  return base !== undefined && names.has(base) ? base : key;
}

function sizeOf(worlds: readonly mat4[]): number {
  let size = 0;
  for (const axis of [12, 13, 14] as const) {
    const values = worlds.map((world) => world[axis]);
    size = Math.max(size, Math.max(...values) - Math.min(...values));
  }
  return size || 1;
}

function standAlike(a: mat4, b: mat4, size: number): boolean {
  return a.every((value, at) => {
    const difference = Math.abs(value - (b[at] ?? 0));
    return at >= 12
      ? difference <= size * placeTolerance
      : difference <= axisTolerance * Math.max(1, Math.abs(value));
  });
}

/** Lets a skin name the bones that stay: each once, bound so that nothing moves. */
function repoint(document: Document, skin: Skin, kept: ReadonlyMap<Node, Node>): void {
  const joints = skin.listJoints();
  if (joints.every((joint) => kept.get(joint) === joint)) return;
  const bind = skin.getInverseBindMatrices();
  const places: number[] = [];
  const now: Node[] = [];
  const binds: number[] = [];
  joints.forEach((joint, at) => {
    const other = kept.get(joint) ?? joint;
    const known = now.indexOf(other);
    places.push(known >= 0 ? known : now.length);
    if (known >= 0) return;
    now.push(other);
    const own = (bind ? bind.getElement(at, []) : matrices.create()) as mat4;
    if (other === joint) binds.push(...own);
    else {
      const back = matrices.invert(matrices.create(), other.getWorldMatrix()) ?? matrices.create();
      const moved = matrices.multiply(matrices.create(), back, joint.getWorldMatrix());
      binds.push(...matrices.multiply(matrices.create(), moved, own));
    }
  });
  for (const joint of joints) skin.removeJoint(joint);
  for (const joint of now) skin.addJoint(joint);
  skin.setSkeleton(null).setInverseBindMatrices(bindAccessor(document, binds));
  renumber(document, skin, places);
}

function bindAccessor(document: Document, binds: readonly number[]): Accessor {
  return document
    .createAccessor()
    .setType('MAT4')
    .setArray(new Float32Array(binds))
    .setBuffer(document.getRoot().listBuffers()[0] ?? null);
}

/** Gives the shapes of a skin the new numbers of their bones. */
function renumber(document: Document, skin: Skin, places: readonly number[]): void {
  if (places.every((place, at) => place === at)) return;
  const primitives = new Set<Primitive>();
  for (const node of document.getRoot().listNodes())
    if (node.getSkin() === skin)
      for (const primitive of node.getMesh()?.listPrimitives() ?? []) primitives.add(primitive);
  for (const primitive of primitives)
    for (const name of primitive.listSemantics().filter((one) => one.startsWith('JOINTS_'))) {
      const accessor = primitive.getAttribute(name);
      if (!accessor) continue;
      const numbers = Uint16Array.from(numbersOf(accessor), (joint) => places[joint] ?? 0);
      primitive.setAttribute(name, accessor.clone().setArray(numbers));
    }
}

/** What moved a double moves the bone that stays, unless that is moved there already. */
function moveClips(document: Document, kept: ReadonlyMap<Node, Node>): void {
  for (const animation of document.getRoot().listAnimations()) {
    const moved = new Set<string>();
    const keyOf = (node: Node, path: string | null): string =>
      `${[...kept.keys()].indexOf(node)} ${path ?? ''}`;
    const channels = animation.listChannels();
    for (const channel of channels) {
      const node = channel.getTargetNode();
      if (node && kept.get(node) === node) moved.add(keyOf(node, channel.getTargetPath()));
    }
    for (const channel of channels) {
      const node = channel.getTargetNode();
      const other = node && kept.get(node);
      if (!node || !other || other === node) continue;
      const key = keyOf(other, channel.getTargetPath());
      if (moved.has(key)) channel.dispose();
      else channel.setTargetNode(other);
      moved.add(key);
    }
  }
}

/** Takes doubles out of the tree; what hung on them hangs on the bones that stay. */
function takeApart(document: Document, kept: ReadonlyMap<Node, Node>): void {
  for (const [node, other] of kept) {
    if (node === other) {
      // A bone that is new keeps its place on what its parent became.
      const parent = node.getParentNode();
      const stays = parent && kept.get(parent);
      if (stays && stays !== parent) stays.addChild(node);
      continue;
    }
    for (const child of node.listChildren()) if (!isDouble(child, kept)) other.addChild(child);
    const mesh = node.getMesh();
    if (mesh) other.addChild(document.createNode(node.getName()).setMesh(mesh).setSkin(node.getSkin()));
  }
  for (const [node, other] of kept) if (node !== other) node.dispose();
}

function isDouble(node: Node, kept: ReadonlyMap<Node, Node>): boolean {
  const other = kept.get(node);
  return other !== undefined && other !== node;
}

/** A game engine wants one root (common practice): where there are more, one is put above them all. */
function oneRoot(document: Document): string[] {
  const skins = document.getRoot().listSkins();
  const joints = [...new Set(skins.flatMap((skin) => skin.listJoints()))];
  const isJoint = new Set(joints);
  const roots = joints.filter((joint) => !hasJointAbove(joint, isJoint));
  if (roots.length < 2) return [];
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  if (!scene) return [];
  const names = new Set(
    document
      .getRoot()
      .listNodes()
      .map((node) => node.getName()),
  );
  let name = 'root';
  for (let number = 2; names.has(name); number++) name = `root_${number}`;
  // Two may hang on one thing that is no bone.
  const tops = new Set(roots.map(topOf));
  const above = document.createNode(name);
  scene.addChild(above);
  for (const top of tops) above.addChild(top);
  for (const skin of skins) {
    const bind = skin.getInverseBindMatrices();
    const binds = bind ? [...elements(bind)] : skin.listJoints().flatMap(() => [...matrices.create()]);
    skin.addJoint(above).setInverseBindMatrices(bindAccessor(document, [...binds, ...matrices.create()]));
  }
  return [`${roots.length} roots hung on one, “${name}”`];
}

function topOf(node: Node): Node {
  let top = node;
  for (let above = node.getParentNode(); above; above = above.getParentNode()) top = above;
  return top;
}

/** Makes one skin of all where each bone is bound alike in every one. @returns how many are left */
function oneSkin(document: Document): number {
  const skins = document.getRoot().listSkins();
  const [first] = skins;
  if (!first || skins.length === 1) return skins.length;
  const binds = new Map<Node, number[]>();
  for (const skin of skins) {
    const bind = skin.getInverseBindMatrices();
    for (const [at, joint] of skin.listJoints().entries()) {
      const own = bind ? bind.getElement(at, []) : [...matrices.create()];
      const known = binds.get(joint);
      if (!known) binds.set(joint, own);
      else if (known.some((value, place) => Math.abs(value - (own[place] ?? 0)) > 1e-5)) return skins.length;
    }
  }
  const joints = [...binds.keys()];
  for (const skin of skins)
    renumber(
      document,
      skin,
      skin.listJoints().map((joint) => joints.indexOf(joint)),
    );
  const all = document
    .createSkin(first.getName())
    .setInverseBindMatrices(bindAccessor(document, [...binds.values()].flat()));
  for (const joint of joints) all.addJoint(joint);
  for (const node of document.getRoot().listNodes()) if (node.getSkin()) node.setSkin(all);
  for (const skin of skins) skin.dispose();
  return 1;
}
