import { plainLook, type Axis, type Look } from '../engine/look.ts';
import type { View } from '../engine/stage-camera.ts';
import { isWayOfSeeing } from '../engine/ways-of-seeing.ts';

/** What an address, or whatever stands for it, says. */
export interface Said {
  get(name: string): string | null;
}

export type Changes = Record<string, string | undefined>;

const mostLightDegrees = 360;
const mostExposure = 6;

/** @param helpers parts that are no parts for players: hidden where nobody says which ones are */
export function lookFrom(said: Said, helpers: readonly number[]): Look {
  const way = said.get('see') ?? '';
  const hide = said.get('hide');
  return {
    way: isWayOfSeeing(way) ? way : plainLook.way,
    hasWires: said.get('wires') === '1',
    hasBones: said.get('bones') === '1',
    bone: said.get('bone'),
    hidden: new Set(hide === null ? helpers : numbersIn(hide)),
    part: numbersIn(said.get('part') ?? '')[0] ?? null,
    hasBounds: said.get('bounds') === '1',
    section: sectionIn(said.get('cut') ?? ''),
    lightDegrees: within(said.get('light'), 0, mostLightDegrees),
    exposure: within(said.get('exposure'), -mostExposure, mostExposure),
  };
}

/** What an address says of a change of the look; what is as usual takes no word. */
export function lookChanges(look: Partial<Look>): Changes {
  const changes: Changes = {};
  const flag = (is: boolean): string | undefined => (is ? '1' : undefined);
  if (look.way !== undefined) changes.see = look.way === plainLook.way ? undefined : look.way;
  if (look.hasWires !== undefined) changes.wires = flag(look.hasWires);
  if (look.hasBones !== undefined) changes.bones = flag(look.hasBones);
  if (look.bone !== undefined) changes.bone = look.bone ?? undefined;
  if (look.hidden !== undefined)
    changes.hide = look.hidden.size === 0 ? 'none' : [...look.hidden].sort((a, b) => a - b).join('.');
  if (look.part !== undefined) changes.part = look.part === null ? undefined : String(look.part);
  if (look.hasBounds !== undefined) changes.bounds = flag(look.hasBounds);
  if (look.section !== undefined)
    changes.cut = look.section ? `${look.section.axis}${Number(look.section.share.toFixed(3))}` : undefined;
  if (look.lightDegrees !== undefined)
    changes.light = look.lightDegrees === 0 ? undefined : String(look.lightDegrees);
  if (look.exposure !== undefined) changes.exposure = look.exposure === 0 ? undefined : String(look.exposure);
  return changes;
}

/** From where it is looked at: six numbers, and a seventh in parallel projection. */
export function viewFrom(said: Said): View | null {
  const words = (said.get('eye') ?? '').split(',');
  const numbers = words.map(Number);
  if ((words.length !== 6 && words.length !== 7) || !numbers.every((number) => Number.isFinite(number)))
    return null;
  const [x = 0, y = 0, z = 0, atX = 0, atY = 0, atZ = 0, height] = numbers;
  if (x === atX && y === atY && z === atZ) return null;
  return {
    position: [x, y, z],
    target: [atX, atY, atZ],
    ...(height !== undefined && height > 0 && { height }),
  };
}

export function viewWord({ position, target, height }: View): string {
  return [...position, ...target, ...(height === undefined ? [] : [height])]
    .map((number) => Number(number.toPrecision(5)))
    .join(',');
}

function numbersIn(text: string): number[] {
  return text
    .split('.')
    .filter((word) => /^\d{1,7}$/.test(word))
    .map(Number);
}

function sectionIn(text: string): Look['section'] {
  const [, axis, share] = /^([xyz])(0(?:\.\d+)?|1)$/.exec(text) ?? [];
  return axis === undefined ? null : { axis: axis as Axis, share: Number(share) };
}

function within(text: string | null, low: number, high: number): number {
  const number = Number(text ?? 0);
  return Number.isFinite(number) ? Math.min(high, Math.max(low, number)) : 0;
}
