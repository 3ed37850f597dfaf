import { vec3, type ReadonlyVec3 } from 'gl-matrix';
import { previewSize, type Raster, type ReadRequest } from '../reading.ts';
import type { TriangleBatch } from './triangles.ts';

const margin = 0.06;

/** The eye looks down from the front right; the light comes from the upper left. Fixed, so that previews look alike. */
const eye = vec3.normalize([0, 0, 0], [0.62, 0.48, 1]);
const light = vec3.normalize([0, 0, 0], [-0.35, 0.9, 0.6]);
const [[eyeX, eyeY, eyeZ], [lightX, lightY, lightZ]] = [eye, light] as [Triple, Triple];
type Triple = [number, number, number];

export interface Surface {
  /** Linear light, 0 to 1. */
  colour: [number, number, number];
  texture: Raster | null;
  /** Of each corner by itself, rgb triples of linear light. */
  colours?: Float32Array;
}

/**
 * A picture of a model from a fixed camera (parallel projection, whole model in view) in fixed light, on a
 * transparent ground. A z-buffer on the CPU: no browser, no GPU.
 * @returns null where nothing can be drawn
 */
export async function renderPreview(
  batches: readonly TriangleBatch[],
  raster: ReadRequest['raster'],
): Promise<Raster | null> {
  const ofMaterials = new Map<TriangleBatch['material'], Surface>();
  const surfaces: Surface[] = [];
  for (const batch of batches) {
    const surface = ofMaterials.get(batch.material) ?? (await surfaceOf(batch, raster));
    ofMaterials.set(batch.material, surface);
    surfaces.push(surface);
  }
  return drawBatches(batches, surfaces);
}

/** What is drawn of triangles. */
export type DrawnTriangles = Pick<TriangleBatch, 'positions' | 'uvs' | 'indices'>;

/** Draws each batch with its surface. @param size pixels of a side */
export function drawBatches(
  batches: readonly DrawnTriangles[],
  surfaces: readonly Surface[],
  size = previewSize,
): Raster | null {
  // Drawn at twice the size and averaged down, for smooth edges.
  const drawnSize = size * 2;
  const frame = frameOf(batches, drawnSize);
  if (!frame) return null;
  const target: Target = {
    side: drawnSize,
    colour: new Float32Array(drawnSize * drawnSize * 4),
    depth: new Float32Array(drawnSize * drawnSize),
  };
  target.depth.fill(-Infinity);
  batches.forEach((batch, at) => {
    const surface = surfaces[at];
    if (surface) drawBatch(batch, surface, frame, target);
  });
  return averageDown(target.colour, size);
}

const right = vec3.cross([0, 0, 0], [0, 1, 0], eye);
vec3.normalize(right, right);
const up = vec3.cross([0, 0, 0], eye, right);
/** From the left to the right of a picture, in the world. */
export const acrossPicture: readonly number[] = [...right];

/** What is drawn on: linear light and depth of each pixel of a square. */
interface Target {
  side: number;
  colour: Float32Array;
  depth: Float32Array;
}

interface Frame {
  scale: number;
  centreX: number;
  centreY: number;
}

function frameOf(batches: readonly DrawnTriangles[], drawnSize: number): Frame | null {
  let [left, bottom, rightmost, top] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { positions } of batches) {
    for (let at = 0; at < positions.length; at += 3) {
      const x = along(positions, at, right);
      const y = along(positions, at, up);
      if (!Number.isFinite(x) || !Number.isFinite(y)) continue;
      left = Math.min(left, x);
      rightmost = Math.max(rightmost, x);
      bottom = Math.min(bottom, y);
      top = Math.max(top, y);
    }
  }
  const extent = Math.max(rightmost - left, top - bottom);
  if (!(extent > 0)) return null;
  return {
    scale: (drawnSize * (1 - 2 * margin)) / extent,
    centreX: (left + rightmost) / 2,
    centreY: (bottom + top) / 2,
  };
}

