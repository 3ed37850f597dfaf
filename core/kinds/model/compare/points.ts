import type { Document } from '@gltf-transform/core';
import { plural } from '../../../figures.ts';
import { lengthText, type LengthUnit } from '../../comparing.ts';
import { triangleCount, worldPositions } from '../triangles.ts';

/** A point that moved less than this stands where it stood, in metres. */
const sameMetres = 1e-6;

/** What differs of what a model draws without triangles: points, and the ends of lines. */
export interface PointDifference {
  old: number;
  new: number;
  /** Of equal numbers, in the order in which they are written; else 0. */
  moved: number;
  greatestMetres: number;
}

/** xyz triples in metres of all points and ends of lines of the default scene. */
export function pointsOf(document: Document): Float32Array {
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  const pieces: Float32Array[] = [];
  scene?.traverse((node) => {
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      const positions = triangleCount(primitive) === 0 ? worldPositions(node, primitive) : null;
      if (positions) pieces.push(positions);
    }
  });
  const points = new Float32Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    points.set(piece, at);
    at += piece.length;
  }
  return points;
}

/** @returns null where neither has points */
export function comparePoints(old: Float32Array, now: Float32Array): PointDifference | null {
  if (old.length + now.length === 0) return null;
  const result = { old: old.length / 3, new: now.length / 3, moved: 0, greatestMetres: 0 };
  if (old.length !== now.length) return result;
  for (let at = 0; at < now.length; at += 3) {
    const metres = Math.hypot(...[0, 1, 2].map((axis) => (now[at + axis] ?? 0) - (old[at + axis] ?? 0)));
    const isNowhere = (points: Float32Array): boolean => !points.subarray(at, at + 3).every(Number.isFinite);
    // What is nowhere in both did not move.
    if (metres <= sameMetres || (isNowhere(old) && isNowhere(now))) continue;
    result.moved++;
    if (Number.isFinite(metres)) result.greatestMetres = Math.max(result.greatestMetres, metres);
  }
  return result;
}

/** In words; empty where nothing differs. */
export function describePoints(
  { old, new: now, moved, greatestMetres }: PointDifference,
  lengths: LengthUnit,
): string {
  if (old !== now) return `${plural(now, 'point')} instead of ${old.toLocaleString('en')}`;
  return moved === 0
    ? ''
    : `${moved.toLocaleString('en')} of ${plural(now, 'point')} moved, by up to ${lengthText(greatestMetres, lengths)}`;
}
