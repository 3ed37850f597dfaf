import { ball, box, hull, joined, placed, tube, turned, type Shape } from '../shapes.ts';
import { sceneOf, type GrownPart, type Locator } from './scene-parts.ts';

export interface Boat {
  name: string;
  /** Metres. */
  length: number;
  cabins: number;
  lamps: number;
}

export const boats: readonly Boat[] = [
  { name: 'fry_heron', length: 11, cabins: 1, lamps: 2 },
  { name: 'fry_reed', length: 7, cabins: 0, lamps: 1 },
  { name: 'fry_island', length: 16, cabins: 2, lamps: 4 },
  { name: 'fry_lamp', length: 9, cabins: 1, lamps: 6 },
  { name: 'fry_post', length: 12, cabins: 1, lamps: 3 },
  { name: 'fry_ice', length: 13, cabins: 2, lamps: 2 },
  { name: 'fry_old', length: 8, cabins: 0, lamps: 0 },
  { name: 'fry_king', length: 22, cabins: 3, lamps: 8 },
];

/** Sections of the hull by level of detail, the finest first. */
const sectionsOf = [40, 24, 14, 8, 5] as const;

/** A rope that hangs between two places. */
function rope(
  from: readonly [number, number, number],
  to: readonly [number, number, number],
  steps: number,
): Shape {
  const points = Array.from({ length: steps + 1 }, (_, step) => {
    const share = step / steps;
    const sag = 4 * share * (1 - share) * 0.35;
    const mix = (axis: 0 | 1 | 2): number => from[axis] + (to[axis] - from[axis]) * share;
    return [mix(0), mix(1) - sag, mix(2), 0.025] as const;
  });
  return tube(points, 5);
}

/** A ferry with cabins, rails, ropes and lamps; @param level 0 is the finest */
export function boat({ name, length, cabins, lamps }: Boat, level: number): Promise<Uint8Array> {
  const sections = sectionsOf[level] ?? 5;
  const around = [16, 12, 8, 6, 4][level] ?? 4;
  const [depth, beam] = [length * 0.11, length * 0.32];
  const deckAt = depth * 0.85;
  const parts: GrownPart[] = [
    {
      name: 'hull',
      material: 'hull_oak',
      colour: [0.19, 0.1, 0.05],
      shape: hull(length, beam, depth, sections),
    },
    {
      name: 'deck',
      material: 'deck_ash',
      colour: [0.38, 0.29, 0.18],
      shape: box([0, deckAt, 0], [length * 0.78, 0.05, beam * 0.72]),
    },
  ];
  const locators: Locator[] = [
    { name: 'loc_helm', at: [-length * 0.3, deckAt + 1.1, 0] },
    { name: 'loc_flag', at: [-length * 0.46, deckAt + 1.4, 0] },
  ];
  for (let cabin = 0; cabin < cabins; cabin++) {
    const along = length * (0.12 - cabin * 0.24);
    const [long, wide, high] = [length * 0.17, beam * 0.5, 1.7];
    const wall = box([along, deckAt + high / 2, 0], [long, high, wide]);
    const frames = [-1, 1].flatMap((side) =>
      [-0.28, 0.28].map((share) =>
        box(
          [along + long * share, deckAt + high * 0.58, (side * wide) / 2],
          [long * 0.28, high * 0.34, 0.06],
        ),
      ),
    );
    parts.push(
      { name: `cabin_${cabin + 1}`, material: 'cabin_red', colour: [0.28, 0.05, 0.03], shape: wall },
      {
        name: `roof_${cabin + 1}`,
        material: 'tin_roof',
        colour: [0.22, 0.27, 0.28],
        shape: box([along, deckAt + high + 0.06, 0], [long * 1.14, 0.12, wide * 1.16]),
      },
    );
    if (level < 4)
      parts.push({
        name: `windows_${cabin + 1}`,
        material: 'lamp_glass',
        colour: [0.8, 0.5, 0.2],
        shape: joined(...frames),
      });
  }
  if (level < 4) {
    const count = Math.max(4, Math.round(length / (level + 1)));
    const posts = [-1, 1].flatMap((side) =>
      Array.from({ length: count }, (_, at) => {
        const along = length * 0.36 * (1 - (2 * at) / (count - 1));
        return tube(
          [
            [along, deckAt, side * beam * 0.34, 0.03],
            [along, deckAt + 0.85, side * beam * 0.34, 0.03],
          ],
          Math.max(4, around / 2),
        );
      }),
    );
    const bars = [-1, 1].map((side) =>
      box([0, deckAt + 0.85, side * beam * 0.34], [length * 0.72, 0.06, 0.06]),
    );
    parts.push({
      name: 'rails',
      material: 'brass_worn',
      colour: [0.5, 0.33, 0.1],
      shape: joined(...posts, ...bars),
    });
  }
  const mast = length * 0.55;
  parts.push({
    name: 'mast',
    material: 'hull_oak',
    colour: [0.19, 0.1, 0.05],
    shape: tube(
      [
        [length * 0.28, deckAt, 0, 0.09],
        [length * 0.28, deckAt + mast, 0, 0.04],
      ],
      around,
    ),
  });
  if (level < 3)
    parts.push({
      name: 'ropes',
      material: 'rope_hemp',
      colour: [0.4, 0.29, 0.14],
      shape: joined(
        ...[-0.42, 0.46].map((share) =>
          rope([length * 0.28, deckAt + mast, 0], [length * share, deckAt + 0.4, 0], 14 >> level),
        ),
        ...[-1, 1].map((side) =>
          rope([length * 0.28, deckAt + mast * 0.9, 0], [0, deckAt + 0.85, side * beam * 0.34], 14 >> level),
        ),
      ),
    });
  for (let lamp = 0; lamp < lamps; lamp++) {
    const along = length * (0.4 - (0.8 * lamp) / Math.max(1, lamps - 1 || 1));
    const at = [along, deckAt + 1.15, lamp % 2 === 0 ? beam * 0.3 : -beam * 0.3] as const;
    parts.push({
      name: `lamp_${lamp + 1}`,
      material: 'lamp_glass',
      colour: [0.9, 0.6, 0.25],
      shape: joined(
        ball(at, 0.14, Math.max(5, around)),
        placed(
          turned(
            [
              [0.16, 0.1],
              [0.02, 0.26],
            ],
            Math.max(4, around),
          ),
          at,
        ),
      ),
    });
    locators.push({ name: `loc_lamp_${lamp + 1}`, at: [at[0], at[1], at[2]] });
  }
  // What a game needs and players do not see.
  const plain = { material: 'helper', colour: [0.9, 0.1, 0.7] as const };
  parts.push({
    ...{ name: `UCX_${name}_hull`, ...plain },
    shape: box([0, depth * 0.6, 0], [length * 0.92, depth * 1.2, beam * 0.9]),
  });
  if (level === 0)
    parts.push({ ...{ name: `shadow_${name}`, ...plain }, shape: hull(length, beam, depth, 6) });
  return sceneOf(name, parts, level === 0 ? locators : []);
}
