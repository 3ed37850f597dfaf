import sharp from 'sharp';
import { seedOf, seeded } from '../seeded.ts';
import { box, joined, placed, tube, turned, type Shape } from '../shapes.ts';
import { sceneOf, type GrownPart } from './scene-parts.ts';

export interface Isle {
  name: string;
  /** Metres from side to side. */
  size: number;
  /** Metres above the water, at most. */
  height: number;
}

export const isles: readonly Isle[] = [
  { name: 'isle_long', size: 60, height: 3 },
  { name: 'isle_mill', size: 40, height: 5 },
  { name: 'isle_lamp', size: 24, height: 4 },
  { name: 'isle_reed', size: 80, height: 1.6 },
  { name: 'isle_post', size: 34, height: 2.5 },
  { name: 'isle_tern', size: 18, height: 2 },
  { name: 'isle_king', size: 110, height: 9 },
  { name: 'isle_last', size: 50, height: 3.5 },
];

/** Cells from side to side, by level of detail. */
const cellsOf = [72, 44, 26, 14, 8] as const;

/** How high an isle is at a place of it, 0 to 1 from side to side; below 0 is under water. */
export function heightOf({ name, height }: Isle): (u: number, v: number) => number {
  const random = seeded(seedOf(name));
  const hills = Array.from({ length: 7 }, () => ({
    ...{ u: 0.25 + random() * 0.5, v: 0.25 + random() * 0.5, wide: 0.08 + random() * 0.16 },
    high: 0.4 + random() * 0.6,
  }));
  const [a, b] = [3 + random() * 4, random() * 6];
  return (u, v) => {
    let land = -0.35;
    for (const hill of hills)
      land += hill.high * Math.exp(-((u - hill.u) ** 2 + (v - hill.v) ** 2) / (2 * hill.wide ** 2));
    const edge = Math.min(1, 6 * Math.min(u, v, 1 - u, 1 - v));
    const rough = 0.05 * Math.sin(u * a * 9 + b) * Math.cos(v * a * 8);
    return height * (Math.min(1, land * 0.8) * edge - 0.35 * (1 - edge) + rough * edge);
  };
}

function ground(isle: Isle, cells: number, from: number, to: number): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  const at = heightOf(isle);
  const kept = new Map<number, number>();
  const corner = (column: number, row: number): number => {
    const key = row * (cells + 1) + column;
    const known = kept.get(key);
    if (known !== undefined) return known;
    const [u, v] = [column / cells, row / cells];
    const step = 0.5 / cells;
    const [dx, dz] = [at(u - step, v) - at(u + step, v), at(u, v - step) - at(u, v + step)];
    const flat = isle.size / cells;
    const length = Math.hypot(dx, flat, dz);
    shape.positions.push((u - 0.5) * isle.size, at(u, v), (v - 0.5) * isle.size);
    shape.normals.push(dx / length, flat / length, dz / length);
    shape.uvs.push((u * isle.size) / 4, (v * isle.size) / 4);
    kept.set(key, kept.size);
    return kept.size - 1;
  };
  for (let row = 0; row < cells; row++)
    for (let column = 0; column < cells; column++) {
      const middle = at((column + 0.5) / cells, (row + 0.5) / cells) / isle.height;
      if (middle < from || middle >= to) continue;
      const [a, b] = [corner(column, row), corner(column + 1, row)];
      const [c, d] = [corner(column, row + 1), corner(column + 1, row + 1)];
      shape.indices.push(a, c, b, b, c, d);
    }
  return shape;
}

