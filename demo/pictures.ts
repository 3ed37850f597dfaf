import sharp from 'sharp';
import { seedOf, seeded } from './seeded.ts';

type Colour = readonly [number, number, number];

/** Draws by a function of x and y in 0 to 1, returning RGBA in 0 to 255. */
function draw(size: number, height: number, paint: (x: number, y: number) => readonly number[]): Buffer {
  const pixels = Buffer.alloc(size * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < size; x++) {
      const colour = paint(x / size, y / height);
      for (let channel = 0; channel < 4; channel++) {
        pixels[(y * size + x) * 4 + channel] = Math.max(0, Math.min(255, colour[channel] ?? 255));
      }
    }
  }
  return pixels;
}

async function encode(
  pixels: Buffer,
  width: number,
  height: number,
  format: 'png' | 'jpeg' | 'webp' | 'gif',
  compressionLevel = 9,
): Promise<Uint8Array> {
  const image = sharp(pixels, { raw: { width, height, channels: 4 } });
  switch (format) {
    case 'png':
      return image.png({ compressionLevel }).toBuffer();
    case 'jpeg':
      return image.flatten({ background: '#e9e2d0' }).jpeg({ quality: 88 }).toBuffer();
    case 'webp':
      return image.webp({ quality: 86 }).toBuffer();
    case 'gif':
      return image.gif().toBuffer();
  }
}

/** A texture of boards, with grain of its own. */
export async function planks(
  name: string,
  size: number,
  colour: Colour,
  boards: number,
): Promise<Uint8Array> {
  const random = seeded(seedOf(name));
  const shades = Array.from({ length: boards }, () => 0.8 + random() * 0.4);
  const phase = random() * 10;
  const pixels = draw(size, size, (x, y) => {
    const board = Math.min(boards - 1, Math.floor(y * boards));
    const edge = (y * boards) % 1 < 0.05 ? 0.45 : 1;
    const grain = 0.9 + 0.1 * Math.sin((y * 90 + Math.sin(x * 7 + phase + board) * 3) * 2);
    return [...colour.map((value) => value * (shades[board] ?? 1) * edge * grain), 255];
  });
  return encode(pixels, size, size, 'png');
}

/** Soft spots, as of moss or rust, on a ground. */
export async function speckled(
  name: string,
  size: number,
  ground: Colour,
  spots: Colour,
  format: 'png' | 'jpeg' | 'webp' | 'gif',
): Promise<Uint8Array> {
  const random = seeded(seedOf(name));
  const centres = Array.from({ length: 40 }, () => [random(), random(), 0.02 + random() * 0.09] as const);
  const pixels = draw(size, size, (x, y) => {
    let cover = 0;
    for (const [cx, cy, radius] of centres) {
      const distance = Math.hypot(x - cx, y - cy) / radius;
      if (distance < 1) cover = Math.max(cover, 1 - distance * distance);
    }
    return [...ground.map((value, channel) => value + ((spots[channel] ?? 0) - value) * cover), 255];
  });
  return encode(pixels, size, size, format);
}

/** A normal map of bumps: data, and no colour. @param compressionLevel of PNG: other bytes, the same pixels */
export async function bumps(name: string, size: number, compressionLevel: number): Promise<Uint8Array> {
  const random = seeded(seedOf(name));
  const [a, b] = [3 + random() * 5, 3 + random() * 5];
  const pixels = draw(size, size, (x, y) => {
    const nx = 0.4 * Math.cos(x * a * Math.PI * 2);
    const ny = 0.4 * Math.cos(y * b * Math.PI * 2);
    const nz = Math.sqrt(Math.max(0, 1 - nx * nx - ny * ny));
    return [nx * 127 + 128, ny * 127 + 128, nz * 127 + 128, 255];
  });
  return encode(pixels, size, size, 'png', compressionLevel);
}

/** A sign on a clear ground: the shape of an icon with alpha. */
export async function sign(
  name: string,
  size: number,
  colour: Colour,
  format: 'png' | 'webp' | 'gif',
): Promise<Uint8Array> {
  const random = seeded(seedOf(name));
  const petals = 3 + Math.floor(random() * 6);
  const depth = 0.15 + random() * 0.25;
  const turn = random() * Math.PI;
  const pixels = draw(size, size, (x, y) => {
    const [dx, dy] = [x - 0.5, y - 0.5];
    const reach = 0.33 + depth * 0.4 * Math.cos(petals * (Math.atan2(dy, dx) + turn));
    const inside = Math.max(0, Math.min(1, (reach - Math.hypot(dx, dy)) * size * 0.5));
    const hole = Math.hypot(dx, dy) < 0.08 ? 0 : 1;
    return [...colour, 255 * inside * hole];
  });
  return encode(pixels, size, size, format);
}

/** A view over the marsh, 4:3 on a square canvas of clear pixels, as loading pictures come. */
export async function vista(
  name: string,
  size: number,
  sky: Colour,
  hasBorders: boolean,
): Promise<Uint8Array> {
  const random = seeded(seedOf(name));
  const hills = Array.from(
    { length: 4 },
    () => [2 + random() * 5, random() * 6, 0.02 + random() * 0.05] as const,
  );
  const border = hasBorders ? 1 / 8 : 0;
  const pixels = draw(size, size, (x, canvasY) => {
    if (canvasY < border || canvasY >= 1 - border) return [0, 0, 0, 0];
    const y = (canvasY - border) / (1 - 2 * border);
    for (const [index, [rate, phase, height]] of hills.entries()) {
      const edge = 0.55 + index * 0.1 + height * Math.sin(x * rate + phase);
      const shade = 0.75 - index * 0.13;
      if (y > edge && (index === hills.length - 1 || y < 0.6 + (index + 1) * 0.1))
        return [70 * shade, 105 * shade, 95 * shade, 255];
    }
    const sun = Math.max(0, 1 - Math.hypot(x - 0.7, y - 0.3) * 6);
    return [...sky.map((value) => value * (1 - y * 0.25) + 90 * sun), 255];
  });
  return encode(pixels, size, size, 'png');
}
