import type { Raster } from '../../reading.ts';
import { words } from '../words.ts';

/** How one picture was made of another without any loss, or nearly: in words, with what it is. */
export interface ExactRelation {
  nature: 'mirrored' | 'recoloured' | 'bordered' | 'shifted';
  words: string;
}

/** So many of the pixels, in tenths of a thousand, may be other: packing with loss leaves a little everywhere. */
const mostStep = 2;

const colourOrders: readonly { order: readonly [number, number, number]; words: string }[] = [
  { order: [2, 1, 0], words: 'red and blue swapped' },
  { order: [1, 0, 2], words: 'red and green swapped' },
  { order: [0, 2, 1], words: 'green and blue swapped' },
  { order: [1, 2, 0], words: 'green, blue and red in the place of red, green and blue' },
  { order: [2, 0, 1], words: 'blue, red and green in the place of red, green and blue' },
];

/** Of two pictures of one size that differ: mirrored, with other channels, negative, or grey. */
export function sameSizeRelation(old: Raster, now: Raster): ExactRelation | null {
  return mirrored(old, now) ?? otherChannels(old, now);
}

function mirrored(old: Raster, now: Raster): ExactRelation | null {
  const { width, height } = now;
  const [a, b] = [words(old.rgba), words(now.rgba)];
  const ways: readonly { words: string; from: (x: number, y: number) => number; isSquare?: boolean }[] = [
    { words: 'mirrored left to right', from: (x, y) => y * width + width - 1 - x },
    { words: 'mirrored top to bottom', from: (x, y) => (height - 1 - y) * width + x },
    { words: 'turned by 180°', from: (x, y) => (height - 1 - y) * width + width - 1 - x },
    { words: 'turned by 90°', from: (x, y) => (width - 1 - x) * width + y, isSquare: true },
    { words: 'turned by 270°', from: (x, y) => x * width + height - 1 - y, isSquare: true },
  ];
  for (const { words: how, from, isSquare } of ways) {
    if (isSquare && width !== height) continue;
    let isSame = true;
    for (let y = 0; y < height && isSame; y++)
      for (let x = 0; x < width && isSame; x++) isSame = a[from(x, y)] === b[y * width + x];
    if (isSame) return { nature: 'mirrored', words: `the same picture, ${how}` };
  }
  return null;
}

function otherChannels(old: Raster, now: Raster): ExactRelation | null {
  const { rgba: a } = old;
  const { rgba: b } = now;
  const holds = (of: (at: number) => readonly [number, number, number]): boolean => {
    for (let at = 0; at < b.length; at += 4) {
      if (a[at + 3] !== b[at + 3]) return false;
      const [red, green, blue] = of(at);
      if (
        Math.abs(red - (b[at] ?? 0)) > mostStep ||
        Math.abs(green - (b[at + 1] ?? 0)) > mostStep ||
        Math.abs(blue - (b[at + 2] ?? 0)) > mostStep
      )
        return false;
    }
    return true;
  };
  for (const { order, words: how } of colourOrders)
    if (holds((at) => [a[at + order[0]] ?? 0, a[at + order[1]] ?? 0, a[at + order[2]] ?? 0]))
      return { nature: 'recoloured', words: `the same picture with ${how}` };
  if (holds((at) => [255 - (a[at] ?? 0), 255 - (a[at + 1] ?? 0), 255 - (a[at + 2] ?? 0)]))
    return { nature: 'recoloured', words: 'the negative of the same picture' };
  const isGrey = (rgba: Uint8Array): boolean => {
    for (let at = 0; at < rgba.length; at += 4)
      if (
        Math.abs((rgba[at] ?? 0) - (rgba[at + 1] ?? 0)) > 1 ||
        Math.abs((rgba[at] ?? 0) - (rgba[at + 2] ?? 0)) > 1
      )
        return false;
    return true;
  };
  if (!isGrey(b) || chromaOf(a) < leastChroma) return null;
  // Grey of the same brightness, by whichever weights.
  const [brightness, values] = [new Float64Array(b.length / 4), new Float64Array(b.length / 4)];
  for (let at = 0; at < b.length; at += 4) {
    brightness[at / 4] = 0.299 * (a[at] ?? 0) + 0.587 * (a[at + 1] ?? 0) + 0.114 * (a[at + 2] ?? 0);
    values[at / 4] = b[at] ?? 0;
  }
  return correlationOf(brightness, values) > 0.95
    ? { nature: 'recoloured', words: 'the same picture in grey, without its colours' }
    : null;
}

