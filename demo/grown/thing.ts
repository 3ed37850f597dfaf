import { joined, placed, tube, turned, type Shape } from '../shapes.ts';
import type { GrownPart } from './scene-parts.ts';

type Point = readonly [number, number, number];
export type Profile = readonly (readonly [radius: number, height: number])[];

/** Colours where no texture is, linear. */
const colours = {
  hull_oak: [0.19, 0.1, 0.05],
  deck_ash: [0.38, 0.29, 0.18],
  rope_hemp: [0.33, 0.24, 0.13],
  brass_worn: [0.42, 0.27, 0.08],
  tin_roof: [0.15, 0.19, 0.2],
  reed_thatch: [0.36, 0.28, 0.12],
  cabin_red: [0.32, 0.07, 0.04],
  lamp_glass: [0.9, 0.6, 0.25],
} as const satisfies Readonly<Record<string, readonly [number, number, number]>>;

const around = [28, 18, 12, 8, 5] as const;
/** Finer levels have all rings of a profile, coarser ones every second. */
const thinned = (profile: Profile, level: number): Profile =>
  level < 3 ? profile : profile.filter((_, at) => at % 2 === 0 || at === profile.length - 1);

/** A thing while it is put together, at a level of detail. */
export class Thing {
  readonly parts: GrownPart[] = [];
  readonly level: number;

  constructor(level: number) {
    this.level = level;
  }

  get segments(): number {
    return around[this.level] ?? 5;
  }

  /** What only the finer levels have ends with the level that is named last. */
  add(name: string, material: keyof typeof colours, shape: Shape, lastLevel = 4): this {
    if (this.level <= lastLevel) this.parts.push({ name, material, colour: colours[material], shape });
    return this;
  }

  round(profile: Profile, at: Point = [0, 0, 0]): Shape {
    return placed(turned(thinned(profile, this.level), this.segments), at);
  }

  post(from: Point, height: number, radius: number): Shape {
    return tube(
      [
        [...from, radius],
        [from[0], from[1] + height, from[2], radius * 0.9],
      ],
      Math.max(3, Math.round(this.segments / 2)),
    );
  }
}

/** A band around a vessel. */
export const hoop = (radius: number, height: number): Profile => [
  [radius, height - 0.02],
  [radius + 0.012, height],
  [radius, height + 0.02],
];

export type Makers = Readonly<Record<string, (thing: Thing) => Thing>>;

/** The same at the corners of a rectangle about the middle. */
export function four(width: number, depth: number, of: (x: number, z: number) => Shape): Shape {
  return joined(...[-1, 1].flatMap((x) => [-1, 1].map((z) => of((x * width) / 2, (z * depth) / 2))));
}
