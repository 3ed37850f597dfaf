import type { MapScene } from '../../../contract/assets.ts';
import { groundExtents } from '../../../core/kinds/map/ground/ground-extents.ts';
import {
  fitGround,
  heightFieldOf,
  type FittedGround,
  type GroundExtent,
  type HeightField,
} from '../../../core/kinds/map/ground/height-field.ts';
import { unpackPixels } from '../../../core/kinds/picture/view/pixel-bytes.ts';
import { failureOf } from '../receive.ts';

export interface ToGroundWorker {
  /** Of the numbers of its picture; null for a ground that is flat. */
  address: string | null;
  scene: MapScene;
}

export type FromGroundWorker =
  { field: HeightField | null; fitted: FittedGround | null; likely: GroundExtent } | { reason: string };

/** More heights of a side are not drawn, nor looked at. */
const mostOfSide = 512;
const flat: GroundExtent = { x: 0, z: 0, width: 100, depth: 100, isFlipped: false };

/** A thread that reads a height field, and finds out where it lies. */
self.onmessage = ({ data }: MessageEvent<ToGroundWorker>): void => {
  read(data).then(
    (answer) => self.postMessage(answer),
    (error: unknown) =>
      self.postMessage({
        reason: error instanceof Error ? error.message : String(error),
      } satisfies FromGroundWorker),
  );
};

async function read({ address, scene }: ToGroundWorker): Promise<FromGroundWorker> {
  const field = address === null ? null : await fieldAt(address);
  const extents = groundExtents(scene, field ?? { columns: 101, rows: 101 });
  return { field, fitted: field && fitGround(field, scene.placements, extents), likely: extents[0] ?? flat };
}

async function fieldAt(address: string): Promise<HeightField> {
  const response = await fetch(address);
  if (!response.ok) throw new Error(await failureOf(response));
  const { pixels } = unpackPixels(await response.arrayBuffer());
  return heightFieldOf(pixels.data, pixels, mostOfSide);
}
