import { crc32, deflateSync } from 'node:zlib';
import { seedOf, seeded } from './seeded.ts';

/** Formats of the invented game’s own, as its newer builds have them: described by the sheets in `demo/format-sheets`, but for one. */

/** The container and the model changed with build 0.5. */
export type Layout = 1 | 2;

/** A container: its directory, then its files, each deflated. Their names lie in a file beside it. */
export function reedPack(
  files: ReadonlyMap<string, Uint8Array>,
  layout: Layout,
): { pack: Buffer; names: Buffer } {
  const packed = [...files.values()].map((bytes) => deflateSync(bytes));
  const table = Buffer.alloc(packed.length * 12);
  let at = 16 + table.length;
  [...files.values()].forEach((bytes, number) => {
    const size = packed[number]?.length ?? 0;
    table.writeUInt32LE(at, number * 12);
    table.writeUInt32LE(size, number * 12 + 4);
    table.writeUInt32LE(bytes.length, number * 12 + 8);
    at += size;
  });
  const head = Buffer.alloc(16);
  head.write('MLPK');
  head.writeUInt16LE(layout, 4);
  head.writeUInt32LE(packed.length, 8);
  head.writeUInt32LE(layout === 1 ? adler32(table) : crc32(table), 12);
  const names = Buffer.from([...files.keys()].map((name) => `${name}\0`).join(''));
  return { pack: Buffer.concat([head, table, ...packed]), names };
}

/** Adler-32 (RFC 1950, 8.2). */
function adler32(bytes: Uint8Array): number {
  let [low, high] = [1, 0];
  for (const byte of bytes) {
    low = (low + byte) % 65_521;
    high = (high + low) % 65_521;
  }
  return high * 65_536 + low;
}

const tilePixels = 32;

/** A texture of BC1 blocks, which lie tile by tile. @param colourAt of a pixel, 0 to 255 */
export function tiledTexture(
  size: number,
  colourAt: (x: number, y: number) => [number, number, number],
): Buffer {
  const head = Buffer.alloc(12);
  head.write('MLTX');
  head.writeUInt16LE(size, 4);
  head.writeUInt16LE(size, 6);
  head.writeUInt16LE(tilePixels, 8);
  const blocks: Buffer[] = [];
  for (let tileY = 0; tileY < size; tileY += tilePixels)
    for (let tileX = 0; tileX < size; tileX += tilePixels)
      for (let y = 0; y < tilePixels; y += 4)
        for (let x = 0; x < tilePixels; x += 4) blocks.push(blockOf(tileX + x, tileY + y, colourAt));
  return Buffer.concat([head, ...blocks]);
}

/** A block of BC1 between its darkest and its lightest pixel. */
function blockOf(
  left: number,
  top: number,
  colourAt: (x: number, y: number) => [number, number, number],
): Buffer {
  const pixels = Array.from({ length: 16 }, (_, at) => colourAt(left + (at % 4), top + (at >> 2)));
  const lightness = pixels.map(([r, g, b]) => r * 2 + g * 5 + b);
  const [dark, light] = [Math.min(...lightness), Math.max(...lightness)];
  const packed = (value: number): number => {
    const [r, g, b] = pixels[lightness.indexOf(value)] ?? [0, 0, 0];
    return ((r >> 3) << 11) | ((g >> 2) << 5) | (b >> 3);
  };
  const block = Buffer.alloc(8);
  // The greater number goes first: then there are four colours, and none is clear.
  const [first, second] = [Math.max(packed(light), packed(dark)), Math.min(packed(light), packed(dark))];
  block.writeUInt16LE(first, 0);
  block.writeUInt16LE(second, 2);
  if (first === second) return block;
  const isLightFirst = first === packed(light);
  let codes = 0;
  lightness.forEach((value, at) => {
    const step = Math.round((3 * (value - dark)) / Math.max(1, light - dark));
    const code = [1, 3, 2, 0][isLightFirst ? step : 3 - step] ?? 0;
    codes += code * 4 ** at;
  });
  block.writeUInt32LE(codes, 4);
  return block;
}

interface Bone {
  name: string;
  parent: number;
  position: [number, number, number];
}