/** Mean of how far the greatest channel is from the least, in 255ths: less than this is no colour. */
const leastChroma = 6;

function chromaOf(rgba: Uint8Array): number {
  let sum = 0;
  for (let at = 0; at < rgba.length; at += 4)
    sum +=
      Math.max(rgba[at] ?? 0, rgba[at + 1] ?? 0, rgba[at + 2] ?? 0) -
      Math.min(rgba[at] ?? 0, rgba[at + 1] ?? 0, rgba[at + 2] ?? 0);
  return sum / Math.max(1, rgba.length / 4);
}

/** Pearson's, of two rows of values; 0 where one of them is even. */
export function correlationOf(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let [sumA, sumB, squaresA, squaresB, products] = [0, 0, 0, 0, 0];
  for (let at = 0; at < a.length; at++) {
    const [p, q] = [a[at] ?? 0, b[at] ?? 0];
    sumA += p;
    sumB += q;
    squaresA += p * p;
    squaresB += q * q;
    products += p * q;
  }
  const spread = (squaresA * a.length - sumA * sumA) * (squaresB * a.length - sumB * sumB);
  return spread > 0 ? (products * a.length - sumA * sumB) / Math.sqrt(spread) : 0;
}

const anchorLength = 8;
const anchorCount = 40;
const mostOffsets = 20_000;

interface Offset {
  x: number;
  y: number;
}

/**
 * Where what stands in one picture stands in another, by rows of pixels that are told apart easily: places of such rows in both,
 * and the steps between these, the most frequent first. Only what was moved without loss is found.
 */
function offsetsOf(old: Raster, now: Raster): { offset: Offset; votes: number }[] {
  const [a, b] = [words(old.rgba), words(now.rgba)];
  const anchors = new Map<number, { place: number; x: number; y: number }[]>();
  const keyAt = (pixels: Int32Array, place: number): number => {
    let key = 0;
    for (let step = 0; step < anchorLength; step++)
      key = (Math.imul(key, 0x01000193) ^ (pixels[place + step] ?? 0)) | 0;
    return key;
  };
  const isTelling = (pixels: Int32Array, place: number): boolean => {
    let changes = 0;
    for (let step = 1; step < anchorLength; step++)
      if (pixels[place + step] !== pixels[place + step - 1]) changes++;
    return changes >= anchorLength / 2;
  };
  // Spread evenly over the older one, a few pixels apart in both directions.
  const across = Math.ceil(Math.sqrt((anchorCount * old.width) / old.height));
  const down = Math.ceil(anchorCount / across);
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      const y = Math.floor(((row + 0.5) * old.height) / down);
      for (let x = Math.floor(((column + 0.2) * old.width) / across), tries = 0; tries < 30; x++, tries++) {
        if (x + anchorLength > old.width) break;
        const place = y * old.width + x;
        if (!isTelling(a, place)) continue;
        const key = keyAt(a, place);
        const list = anchors.get(key);
        if (list) list.push({ place, x, y });
        else anchors.set(key, [{ place, x, y }]);
        break;
      }
    }
  const votes = new Map<string, { offset: Offset; votes: number }>();
  for (let y = 0; y < now.height; y++)
    for (let x = 0; x + anchorLength <= now.width; x++) {
      const there = anchors.get(keyAt(b, y * now.width + x));
      if (!there || there.length > 4) continue;
      // What repeats itself everywhere was not moved anywhere.
      if (votes.size > mostOffsets) return [];
      for (const anchor of there) {
        const offset = { x: x - anchor.x, y: y - anchor.y };
        const name = `${offset.x} ${offset.y}`;
        const known = votes.get(name);
        if (known) known.votes++;
        else votes.set(name, { offset, votes: 1 });
      }
    }
  return [...votes.values()].sort((one, other) => other.votes - one.votes).slice(0, 6);
}