/** An isle: mud under water, sand at its shore, moss above. */
export function isle(which: Isle, level: number): Promise<Uint8Array> {
  const cells = cellsOf[level] ?? 8;
  const layers: [
    name: string,
    material: string,
    colour: readonly [number, number, number],
    from: number,
    to: number,
  ][] = [
    ['bed', 'mud_wet', [0.07, 0.05, 0.03], -Infinity, -0.02],
    ['shore', 'sand_pale', [0.6, 0.48, 0.28], -0.02, 0.14],
    ['bank', 'moss_bank', [0.12, 0.2, 0.05], 0.14, Infinity],
  ];
  const parts: GrownPart[] = layers
    .map(([name, material, colour, from, to]) => ({
      name,
      material,
      colour,
      shape: ground(which, cells, from, to),
    }))
    .filter(({ shape }) => shape.indices.length > 0);
  if (level === 0)
    parts.push({
      name: `occluder_${which.name}`,
      material: 'helper',
      colour: [0.9, 0.1, 0.7],
      shape: box([0, -which.height * 0.2, 0], [which.size * 0.5, which.height * 0.5, which.size * 0.5]),
    });
  return sceneOf(which.name, parts);
}

/** The same heights as a picture of 16 bits: what a level’s tools read. 0 is the deepest, 65,535 the highest place. */
export async function heightField(which: Isle, pixels: number): Promise<Uint8Array> {
  const at = heightOf(which);
  const values = new Uint16Array(pixels * pixels);
  for (let row = 0; row < pixels; row++)
    for (let column = 0; column < pixels; column++) {
      const metres = at(column / (pixels - 1), row / (pixels - 1));
      const share = (metres / which.height + 0.6) / 1.8;
      values[row * pixels + column] = Math.max(0, Math.min(65_535, Math.round(share * 65_535)));
    }
  return sharp(values, { raw: { width: pixels, height: pixels, channels: 1 } })
    .toColourspace('grey16')
    .png({ compressionLevel: 6 })
    .toBuffer();
}

/** Colours of the ground by its height, 0 to 1 of the highest place: mud under water, sand, moss, dry grass. */
const groundColours: readonly (readonly [height: number, red: number, green: number, blue: number])[] = [
  [-0.5, 46, 58, 56],
  [-0.05, 92, 84, 62],
  [0.03, 196, 172, 122],
  [0.14, 150, 148, 84],
  [0.4, 88, 116, 58],
  [1, 128, 128, 74],
];

/** An isle from above, as its maps show it. */
export async function groundPicture(which: Isle, pixels: number): Promise<Uint8Array> {
  const at = heightOf(which);
  const random = seeded(seedOf(`ground ${which.name}`));
  const rgb = new Uint8Array(pixels * pixels * 3);
  for (let row = 0; row < pixels; row++)
    for (let column = 0; column < pixels; column++) {
      const height = at(column / (pixels - 1), row / (pixels - 1)) / which.height;
      const above = groundColours.findIndex(([from]) => from > height);
      const high = groundColours[above < 0 ? groundColours.length - 1 : above] ?? [1, 0, 0, 0];
      const low = groundColours[Math.max(0, (above < 0 ? groundColours.length : above) - 1)] ?? high;
      const share = high[0] === low[0] ? 0 : Math.max(0, Math.min(1, (height - low[0]) / (high[0] - low[0])));
      const grain = 0.9 + random() * 0.2;
      for (const channel of [0, 1, 2] as const) {
        const [from, to] = [low[channel + 1] ?? 0, high[channel + 1] ?? 0];
        rgb[(row * pixels + column) * 3 + channel] = Math.min(255, (from + (to - from) * share) * grain);
      }
    }
  return sharp(rgb, { raw: { width: pixels, height: pixels, channels: 3 } })
    .jpeg({ quality: 86 })
    .toBuffer();
}

export interface Hut {
  name: string;
  wide: number;
  long: number;
  floors: number;
}

export const huts: readonly Hut[] = [
  { name: 'hut_ferry', wide: 4, long: 5, floors: 1 },
  { name: 'hut_reed', wide: 3, long: 4, floors: 1 },
  { name: 'hut_mill', wide: 5, long: 5, floors: 3 },
  { name: 'hut_lamp', wide: 3, long: 3, floors: 4 },
  { name: 'hut_market', wide: 6, long: 9, floors: 1 },
  { name: 'hut_net', wide: 3, long: 6, floors: 1 },
];

