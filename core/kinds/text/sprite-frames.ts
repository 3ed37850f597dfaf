import type { SpriteFrame } from '../../../contract/sprites.ts';
import { isScalar, scalarText } from '../keyed-values.ts';
import type { TextData } from './data-tree.ts';

const mostDeep = 32;
const mostFrames = 20_000;

/** How tables call the numbers of a rectangle (common practice, no published source). */
const names = {
  left: ['x', 'left', 'l', 'u', 'posx', 'xpos'],
  top: ['y', 'top', 't', 'v', 'posy', 'ypos'],
  width: ['w', 'width'],
  height: ['h', 'height'],
  right: ['right', 'r', 'x2', 'xmax'],
  bottom: ['bottom', 'b', 'y2', 'ymax'],
  name: ['name', 'filename', 'file', 'id', 'n', 'key', 'sprite'],
  turned: ['rotated', 'turned', 'rotate', 'rotation'],
} as const;

/** Where an object keeps its rectangle. */
const holders = ['frame', 'rect', 'rectangle', 'region', 'bounds', 'texturerect', 'textureRect'];

/** Frames that a table cuts a picture into: whatever has a place and a size. */
export function spriteFramesIn(data: TextData): SpriteFrame[] {
  const found: SpriteFrame[] = [];
  if ('table' in data) {
    const { columns, rows } = data.table;
    for (const row of rows) {
      const values = Object.fromEntries(columns.map((column, at) => [column, row[at] ?? '']));
      const frame = frameOf(values, nameIn(values) ?? row.find((cell) => /\p{L}/u.test(cell)) ?? '');
      if (frame && found.length < mostFrames) found.push(frame);
    }
    return found;
  }
  walk(data.root, '', found, 0);
  return found;
}

/** Of these the ones that lie within a picture, and how many do not. */
export function framesWithin(
  frames: readonly SpriteFrame[],
  { width, height }: { width: number; height: number },
): { frames: SpriteFrame[]; outside: number } {
  const within = frames.filter((frame) => {
    const [across, down] = frame.isTurned ? [frame.height, frame.width] : [frame.width, frame.height];
    return frame.left + across <= width && frame.top + down <= height;
  });
  return { frames: within, outside: frames.length - within.length };
}

function walk(value: unknown, key: string, found: SpriteFrame[], depth: number): void {
  if (depth > mostDeep || found.length >= mostFrames || typeof value !== 'object' || value === null) return;
  if (Array.isArray(value)) {
    value.forEach((inner, at) => walk(inner, `${key} ${at + 1}`.trim(), found, depth + 1));
    return;
  }
  const entries = value as Record<string, unknown>;
  const frame = frameOf(entries, nameIn(entries) ?? key);
  if (frame) {
    found.push(frame);
    return;
  }
  for (const [name, inner] of Object.entries(entries))
    walk(inner, bare(name) === '' ? key : name, found, depth + 1);
}

function frameOf(entries: Record<string, unknown>, name: string): SpriteFrame | null {
  const held = holders
    .map((holder) => entries[holder])
    .find((one) => typeof one === 'object' && one !== null);
  const values = (held as Record<string, unknown> | undefined) ?? entries;
  const left = numberAt(values, names.left);
  const top = numberAt(values, names.top);
  const width = numberAt(values, names.width) ?? between(left, numberAt(values, names.right));
  const height = numberAt(values, names.height) ?? between(top, numberAt(values, names.bottom));
  if (left === null || top === null || width === null || height === null) return null;
  if (left < 0 || top < 0 || width < 1 || height < 1) return null;
  const turned = valueAt(entries, names.turned);
  const isTurned = isScalar(turned ?? null) && /^(true|1|y|yes|90|-90|270)$/i.test(scalarText(turned ?? ''));
  return { name, left, top, width, height, isTurned };
}

function between(from: number | null, to: number | null): number | null {
  return from === null || to === null ? null : to - from;
}

function nameIn(entries: Record<string, unknown>): string | null {
  const value = valueAt(entries, names.name);
  return typeof value === 'string' && value !== '' ? value : null;
}

function valueAt(entries: Record<string, unknown>, called: readonly string[]): unknown {
  for (const [key, value] of Object.entries(entries)) if (called.includes(bare(key))) return value;
  return undefined;
}

/** Keys as tables write them: attributes of XML have a sign before them here. */
function bare(key: string): string {
  return key.toLowerCase().replace(/[^a-z0-9]/g, '');
}

function numberAt(entries: Record<string, unknown>, called: readonly string[]): number | null {
  const value = valueAt(entries, called);
  if (value === undefined || value === null || value === '' || !isScalar(value)) return null;
  // Numbers that keep their digits are objects that say them.
  const number = Number(value instanceof Object ? scalarText(value) : value);
  return Number.isFinite(number) ? number : null;
}