async function surfaceOf({ material }: TriangleBatch, raster: ReadRequest['raster']): Promise<Surface> {
  const factor = material?.getBaseColorFactor() ?? [0.8, 0.8, 0.8, 1];
  const image = material?.getBaseColorTexture()?.getImage() ?? null;
  const colour: [number, number, number] = [factor[0] ?? 0.8, factor[1] ?? 0.8, factor[2] ?? 0.8];
  // A picture inside a model that cannot be decoded costs the preview its texture and nothing more.
  const texture = image ? await raster(image, 512).catch(() => null) : null;
  return { colour, texture };
}

function drawBatch(
  { positions, uvs, indices }: DrawnTriangles,
  surface: Surface,
  frame: Frame,
  target: Target,
): void {
  const count = positions.length / 3;
  const drawnSize = target.side;
  const screen = new Float32Array(count * 3);
  for (let vertex = 0; vertex < count; vertex++) {
    screen[vertex * 3] = (along(positions, vertex * 3, right) - frame.centreX) * frame.scale + drawnSize / 2;
    screen[vertex * 3 + 1] = drawnSize / 2 - (along(positions, vertex * 3, up) - frame.centreY) * frame.scale;
    screen[vertex * 3 + 2] = along(positions, vertex * 3, eye);
  }
  for (let at = 0; at + 2 < indices.length; at += 3) {
    const a = indices[at] ?? 0;
    const b = indices[at + 1] ?? 0;
    const c = indices[at + 2] ?? 0;
    drawTriangle(a, b, c, screen, shade(positions, a, b, c), uvs, surface, target);
  }
}

/** Lambert's cosine on both sides, with a floor so that nothing sinks into black. */
function shade(positions: Float32Array, a: number, b: number, c: number): number {
  const [ax = 0, ay = 0, az = 0] = [positions[a * 3], positions[a * 3 + 1], positions[a * 3 + 2]];
  const [ux, uy, uz] = [
    (positions[b * 3] ?? 0) - ax,
    (positions[b * 3 + 1] ?? 0) - ay,
    (positions[b * 3 + 2] ?? 0) - az,
  ];
  const [vx, vy, vz] = [
    (positions[c * 3] ?? 0) - ax,
    (positions[c * 3 + 1] ?? 0) - ay,
    (positions[c * 3 + 2] ?? 0) - az,
  ];
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const squared = x * x + y * y + z * z;
  const perLength = squared > 0 ? 1 / Math.sqrt(squared) : 0;
  const facing = x * eyeX + y * eyeY + z * eyeZ < 0 ? -perLength : perLength;
  return 0.42 + 0.58 * Math.max(0, (x * lightX + y * lightY + z * lightZ) * facing);
}

