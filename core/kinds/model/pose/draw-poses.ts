import type { Animation, Document, Node } from '@gltf-transform/core';
import type { Raster } from '../../reading.ts';
import { acrossPicture, drawBatches, type DrawnTriangles } from '../render.ts';
import { poseAt, spanOfClip } from './pose-at.ts';

const poses = 4;
/** Of the size of a pose. */
const stickShare = 0.018;
const gapShare = 0.06;
/** Linear light. */
const stickColour: [number, number, number] = [0.07, 0.17, 0.16];
/** Larger skeletons are drawn by so many of their bones. */
const mostSticks = 600;

/**
 * Poses of a clip, one beside the other: from its first moment to its last, each around its own middle, as sticks from bone to
 * bone. A clip by itself has no shape.
 * @returns null where nothing can be drawn
 */
export function drawPoses(document: Document, animation: Animation): Raster | null {
  const nodes = document.getRoot().listNodes();
  const pairs = nodes
    .flatMap((node) => {
      const parent = parentOf(node);
      return parent ? [{ node, parent }] : [];
    })
    .slice(0, mostSticks);
  if (pairs.length === 0) return null;
  const { first, last } = spanOfClip(animation);
  const shapes: { from: Triple; to: Triple }[][] = [];
  for (let pose = 0; pose < poses; pose++) {
    const restore = poseAt(animation, first + ((last - first) * pose) / (poses - 1));
    const sticks = pairs.map(({ node, parent }) => ({
      from: placeOf(parent),
      to: placeOf(node),
    }));
    restore();
    shapes.push(sticks.filter(({ from, to }) => [...from, ...to].every(Number.isFinite)));
  }
  const boxes = shapes.map(boxOf);
  const size = Math.max(
    ...boxes.flatMap(({ min, max }) => max.map((value, axis) => value - (min[axis] ?? 0))),
    0,
  );
  if (!(size > 0)) return null;
  const widths = boxes.map((box) => Math.max(widthOf(box), size * 0.1));
  const batches = shapes.map((sticks, pose): DrawnTriangles => {
    const { min, max } = boxes[pose] ?? { min: [0, 0, 0], max: [0, 0, 0] };
    const middle = min.map((value, axis) => (value + (max[axis] ?? 0)) / 2) as Triple;
    const before = widths.slice(0, pose).reduce((sum, width) => sum + width + size * gapShare, 0);
    const place = before + (widths[pose] ?? 0) / 2;
    const shift = acrossPicture.map((value) => value * place) as Triple;
    return batchOf(sticks, middle, shift, size * stickShare);
  });
  return drawBatches(
    batches,
    batches.map(() => ({ colour: stickColour, texture: null })),
  );
}

type Triple = [number, number, number];

function parentOf(node: Node): Node | null {
  const parent = node.getParentNode();
  // What hangs on nothing is no end of a bone: a stick from the middle of the world says nothing.
  return parent && (parent.getParentNode() !== null || distance(placeOf(parent), placeOf(node)) > 0)
    ? parent
    : null;
}

function placeOf(node: Node): Triple {
  const matrix = node.getWorldMatrix();
  return [matrix[12], matrix[13], matrix[14]];
}

function distance(a: Triple, b: Triple): number {
  return Math.hypot(...a.map((value, axis) => value - (b[axis] ?? 0)));
}

function boxOf(sticks: readonly { from: Triple; to: Triple }[]): { min: Triple; max: Triple } {
  const min: Triple = [Infinity, Infinity, Infinity];
  const max: Triple = [-Infinity, -Infinity, -Infinity];
  for (const { from, to } of sticks)
    for (const place of [from, to])
      for (let axis = 0; axis < 3; axis++) {
        min[axis] = Math.min(min[axis] ?? 0, place[axis] ?? 0);
        max[axis] = Math.max(max[axis] ?? 0, place[axis] ?? 0);
      }
  return sticks.length > 0 ? { min, max } : { min: [0, 0, 0], max: [0, 0, 0] };
}

/** How wide a box is as the picture is looked at. */
function widthOf({ min, max }: { min: Triple; max: Triple }): number {
  return acrossPicture.reduce(
    (sum, value, axis) => sum + Math.abs(value) * ((max[axis] ?? 0) - (min[axis] ?? 0)),
    0,
  );
}

/** Long octahedra: pointed at the end of each bone. */
function batchOf(
  sticks: readonly { from: Triple; to: Triple }[],
  middle: Triple,
  shift: Triple,
  thickness: number,
): DrawnTriangles {
  const positions = new Float32Array(sticks.length * 18);
  const indices = new Uint32Array(sticks.length * 24);
  sticks.forEach(({ from, to }, stick) => {
    const along = to.map((value, axis) => value - (from[axis] ?? 0)) as Triple;
    const length = Math.hypot(...along);
    const unit: Triple = length > 0 ? (along.map((value) => value / length) as Triple) : [0, 1, 0];
    const side = perpendicular(unit);
    const other = cross(unit, side);
    const knee = from.map((value, axis) => value + (along[axis] ?? 0) * 0.15) as Triple;
    const corners = [
      ...[from, to],
      ...([side, other, negative(side), negative(other)] as const).map(
        (direction) => knee.map((value, axis) => value + (direction[axis] ?? 0) * thickness) as Triple,
      ),
    ];
    corners.forEach((corner, at) =>
      corner.forEach((value, axis) => {
        positions[stick * 18 + at * 3 + axis] = value - (middle[axis] ?? 0) + (shift[axis] ?? 0);
      }),
    );
    const ring = [2, 3, 4, 5];
    ring.forEach((corner, at) => {
      const next = ring[(at + 1) % 4] ?? 2;
      indices.set(
        [0, next, corner, 1, corner, next].map((place) => place + stick * 6),
        stick * 24 + at * 6,
      );
    });
  });
  return { positions, indices, uvs: null };
}

function negative(of: Triple): Triple {
  return of.map((value) => -value) as Triple;
}

function cross([a, b, c]: Triple, [x, y, z]: Triple): Triple {
  return [b * z - c * y, c * x - a * z, a * y - b * x];
}

function perpendicular(unit: Triple): Triple {
  const other: Triple = Math.abs(unit[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const found = cross(unit, other);
  const length = Math.hypot(...found);
  return found.map((value) => value / length) as Triple;
}
