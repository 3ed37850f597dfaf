import type { Document, Node } from '@gltf-transform/core';
import type { NodeChanges } from '../../../../contract/comparisons.ts';
import { nameOfNode } from './pose.ts';

/** A node moved when it stands farther from where it stood than this, or is turned by more. */
const [movedMetres, turnedDegrees] = [0.001, 0.5];

/** Joints of all skins that came, went, moved, or hang on another one. Told by their names. */
export function compareBones(old: Document, now: Document): NodeChanges {
  return compareNodes(bonesOf(old), bonesOf(now));
}

/** The same of nodes that are no joints and have nothing to draw, nor anything below them that has. */
export function compareEmptyNodes(old: Document, now: Document): NodeChanges {
  return compareNodes(emptyNodesOf(old), emptyNodesOf(now));
}

interface Placed {
  parent: string;
  /** World matrix in column-major order. */
  matrix: readonly number[];
}

function compareNodes(before: ReadonlyMap<string, Placed>, after: ReadonlyMap<string, Placed>): NodeChanges {
  const renamed = renamedNodes(before, after);
  const oldNames = new Map(renamed.map(({ from, to }) => [to, from]));
  const taken = new Set(oldNames.values());
  const added = [...after.keys()].filter((name) => !before.has(name) && !oldNames.has(name));
  const gone = [...before.keys()].filter((name) => !after.has(name) && !taken.has(name));
  const reparented: NodeChanges['reparented'] = [];
  const moved: NodeChanges['moved'] = [];
  for (const [bone, { parent, matrix }] of after) {
    const then = before.get(oldNames.get(bone) ?? bone);
    if (!then) continue;
    if (then.parent !== (oldNames.get(parent) ?? parent))
      reparented.push({ bone, from: then.parent, to: parent });
    const metres = metresBetween(then.matrix, matrix);
    const degrees = degreesBetween(then.matrix, matrix);
    if (metres > movedMetres || degrees > turnedDegrees) moved.push({ bone, metres, degrees });
  }
  moved.sort((a, b) => b.metres - a.metres || b.degrees - a.degrees || (a.bone < b.bone ? -1 : 1));
  return { added: added.sort(), gone: gone.sort(), reparented, moved, renamed };
}

/** One that went and one that came, at one place below the same one: it is called otherwise. */
function renamedNodes(
  before: ReadonlyMap<string, Placed>,
  after: ReadonlyMap<string, Placed>,
): { from: string; to: string }[] {
  const gone = [...before].filter(([name]) => !after.has(name));
  const renamed: { from: string; to: string }[] = [];
  const taken = new Set<string>();
  for (const [to, { parent, matrix }] of after) {
    if (before.has(to)) continue;
    const known = renamed.find((one) => one.to === parent)?.from ?? parent;
    const there = gone.find(
      ([name, then]) =>
        !taken.has(name) &&
        then.parent === known &&
        metresBetween(then.matrix, matrix) <= movedMetres &&
        degreesBetween(then.matrix, matrix) <= turnedDegrees,
    );
    if (!there) continue;
    taken.add(there[0]);
    renamed.push({ from: there[0], to });
  }
  return renamed;
}

function bonesOf(document: Document): Map<string, Placed> {
  return placedOf(
    new Set(
      document
        .getRoot()
        .listSkins()
        .flatMap((skin) => skin.listJoints()),
    ),
  );
}

function emptyNodesOf(document: Document): Map<string, Placed> {
  const taken = new Set<Node>(
    document
      .getRoot()
      .listSkins()
      .flatMap((skin) => skin.listJoints()),
  );
  for (const node of document.getRoot().listNodes())
    if (node.getMesh())
      for (let at: Node | null = node; at && !taken.has(at); at = at.getParentNode()) taken.add(at);
  return placedOf(
    document
      .getRoot()
      .listNodes()
      .filter((node) => !taken.has(node)),
  );
}

function placedOf(nodes: Iterable<Node>): Map<string, Placed> {
  const placed = new Map<string, Placed>();
  for (const node of nodes) {
    const parent = node.getParentNode();
    placed.set(nameOfNode(node), { parent: parent ? nameOfNode(parent) : '', matrix: node.getWorldMatrix() });
  }
  return placed;
}

export function metresBetween(a: readonly number[], b: readonly number[]): number {
  return Math.hypot(...[12, 13, 14].map((at) => (b[at] ?? 0) - (a[at] ?? 0)));
}

/** By how much one is turned against the other, whatever their scales. */
export function degreesBetween(a: readonly number[], b: readonly number[]): number {
  let trace = 0;
  for (let column = 0; column < 3; column++) {
    const [from, to] = [axisOf(a, column), axisOf(b, column)];
    const [long, other] = [Math.hypot(...from), Math.hypot(...to)];
    if (long === 0 || other === 0) return 0;
    trace += from.reduce((sum, value, at) => sum + value * (to[at] ?? 0), 0) / long / other;
  }
  // The arc of a cosine near 1 has few digits: 1e-7 of trace is 0.02 degrees.
  return (Math.acos(Math.min(1, Math.max(-1, (trace - 1) / 2))) * 180) / Math.PI;
}

/** By which share the longest of its axes is longer or shorter than it was. */
export function scaleBetween(a: readonly number[], b: readonly number[]): number {
  return Math.max(
    ...[0, 1, 2].map((column) => {
      const [from, to] = [Math.hypot(...axisOf(a, column)), Math.hypot(...axisOf(b, column))];
      return Math.max(from, to) === 0 ? 0 : Math.abs(to - from) / Math.max(from, to);
    }),
  );
}

function axisOf(matrix: readonly number[], column: number): readonly number[] {
  return matrix.slice(column * 4, column * 4 + 3);
}
