import sharp from 'sharp';
import { seedOf, seeded } from '../seeded.ts';

type Colour = readonly [number, number, number];
type Pattern = 'boards' | 'cells' | 'weave' | 'waves' | 'shingles' | 'grain';

/** A surface that comes in all roles. */
export interface Surface {
  name: string;
  pattern: Pattern;
  low: Colour;
  high: Colour;
  /** 0 to 1. */
  roughness: number;
  metalness: number;
  /** Colour of what shines by itself; nothing for what does not. */
  glow?: Colour;
  /** Pixels a side. */
  size: 512 | 1024;
}

const surface = (
  name: string,
  pattern: Pattern,
  low: Colour,
  high: Colour,
  more: Partial<Surface> = {},
): Surface => ({ name, pattern, low, high, roughness: 0.8, metalness: 0, size: 512, ...more });

/** What the marsh is made of, from build 0.6 on. */
export const surfaces: readonly Surface[] = [
  surface('hull_oak', 'boards', [74, 46, 28], [148, 104, 66], { size: 1024 }),
  surface('deck_ash', 'boards', [132, 112, 82], [196, 178, 140]),
  surface('cabin_red', 'boards', [104, 30, 22], [176, 62, 44], { roughness: 0.6 }),
  surface('rope_hemp', 'weave', [116, 92, 58], [196, 170, 122]),
  surface('brass_worn', 'grain', [96, 70, 30], [206, 160, 82], { roughness: 0.35, metalness: 1 }),
  surface('tin_roof', 'waves', [70, 84, 88], [150, 166, 168], { roughness: 0.45, metalness: 0.8 }),
  surface('lamp_glass', 'grain', [210, 150, 70], [255, 224, 160], {
    roughness: 0.15,
    glow: [255, 206, 120],
  }),
  surface('reed_thatch', 'shingles', [110, 92, 52], [190, 166, 104], { size: 1024 }),
  surface('mud_wet', 'cells', [52, 42, 34], [104, 88, 70], { roughness: 0.4 }),
  surface('moss_bank', 'cells', [42, 62, 30], [122, 148, 74], { size: 1024 }),
  surface('sand_pale', 'waves', [176, 156, 118], [226, 210, 174]),
  surface('plumage_grey', 'shingles', [84, 96, 106], [176, 188, 196]),
  surface('plumage_white', 'shingles', [188, 190, 186], [246, 246, 242]),
  surface('plumage_dusk', 'shingles', [58, 44, 66], [150, 112, 132]),
  surface('beak_horn', 'grain', [150, 96, 32], [222, 168, 78], { roughness: 0.5 }),
  surface('water_still', 'waves', [28, 62, 74], [72, 124, 132], { roughness: 0.1, size: 1024 }),
];

/** How high a surface is, 0 to 1, without a seam at its edges. */
function heights({ name, pattern, size }: Surface): Float32Array {
  const random = seeded(seedOf(name));
  const grid = 16;
  const lattice = Float32Array.from({ length: grid * grid }, random);
  const at = (x: number, y: number): number => lattice[(y % grid) * grid + (x % grid)] ?? 0;
  /** Value noise, smooth between the points of the lattice. @param times how often it repeats */
  const noise = (u: number, v: number, times: number): number => {
    const [x, y] = [u * grid * times, v * grid * times];
    const [left, top] = [Math.floor(x), Math.floor(y)];
    const [a, b] = [x - left, y - top];
    const [s, t] = [a * a * (3 - 2 * a), b * b * (3 - 2 * b)];
    const above = at(left, top) * (1 - s) + at(left + 1, top) * s;
    const below = at(left, top + 1) * (1 - s) + at(left + 1, top + 1) * s;
    return above * (1 - t) + below * t;
  };
  const turn = Math.PI * 2;
  const shapes: Readonly<Record<Pattern, (u: number, v: number, rough: number) => number>> = {
    boards: (_u, v, rough) => {
      const board = (v * 8) % 1;
      const joint = Math.min(1, Math.min(board, 1 - board) * 14);
      const grain = 0.5 + 0.5 * Math.sin(turn * (v * 64 + rough * 1.5));
      return joint * (0.45 + 0.35 * rough + 0.2 * grain);
    },
    cells: (_u, _v, rough) => 0.25 + 0.75 * rough,
    weave: (u, v, rough) => {
      const strand = Math.abs(Math.sin(turn * (u * 8 + v * 8)));
      return 0.2 + 0.6 * Math.sqrt(strand) + 0.2 * rough;
    },
    waves: (u, v, rough) =>
      0.5 + 0.32 * Math.sin(turn * (v * 12 + 0.7 * Math.sin(turn * u * 2) + rough)) + 0.18 * rough,
    shingles: (u, v, rough) => {
      const row = Math.floor(v * 16);
      const along = (u * 12 + (row % 2) / 2) % 1;
      const round = Math.sqrt(Math.max(0, 1 - (2 * along - 1) ** 2));
      return 0.15 + 0.6 * ((v * 16) % 1) * round + 0.25 * rough;
    },
    grain: (_u, _v, rough) => 0.55 + 0.45 * (rough - 0.5),
  };
  const values = new Float32Array(size * size);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const [u, v] = [x / size, y / size];
      const rough = noise(u, v, 1) * 0.6 + noise(u, v, 3) * 0.3 + noise(u, v, 8) * 0.1;
      values[y * size + x] = shapes[pattern](u, v, rough);
    }
  return values;
}

