import { ball, joined, placed, turned, type Shape } from '../shapes.ts';
import { seedOf, seeded } from '../seeded.ts';
import { sceneOf, type GrownPart } from './scene-parts.ts';

/** What grows in the marsh besides reeds, six of each. */
export const plantKinds = ['lily', 'bulrush', 'fern', 'iris', 'mushroom', 'willow'] as const;
export type PlantKind = (typeof plantKinds)[number];
export const plantNumbers = [1, 2, 3, 4, 5, 6] as const;

type Colour = readonly [number, number, number];
type Random = () => number;

const green: Colour = [0.1, 0.22, 0.05];
const dark: Colour = [0.06, 0.13, 0.04];
const around = [16, 11, 8, 6, 4] as const;
const shareOf = [1, 0.75, 0.55, 0.35, 0.25] as const;

/** A leaf that stands, leans and narrows to its end. */
function blade(height: number, width: number, lean: number, turn: number, steps: number): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  for (let step = 0; step <= steps; step++) {
    const share = step / steps;
    const [out, up] = [lean * share ** 1.8, height * share * (1 - 0.25 * lean * share)];
    const half = (width / 2) * (1 - share ** 2);
    for (const side of [-1, 1]) {
      shape.positions.push(cos * out - sin * half * side, up, sin * out + cos * half * side);
      shape.normals.push(cos * -0.6, 0.8, sin * -0.6);
      shape.uvs.push((side + 1) / 2, share);
    }
    if (step === 0) continue;
    const first = step * 2;
    shape.indices.push(first - 2, first - 1, first, first, first - 1, first + 1);
  }
  return shape;
}

function tuft(
  random: Random,
  count: number,
  height: number,
  width: number,
  lean: number,
  steps: number,
): Shape {
  return joined(
    ...Array.from({ length: count }, (_, at) =>
      blade(
        height * (0.6 + random() * 0.5),
        width,
        lean * (0.4 + random()),
        (at / count) * 6.283 + random(),
        steps,
      ),
    ),
  );
}