/** An animal as a tube that bends, with its bones and how it swims. @param rings from the nose to the tail */
export function swimmer(name: string, rings: number, lengthMetres: number, layout: Layout): Buffer {
  const sides = 8;
  const boneCount = 5;
  const vertices: Buffer[] = [];
  for (let ring = 0; ring < rings; ring++) {
    const along = ring / (rings - 1);
    const girth = 0.16 * lengthMetres * Math.sin(Math.PI * Math.min(1, along * 0.9 + 0.06));
    for (let side = 0; side < sides; side++) {
      const angle = (2 * Math.PI * side) / sides;
      const vertex = Buffer.alloc(28);
      const place = [along * lengthMetres, girth * Math.cos(angle), girth * Math.sin(angle)];
      place.forEach((value, part) => vertex.writeFloatLE(value, part * 4));
      [0, Math.cos(angle), Math.sin(angle)].forEach((value, part) =>
        vertex.writeInt8(Math.round(value * 127), 12 + part),
      );
      vertex.writeUInt16LE(Math.round(along * 65_535), 16);
      vertex.writeUInt16LE(Math.round((side / sides) * 65_535), 18);
      const bone = Math.min(boneCount - 1, Math.floor(along * boneCount));
      const next = Math.min(boneCount - 1, bone + 1);
      const share = bone === next ? 0 : Math.round((along * boneCount - bone) * 127);
      vertex.set([bone, next, 0, 0, 255 - share, share, 0, 0], 20);
      vertices.push(vertex);
    }
  }
  const indices: number[] = [];
  for (let ring = 0; ring + 1 < rings; ring++)
    for (let side = 0; side < sides; side++) {
      const [a, b] = [ring * sides + side, ring * sides + ((side + 1) % sides)];
      indices.push(a, b, a + sides, b, b + sides, a + sides);
    }
  const bones = Array.from({ length: boneCount }, (_, bone): Bone => ({
    name: ['root', 'neck', 'back', 'hip', 'tail'][bone] ?? '',
    parent: bone - 1,
    position: [bone === 0 ? 0 : lengthMetres / boneCount, 0, 0],
  }));
  const head = Buffer.alloc(layout === 1 ? 24 : 28);
  head.write('MLMD');
  head.writeUInt16LE(layout, 4);
  const counts = layout === 1 ? 8 : 12;
  if (layout === 2) head.writeUInt32LE(3, 8);
  head.writeUInt32LE(vertices.length, counts);
  head.writeUInt32LE(indices.length, counts + 4);
  head.writeUInt16LE(boneCount, counts + 8);
  head.writeUInt16LE(1, counts + 10);
  head.writeUInt32LE(seedOf(name) >>> 0, counts + 12);
  const indexBytes = Buffer.alloc(Math.ceil((indices.length * 2) / 4) * 4);
  indices.forEach((index, at) => indexBytes.writeUInt16LE(index, at * 2));
  return Buffer.concat([head, ...vertices, indexBytes, ...bones.map(boneBytes), clipBytes(boneCount)]);
}

function text(words: string, length: number): Buffer {
  const bytes = Buffer.alloc(length);
  bytes.write(words);
  return bytes;
}

function boneBytes({ name, parent, position }: Bone): Buffer {
  const bytes = Buffer.alloc(20);
  bytes.writeInt16LE(parent, 0);
  position.forEach((value, part) => bytes.writeFloatLE(value, 4 + part * 4));
  bytes.writeUInt32LE(packedTurn(0), 16);
  return Buffer.concat([text(name, 16), bytes]);
}

const framesPerSecond = 24;

function clipBytes(boneCount: number): Buffer {
  const frames = 48;
  const head = Buffer.alloc(8);
  head.writeFloatLE(framesPerSecond, 0);
  head.writeUInt16LE(frames, 4);
  head.writeUInt16LE(boneCount - 1, 6);
  const tracks = Array.from({ length: boneCount - 1 }, (_, track) => {
    const bytes = Buffer.alloc(4 + frames * 4);
    bytes.writeUInt16LE(track + 1, 0);
    for (let frame = 0; frame < frames; frame++) {
      const turn = 0.25 * Math.sin((2 * Math.PI * frame) / frames - track * 0.9);
      bytes.writeUInt32LE(packedTurn(turn), 4 + frame * 4);
    }
    return bytes;
  });
  return Buffer.concat([text('swim', 16), head, ...tracks]);
}

/** A turn about Y as a quaternion in 32 bits: which part is the largest, then the others of 10 bits each. @param radians less than half a turn */
function packedTurn(radians: number): number {
  const [x, y, z] = [0, Math.sin(radians / 2), 0];
  const part = (value: number): number => Math.round(((value / Math.SQRT1_2 + 1) / 2) * 1023);
  // W is the largest, the fourth of the parts.
  return (((3 * 1024 + part(x)) * 1024 + part(y)) * 1024 + part(z)) >>> 0;
}

/** Where things stand, in words. */
export function propList(name: string, models: readonly string[]): string {
  const random = seeded(seedOf(name));
  const blocks = models.flatMap((model, at) => {
    const place = [random() * 40 - 20, 0, random() * 40 - 20].map((value) => value.toFixed(2)).join(' ');
    return [
      `prop ${name}_${at + 1} {`,
      `  model ${model}`,
      `  at ${place}`,
      `  turn ${Math.floor(random() * 360)}`,
      '}',
    ];
  });
  return [`# what stands at ${name}`, ...blocks, ''].join('\n');
}

/** Many sounds in one file: the container’s directory, with the names in it. */
export function soundBank(sounds: ReadonlyMap<string, Uint8Array>): Buffer {
  const table = Buffer.alloc(sounds.size * 24);
  let at = 8 + table.length;
  [...sounds].forEach(([name, bytes], number) => {
    table.write(name, number * 24);
    table.writeUInt32LE(at, number * 24 + 16);
    table.writeUInt32LE(bytes.length, number * 24 + 20);
    at += bytes.length;
  });
  const head = Buffer.alloc(8);
  head.write('MLSB');
  head.writeUInt32LE(sounds.size, 4);
  return Buffer.concat([head, table, ...sounds.values()]);
}

/** A sound as the game keeps it: no sheet describes it yet. @param samples from -1 to 1 */
export function ownSound(samples: Float32Array, sampleRate: number): Buffer {
  const head = Buffer.alloc(16);
  head.write('MLSN');
  head.writeUInt32LE(sampleRate, 4);
  head.writeUInt32LE(samples.length, 8);
  const body = Buffer.alloc(samples.length * 2);
  samples.forEach((sample, frame) =>
    body.writeInt16LE(Math.round(Math.max(-1, Math.min(1, sample)) * 32_767), frame * 2),
  );
  return Buffer.concat([head, body]);
}