type Paint = (height: number, at: number) => readonly [number, number, number];

type Pictures = Promise<[name: string, bytes: Uint8Array][]>;

/** Most surfaces of a build are those of the one before. */
const painted = new Map<string, Pictures>();

/** All pictures of a surface, by the part of the name that says their role. */
export function picturesOf(surface: Surface): Pictures {
  const key = JSON.stringify(surface);
  const made = painted.get(key) ?? paintedAnew(surface);
  painted.set(key, made);
  return made;
}

async function paintedAnew(surface: Surface): Pictures {
  const { name, size, low, high, roughness, metalness, glow } = surface;
  const height = heights(surface);
  const mixed = (from: Colour, to: Colour, share: number): [number, number, number] => [
    from[0] + (to[0] - from[0]) * share,
    from[1] + (to[1] - from[1]) * share,
    from[2] + (to[2] - from[2]) * share,
  ];
  const grey = (value: number): [number, number, number] => [value * 255, value * 255, value * 255];
  const rough = (value: number): number => Math.min(1, roughness + (0.5 - value) * 0.3);
  const hidden = (value: number): number => 0.55 + 0.45 * Math.min(1, value * 1.6);
  const slope = (at: number): [number, number, number] => {
    const [x, y] = [at % size, Math.floor(at / size)];
    const of = (column: number, row: number): number =>
      height[((row + size) % size) * size + ((column + size) % size)] ?? 0;
    const strength = size / 128;
    const [dx, dy] = [(of(x - 1, y) - of(x + 1, y)) * strength, (of(x, y - 1) - of(x, y + 1)) * strength];
    const length = Math.hypot(dx, dy, 1);
    return [(dx / length) * 127 + 128, (dy / length) * 127 + 128, (1 / length) * 127 + 128];
  };
  const roles: [role: string, format: 'png' | 'jpeg', paint: Paint][] = [
    ['col', 'jpeg', (value) => mixed(low, high, value)],
    ['nrm', 'png', (_value, at) => slope(at)],
    ['rgh', 'jpeg', (value) => grey(rough(value))],
    ['ao', 'jpeg', (value) => grey(hidden(value))],
    ['hgt', 'png', (value) => grey(value)],
    ['orm', 'png', (value) => [hidden(value) * 255, rough(value) * 255, metalness * 255]],
    ['msk', 'png', (value) => grey(value > 0.5 ? 1 : 0)],
    ...(metalness > 0 ? ([['met', 'jpeg', () => grey(metalness)]] as ['met', 'jpeg', Paint][]) : []),
    ...(glow
      ? ([['emi', 'jpeg', (value: number) => mixed([0, 0, 0], glow, value)]] as ['emi', 'jpeg', Paint][])
      : []),
  ];
  // One is packed while the next is painted.
  const made: Promise<[string, Uint8Array]>[] = [];
  for (const [role, format, paint] of roles) {
    const pixels = Buffer.allocUnsafe(size * size * 3);
    for (let at = 0; at < height.length; at++) {
      const [red, green, blue] = paint(height[at] ?? 0, at);
      pixels[at * 3] = Math.max(0, Math.min(255, red));
      pixels[at * 3 + 1] = Math.max(0, Math.min(255, green));
      pixels[at * 3 + 2] = Math.max(0, Math.min(255, blue));
    }
    const image = sharp(pixels, { raw: { width: size, height: size, channels: 3 } });
    const packed =
      format === 'jpeg'
        ? image.jpeg({ quality: 88 }).toBuffer()
        : image.png({ compressionLevel: 3 }).toBuffer();
    const file = `${name}_${role}.${format === 'jpeg' ? 'jpg' : 'png'}`;
    made.push(packed.then((bytes) => [file, bytes]));
  }
  return Promise.all(made);
}