/** Share of the pixels of the newer one that are those of the older one, an offset away. */
function shareAt(old: Raster, now: Raster, { x, y }: Offset, isRolled: boolean): number {
  const [a, b] = [words(old.rgba), words(now.rgba)];
  let [same, all] = [0, 0];
  for (let row = 0; row < now.height; row++)
    for (let column = 0; column < now.width; column++) {
      let [fromX, fromY] = [column - x, row - y];
      if (isRolled)
        [fromX, fromY] = [
          ((fromX % old.width) + old.width) % old.width,
          ((fromY % old.height) + old.height) % old.height,
        ];
      if (fromX < 0 || fromY < 0 || fromX >= old.width || fromY >= old.height) continue;
      all++;
      if (a[fromY * old.width + fromX] === b[row * now.width + column]) same++;
    }
  return all === 0 ? 0 : same / all;
}

const way = ({ x, y }: Offset): string =>
  [
    x === 0 ? '' : `${Math.abs(x)} pixels to the ${x > 0 ? 'right' : 'left'}`,
    y === 0 ? '' : `${Math.abs(y)} pixels ${y > 0 ? 'down' : 'up'}`,
  ]
    .filter(Boolean)
    .join(' and ');

/** Whether the picture was shifted within its size, or rolled: what leaves on one side comes in on the other. */
export function shiftedRelation(old: Raster, now: Raster): ExactRelation | null {
  for (const { offset, votes } of offsetsOf(old, now)) {
    if (votes < 3 || (offset.x === 0 && offset.y === 0)) continue;
    if (shareAt(old, now, offset, true) > 0.98) {
      // The shorter way around.
      const short = (value: number, size: number): number =>
        value > size / 2 ? value - size : value < -size / 2 ? value + size : value;
      const rolled = { x: short(offset.x, now.width), y: short(offset.y, now.height) };
      return { nature: 'shifted', words: `the same picture, rolled by ${way(rolled)}` };
    }
    const covered = (now.width - Math.abs(offset.x)) * (now.height - Math.abs(offset.y));
    if (covered > now.width * now.height * 0.3 && shareAt(old, now, offset, false) > 0.98)
      return { nature: 'shifted', words: `the same picture, shifted by ${way(offset)}` };
  }
  return null;
}

/** Whether one of two pictures is a part of the other, and which. */
export function partRelation(old: Raster, now: Raster): ExactRelation | null {
  const isSmaller = now.width <= old.width && now.height <= old.height;
  const isLarger = now.width >= old.width && now.height >= old.height;
  if (!isSmaller && !isLarger) return null;
  const [whole, part] = isSmaller ? [old, now] : [now, old];
  for (const { offset, votes } of offsetsOf(part, whole)) {
    if (votes < 3 || offset.x < 0 || offset.y < 0) continue;
    if (offset.x + part.width > whole.width || offset.y + part.height > whole.height) continue;
    if (shareAt(whole, part, { x: -offset.x, y: -offset.y }, false) < 0.98) continue;
    const where = `${part.width} × ${part.height} at ${offset.x}, ${offset.y}`;
    return {
      nature: 'bordered',
      words: isSmaller
        ? `a part of the same picture: ${where} of ${whole.width} × ${whole.height}`
        : `the same picture with more around it: it is ${where} of ${whole.width} × ${whole.height}`,
    };
  }
  return null;
}