function drawTriangle(
  a: number,
  b: number,
  c: number,
  screen: Float32Array,
  brightness: number,
  uvs: Float32Array | null,
  { colour, texture, colours }: Surface,
  target: Target,
): void {
  const ax = screen[a * 3] ?? 0;
  const ay = screen[a * 3 + 1] ?? 0;
  const bx = screen[b * 3] ?? 0;
  const by = screen[b * 3 + 1] ?? 0;
  const cx = screen[c * 3] ?? 0;
  const cy = screen[c * 3 + 1] ?? 0;
  const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
  if (!(Math.abs(area) > 1e-9)) return;
  const drawnSize = target.side;
  const firstX = Math.max(0, Math.floor(Math.min(ax, bx, cx)));
  const lastX = Math.min(drawnSize - 1, Math.ceil(Math.max(ax, bx, cx)));
  const firstY = Math.max(0, Math.floor(Math.min(ay, by, cy)));
  const lastY = Math.min(drawnSize - 1, Math.ceil(Math.max(ay, by, cy)));
  const az = screen[a * 3 + 2] ?? 0;
  const bz = screen[b * 3 + 2] ?? 0;
  const cz = screen[c * 3 + 2] ?? 0;
  // Weights of the corners are linear in x and y: their steps stay the same over the triangle.
  const stepA = (by - cy) / area;
  const stepB = (cy - ay) / area;
  const red = toByte(colour[0] * brightness);
  const green = toByte(colour[1] * brightness);
  const blue = toByte(colour[2] * brightness);
  for (let y = firstY; y <= lastY; y++) {
    let wa = ((bx - firstX - 0.5) * (cy - y - 0.5) - (by - y - 0.5) * (cx - firstX - 0.5)) / area - stepA;
    let wb = ((cx - firstX - 0.5) * (ay - y - 0.5) - (cy - y - 0.5) * (ax - firstX - 0.5)) / area - stepB;
    for (let x = firstX; x <= lastX; x++) {
      wa += stepA;
      wb += stepB;
      const wc = 1 - wa - wb;
      if (wa < 0 || wb < 0 || wc < 0) continue;
      const depth = wa * az + wb * bz + wc * cz;
      const pixel = y * drawnSize + x;
      if (depth <= (target.depth[pixel] ?? -Infinity)) continue;
      const to = pixel * 4;
      if (texture && uvs) {
        const u = wa * (uvs[a * 2] ?? 0) + wb * (uvs[b * 2] ?? 0) + wc * (uvs[c * 2] ?? 0);
        const v = wa * (uvs[a * 2 + 1] ?? 0) + wb * (uvs[b * 2 + 1] ?? 0) + wc * (uvs[c * 2 + 1] ?? 0);
        const texel = texelAt(texture, u, v);
        if ((texture.rgba[texel + 3] ?? 255) < 128) continue;
        for (let channel = 0; channel < 3; channel++) {
          const texture8 = texture.rgba[texel + channel] ?? 0;
          target.colour[to + channel] = toByte(
            (colour[channel] ?? 0.8) * (linearOfByte[texture8] ?? 0) * brightness,
          );
        }
      } else if (colours) {
        for (let channel = 0; channel < 3; channel++) {
          const light =
            wa * (colours[a * 3 + channel] ?? 0) +
            wb * (colours[b * 3 + channel] ?? 0) +
            wc * (colours[c * 3 + channel] ?? 0);
          target.colour[to + channel] = toByte(light * brightness);
        }
      } else {
        target.colour[to] = red;
        target.colour[to + 1] = green;
        target.colour[to + 2] = blue;
      }
      target.depth[pixel] = depth;
      target.colour[to + 3] = 255;
    }
  }
}

/** Repeats, as glTF's default sampler does; (0, 0) is the upper left corner of the picture. */
function texelAt({ width, height }: Raster, u: number, v: number): number {
  const x = Math.min(width - 1, Math.floor((u - Math.floor(u)) * width));
  const y = Math.min(height - 1, Math.floor((v - Math.floor(v)) * height));
  return (y * width + x) * 4;
}

/** sRGB transfer curve, IEC 61966-2-1, in tables: the curve itself took two thirds of a rendering's time. */
const linearOfByte = Float32Array.from({ length: 256 }, (_, byte) => {
  const value = byte / 255;
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
});
const byteOfLinear = Float32Array.from({ length: 4097 }, (_, index) => {
  const linear = index / 4096;
  return 255 * (linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055);
});

function toByte(linear: number): number {
  return byteOfLinear[Math.min(4096, Math.max(0, Math.round(linear * 4096)))] ?? 0;
}

function averageDown(colour: Float32Array, size: number): Raster {
  const rgba = new Uint8Array(size * size * 4);
  const row = size * 8;
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const from = y * 2 * row + x * 8;
      const to = (y * size + x) * 4;
      // Clear pixels are black: the colour is the mean of the covered ones alone.
      const covered = sumOfFour(colour, from + 3, row) / 255;
      if (covered === 0) continue;
      for (let channel = 0; channel < 3; channel++)
        rgba[to + channel] = sumOfFour(colour, from + channel, row) / covered;
      rgba[to + 3] = (covered / 4) * 255;
    }
  }
  return { width: size, height: size, rgba };
}

function sumOfFour(values: Float32Array, at: number, row: number): number {
  return (values[at] ?? 0) + (values[at + 4] ?? 0) + (values[at + row] ?? 0) + (values[at + row + 4] ?? 0);
}

function along(positions: Float32Array, at: number, axis: ReadonlyVec3): number {
  return (
    (positions[at] ?? 0) * (axis[0] ?? 0) +
    (positions[at + 1] ?? 0) * (axis[1] ?? 0) +
    (positions[at + 2] ?? 0) * (axis[2] ?? 0)
  );
}
