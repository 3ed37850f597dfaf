import { mat4, vec3 } from 'gl-matrix';
import type { Placement } from '../../contract/facts.ts';
import { drawBatches, type DrawnTriangles, type Surface } from './model/render.ts';
import type { Raster, ReadRequest } from './reading.ts';

/** Models that are opened for a small picture: those that stand most often. */
const mostModels = 40;
const mostBytesOfModel = 4 * 1024 * 1024;
const mostBytes = 24 * 1024 * 1024;
/** Triangles that are drawn; what comes after them stands there as a box. */
const mostTriangles = 300_000;
const mostPlacements = 20_000;
/** Of what the build lacks, in metres. */
const unknownMetres = 1;
/** Linear light: of boxes, and of what is missing. */
const boxColour: Surface['colour'] = [0.3, 0.33, 0.28];
const missingColour: Surface['colour'] = [0.5, 0.09, 0.03];
const colourPixels = 8;

interface Shape {
  parts: { positions: Float32Array; indices: Uint32Array; colour: Surface['colour'] }[];
  triangles: number;
  min: vec3;
  max: vec3;
}

/**
 * A map with its models where they stand, from the eye that all models are seen from; each in the mean colour of its picture.
 * What is too much is a box, and what the build lacks a small one of another colour.
 * @returns null where no model could be opened
 */
export async function drawMap(
  placements: readonly Placement[],
  request: Pick<ReadRequest, 'resolve' | 'platform' | 'raster'>,
): Promise<Raster | null> {
  const standing = placements.filter(({ model }) => model !== '').slice(0, mostPlacements);
  const counts = new Map<string, number>();
  for (const { model } of standing) counts.set(model, (counts.get(model) ?? 0) + 1);
  const shapes = new Map<string, Shape>();
  let bytesLeft = mostBytes;
  for (const [model] of [...counts].sort((a, b) => b[1] - a[1]).slice(0, mostModels)) {
    const bytes = await request.resolve(model);
    if (!bytes || bytes.length > Math.min(mostBytesOfModel, bytesLeft)) continue;
    bytesLeft -= bytes.length;
    // A model that cannot be read says so on its own page; here it is a box.
    const shape = await shapeOf(bytes, model, request).catch(() => null);
    if (shape) shapes.set(model, shape);
  }
  if (shapes.size === 0) return null;
  let left = mostTriangles;
  const lots = new Map<
    Surface['colour'],
    { positions: Float32Array; indices: Uint32Array; matrix: mat4 }[]
  >();
  const add = (
    colour: Surface['colour'],
    positions: Float32Array,
    indices: Uint32Array,
    matrix: mat4,
  ): void => {
    const lot = lots.get(colour) ?? [];
    lots.set(colour, lot);
    lot.push({ positions, indices, matrix });
  };
  for (const { model, position, rotation, scale } of standing) {
    const shape = shapes.get(model);
    const matrix = mat4.fromRotationTranslationScale(mat4.create(), rotation, position, scale);
    if (shape && shape.triangles <= left) {
      left -= shape.triangles;
      for (const { positions, indices, colour } of shape.parts) add(colour, positions, indices, matrix);
      continue;
    }
    const half = unknownMetres / 2;
    const box = shape
      ? boxBetween(shape.min, shape.max)
      : boxBetween([-half, 0, -half], [half, unknownMetres, half]);
    add(shape ? boxColour : missingColour, box.positions, box.indices, matrix);
  }
  const batches = [...lots].map(([colour, lot]) => ({ colour, triangles: joined(lot) }));
  return drawBatches(
    batches.map(({ triangles }) => triangles),
    batches.map(({ colour }) => ({ colour, texture: null })),
  );
}

async function shapeOf(
  bytes: Uint8Array,
  model: string,
  request: Parameters<typeof drawMap>[1],
): Promise<Shape | null> {
  const [{ openModel }, { trianglesOf }, { seenBatches }] = await Promise.all([
    import('./model/read.ts'),
    import('./model/triangles.ts'),
    import('./model/parts/seen-batches.ts'),
  ]);
  const { document } = await openModel({
    ...{ bytes, size: bytes.length, path: model, platform: request.platform, raster: request.raster },
    part: (start, end) => bytes.subarray(start, end),
    resolve: () => Promise.resolve(null),
  });
  const shape: Shape = {
    parts: [],
    triangles: 0,
    min: [Infinity, Infinity, Infinity],
    max: [-Infinity, -Infinity, -Infinity],
  };
  for (const { positions, indices, material } of seenBatches(trianglesOf(document))) {
    const [red = 0.8, green = 0.8, blue = 0.8] = material?.getBaseColorFactor() ?? [];
    const image = material?.getBaseColorTexture()?.getImage() ?? null;
    const mean = image ? await meanOf(image, request.raster).catch(() => null) : null;
    const colour: Surface['colour'] = [
      red * (mean?.[0] ?? 1),
      green * (mean?.[1] ?? 1),
      blue * (mean?.[2] ?? 1),
    ];
    shape.parts.push({ positions, indices, colour });
    shape.triangles += indices.length / 3;
    for (let at = 0; at < positions.length; at++) {
      const axis = at % 3;
      shape.min[axis] = Math.min(shape.min[axis] ?? 0, positions[at] ?? 0);
      shape.max[axis] = Math.max(shape.max[axis] ?? 0, positions[at] ?? 0);
    }
  }
  return shape.parts.length > 0 ? shape : null;
}

/** Mean of a picture, in linear light (IEC 61966-2-1). */
async function meanOf(image: Uint8Array, raster: ReadRequest['raster']): Promise<number[]> {
  const { rgba } = await raster(image, colourPixels);
  const sums = [0, 0, 0];
  for (let at = 0; at < rgba.length; at += 4)
    for (let channel = 0; channel < 3; channel++) {
      const value = (rgba[at + channel] ?? 0) / 255;
      sums[channel] =
        (sums[channel] ?? 0) + (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);
    }
  return sums.map((sum) => sum / Math.max(1, rgba.length / 4));
}

function boxBetween(min: vec3, max: vec3): { positions: Float32Array; indices: Uint32Array } {
  const corners = Array.from({ length: 8 }, (_, at) =>
    [0, 1, 2].map((axis) => ((at >> axis) & 1 ? max : min)[axis] ?? 0),
  );
  const sides = [
    ...[0, 1, 3, 0, 3, 2, 4, 7, 5, 4, 6, 7, 0, 5, 1, 0, 4, 5],
    ...[2, 3, 7, 2, 7, 6, 0, 2, 6, 0, 6, 4, 1, 7, 3, 1, 5, 7],
  ];
  return { positions: new Float32Array(corners.flat()), indices: new Uint32Array(sides) };
}

/** All of one colour as one list of triangles, where they stand. */
function joined(
  lot: readonly { positions: Float32Array; indices: Uint32Array; matrix: mat4 }[],
): DrawnTriangles {
  const positions = new Float32Array(lot.reduce((sum, one) => sum + one.positions.length, 0));
  const indices = new Uint32Array(lot.reduce((sum, one) => sum + one.indices.length, 0));
  const corner = vec3.create();
  let [place, next] = [0, 0];
  for (const { positions: own, indices: corners, matrix } of lot) {
    const first = place / 3;
    for (let at = 0; at < own.length; at += 3) {
      vec3.transformMat4(corner, [own[at] ?? 0, own[at + 1] ?? 0, own[at + 2] ?? 0], matrix);
      positions.set(corner, place);
      place += 3;
    }
    for (const at of corners) indices[next++] = first + at;
  }
  return { positions, indices, uvs: null };
}