/** A hut on posts, with a thatched roof. */
export function hut({ name, wide, long, floors }: Hut, level: number): Promise<Uint8Array> {
  const high = 2.4 * floors;
  const around = [12, 9, 6, 5, 4][level] ?? 4;
  const posts = [-1, 1].flatMap((x) =>
    [-1, 0, 1].map((z) =>
      tube(
        [
          [x * wide * 0.42, -1.2, z * long * 0.42, 0.14],
          [x * wide * 0.42, 0.5, z * long * 0.42, 0.12],
        ],
        around,
      ),
    ),
  );
  const parts: GrownPart[] = [
    { name: 'posts', material: 'hull_oak', colour: [0.19, 0.1, 0.05], shape: joined(...posts) },
    {
      name: 'floor',
      material: 'deck_ash',
      colour: [0.38, 0.29, 0.18],
      shape: box([0, 0.55, 0], [wide * 1.15, 0.12, long * 1.15]),
    },
    {
      name: 'walls',
      material: 'hull_oak',
      colour: [0.24, 0.14, 0.07],
      shape: box([0, 0.6 + high / 2, 0], [wide, high, long]),
    },
    {
      name: 'roof',
      material: 'reed_thatch',
      colour: [0.38, 0.3, 0.12],
      shape: gable(wide * 1.3, long * 1.2, 0.6 + high, wide * 0.6),
    },
    {
      name: 'door',
      material: 'cabin_red',
      colour: [0.28, 0.05, 0.03],
      shape: box([0, 1.6, long / 2], [0.9, 1.9, 0.1]),
    },
    {
      name: `UCX_${name}`,
      material: 'helper',
      colour: [0.9, 0.1, 0.7],
      shape: box([0, 0.6 + high / 2, 0], [wide, high, long]),
    },
  ];
  if (level < 4) {
    const windows = Array.from({ length: floors }, (_, floor) =>
      [-1, 1].map((side) => box([(side * wide) / 2, 1.9 + floor * 2.4, 0], [0.1, 0.8, 0.9])),
    ).flat();
    parts.push({
      name: 'windows',
      material: 'lamp_glass',
      colour: [0.8, 0.5, 0.2],
      shape: joined(...windows),
    });
  }
  if (level < 3)
    parts.push({
      name: 'chimney',
      material: 'brass_worn',
      colour: [0.3, 0.2, 0.08],
      shape: placed(
        turned(
          [
            [0.2, 0],
            [0.16, 1.4],
            [0.24, 1.5],
            [0.02, 1.5],
          ],
          around,
        ),
        [wide * 0.25, 0.6 + high, 0],
      ),
    });
  return sceneOf(name, parts, level === 0 ? [{ name: 'loc_door', at: [0, 0.6, long / 2 + 0.4] }] : []);
}

/** A roof of two slopes. */
function gable(wide: number, long: number, from: number, high: number): Shape {
  const [x, z] = [wide / 2, long / 2];
  const length = Math.hypot(high, x);
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  for (const side of [-1, 1]) {
    const first = shape.positions.length / 3;
    shape.positions.push(side * x, from, -z, side * x, from, z, 0, from + high, z, 0, from + high, -z);
    for (let corner = 0; corner < 4; corner++) shape.normals.push((side * high) / length, x / length, 0);
    shape.uvs.push(0, 0, long / 2, 0, long / 2, 2, 0, 2);
    shape.indices.push(...[0, 1, 2, 0, 2, 3].map((corner) => first + corner));
    const end = shape.positions.length / 3;
    shape.positions.push(-x, from, side * z, x, from, side * z, 0, from + high, side * z);
    for (let corner = 0; corner < 3; corner++) shape.normals.push(0, 0, side);
    shape.uvs.push(0, 0, 2, 0, 1, 2);
    shape.indices.push(end, end + 1, end + 2);
  }
  return shape;
}