const makers: Readonly<Record<PlantKind, (random: Random, level: number) => Omit<GrownPart, 'name'>[]>> = {
  lily: (random, level) => {
    const segments = around[level] ?? 4;
    const pad = (): Shape => {
      const radius = 0.16 + random() * 0.22;
      const flat = turned(
        [
          [0.001, 0.012],
          [radius * 0.9, 0.02],
          [radius, 0],
        ],
        segments,
      );
      return placed(flat, [(random() - 0.5) * 1.6, 0, (random() - 0.5) * 1.6]);
    };
    const pads = Array.from({ length: Math.max(3, Math.round(11 * (shareOf[level] ?? 1))) }, pad);
    const flowers = [0, 1, 2].map(() =>
      placed(
        turned(
          [
            [0.02, 0],
            [0.09, 0.05],
            [0.07, 0.11],
            [0.001, 0.06],
          ],
          segments,
        ),
        [(random() - 0.5) * 1.2, 0.02, (random() - 0.5) * 1.2],
      ),
    );
    return [
      { material: 'leaf_pad', colour: green, shape: joined(...pads) },
      ...(level < 3
        ? [{ material: 'petal_pale', colour: [0.8, 0.62, 0.6] as Colour, shape: joined(...flowers) }]
        : []),
    ];
  },
  bulrush: (random, level) => {
    const stalks = Math.max(3, Math.round(12 * (shareOf[level] ?? 1)));
    const segments = around[level] ?? 4;
    const heads = Array.from({ length: Math.max(2, Math.round(stalks / 2)) }, () =>
      placed(
        turned(
          [
            [0.001, 0],
            [0.035, 0.03],
            [0.035, 0.2],
            [0.001, 0.24],
            [0.006, 0.4],
          ],
          segments,
        ),
        [(random() - 0.5) * 0.5, 1.2 + random() * 0.5, (random() - 0.5) * 0.5],
      ),
    );
    return [
      {
        material: 'leaf_reed',
        colour: green,
        shape: tuft(random, stalks * 2, 1.7, 0.035, 0.35, level < 3 ? 5 : 2),
      },
      { material: 'head_brown', colour: [0.12, 0.06, 0.03], shape: joined(...heads) },
    ];
  },
  fern: (random, level) => [
    {
      material: 'leaf_fern',
      colour: dark,
      shape: tuft(
        random,
        Math.max(5, Math.round(22 * (shareOf[level] ?? 1))),
        0.9,
        0.16,
        0.75,
        level < 3 ? 6 : 2,
      ),
    },
  ],
  iris: (random, level) => {
    const segments = around[level] ?? 4;
    const flowers = Array.from({ length: 4 }, () =>
      placed(
        turned(
          [
            [0.012, 0],
            [0.06, 0.06],
            [0.03, 0.12],
            [0.07, 0.17],
            [0.001, 0.13],
          ],
          segments,
        ),
        [(random() - 0.5) * 0.36, 0.7 + random() * 0.25, (random() - 0.5) * 0.36],
      ),
    );
    return [
      {
        material: 'leaf_reed',
        colour: green,
        shape: tuft(
          random,
          Math.max(5, Math.round(16 * (shareOf[level] ?? 1))),
          0.95,
          0.05,
          0.2,
          level < 3 ? 4 : 2,
        ),
      },
      {
        material: 'petal_iris',
        colour: random() < 0.5 ? [0.75, 0.55, 0.05] : [0.16, 0.1, 0.45],
        shape: joined(...flowers),
      },
    ];
  },
  mushroom: (random, level) => {
    const segments = around[level] ?? 4;
    const places = Array.from({ length: Math.max(2, Math.round(7 * (shareOf[level] ?? 1))) }, () => ({
      at: [(random() - 0.5) * 0.5, 0, (random() - 0.5) * 0.5] as const,
      size: 0.5 + random(),
    }));
    const scaled = (profile: readonly (readonly [number, number])[], size: number): Shape =>
      turned(
        profile.map(([radius, height]) => [radius * size, height * size] as const),
        segments,
      );
    return [
      {
        material: 'stalk_pale',
        colour: [0.55, 0.48, 0.36],
        shape: joined(
          ...places.map(({ at, size }) =>
            placed(
              scaled(
                [
                  [0.03, 0],
                  [0.02, 0.1],
                  [0.025, 0.16],
                ],
                size,
              ),
              at,
            ),
          ),
        ),
      },
      {
        material: 'cap_rust',
        colour: [0.35, 0.12, 0.04],
        shape: joined(
          ...places.map(({ at, size }) =>
            placed(
              scaled(
                [
                  [0.1, 0.14],
                  [0.09, 0.19],
                  [0.04, 0.23],
                  [0.001, 0.24],
                ],
                size,
              ),
              at,
            ),
          ),
        ),
      },
    ];
  },
  willow: (random, level) => {
    const segments = around[level] ?? 4;
    const crown = Array.from({ length: Math.max(2, Math.round(6 * (shareOf[level] ?? 1))) }, () =>
      ball(
        [(random() - 0.5) * 1.4, 2.3 + random() * 0.9, (random() - 0.5) * 1.4],
        0.5 + random() * 0.4,
        segments,
      ),
    );
    return [
      {
        material: 'bark_willow',
        colour: [0.14, 0.1, 0.06],
        shape: turned(
          [
            [0.34, 0],
            [0.24, 0.5],
            [0.26, 1.3],
            [0.36, 1.9],
            [0.2, 2.4],
          ],
          segments,
        ),
      },
      { material: 'leaf_willow', colour: [0.16, 0.24, 0.09], shape: joined(...crown) },
      ...(level < 2
        ? [
            {
              material: 'leaf_willow',
              colour: [0.16, 0.24, 0.09] as Colour,
              shape: placed(tuft(random, 40, -1.4, 0.05, 1.1, 4), [0, 2.8, 0]),
            },
          ]
        : []),
    ];
  },
};

/** A plant of a kind, at a level of detail: coarser levels have fewer leaves of the same plant. */
export function plantModel(kind: PlantKind, number: number, level: number): Promise<Uint8Array> {
  const name = `${kind}_${number}`;
  const parts = makers[kind](seeded(seedOf(name)), level);
  return sceneOf(
    name,
    parts.map((part, at) => ({ ...part, name: `${part.material}_${at}` })),
  );
}
