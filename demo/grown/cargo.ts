import { ball, box, joined, placed, tube, turned, type Shape } from '../shapes.ts';
import { sceneOf, type GrownPart } from './scene-parts.ts';

type Point = readonly [number, number, number];
type Profile = readonly (readonly [radius: number, height: number])[];

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

class Thing {
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

const hoop = (radius: number, height: number): Profile => [
  [radius, height - 0.02],
  [radius + 0.012, height],
  [radius, height + 0.02],
];

function planksOf(thing: Thing, width: number, height: number, depth: number): Shape {
  const count = 5 - thing.level;
  return joined(
    ...Array.from({ length: count }, (_, at) =>
      box([0, ((at + 0.5) * height) / count, 0], [width, (height / count) * (count > 1 ? 0.92 : 1), depth]),
    ),
  );
}

function four(width: number, depth: number, of: (x: number, z: number) => Shape): Shape {
  return joined(...[-1, 1].flatMap((x) => [-1, 1].map((z) => of((x * width) / 2, (z * depth) / 2))));
}

/** What lies on quays and in boats, each as its parts. */
const makers: Readonly<Record<string, (thing: Thing) => Thing>> = {
  crate_oak: (thing) =>
    thing.add('boards', 'deck_ash', planksOf(thing, 0.8, 0.7, 0.6)).add(
      'corners',
      'hull_oak',
      four(0.8, 0.6, (x, z) => box([x, 0.35, z], [0.07, 0.74, 0.07])),
      3,
    ),
  crate_long: (thing) =>
    thing
      .add('boards', 'deck_ash', planksOf(thing, 1.6, 0.4, 0.5))
      .add('bands', 'tin_roof', joined(...[-0.5, 0.5].map((x) => box([x, 0.2, 0], [0.06, 0.43, 0.53]))), 2),
  barrel_oak: (thing) =>
    thing
      .add(
        'staves',
        'hull_oak',
        thing.round([
          [0.001, 0],
          [0.24, 0],
          [0.29, 0.2],
          [0.31, 0.42],
          [0.29, 0.64],
          [0.24, 0.84],
          [0.001, 0.82],
        ]),
      )
      .add(
        'hoops',
        'tin_roof',
        joined(...[0.12, 0.3, 0.54, 0.72].map((at) => thing.round(hoop(0.28, at)))),
        2,
      ),
  keg_small: (thing) =>
    thing
      .add(
        'staves',
        'hull_oak',
        thing.round([
          [0.001, 0],
          [0.13, 0],
          [0.17, 0.2],
          [0.13, 0.4],
          [0.001, 0.39],
        ]),
      )
      .add('tap', 'brass_worn', thing.post([0.16, 0.1, 0], 0.07, 0.018), 2),
  bucket_tin: (thing) =>
    thing
      .add(
        'side',
        'tin_roof',
        thing.round([
          [0.001, 0.01],
          [0.13, 0],
          [0.17, 0.3],
          [0.18, 0.31],
          [0.16, 0.3],
          [0.12, 0.03],
          [0.001, 0.03],
        ]),
      )
      .add('rim', 'brass_worn', thing.round(hoop(0.175, 0.3)), 2),
  basket_reed: (thing) =>
    thing
      .add(
        'weave',
        'reed_thatch',
        thing.round([
          [0.001, 0],
          [0.26, 0.01],
          [0.33, 0.2],
          [0.31, 0.36],
          [0.28, 0.34],
          [0.24, 0.05],
          [0.001, 0.05],
        ]),
      )
      .add('rim', 'rope_hemp', thing.round(hoop(0.315, 0.36)), 3),
  basket_eel: (thing) =>
    thing
      .add(
        'weave',
        'reed_thatch',
        thing.round([
          [0.08, 0],
          [0.2, 0.15],
          [0.24, 0.5],
          [0.16, 0.85],
          [0.06, 1.05],
          [0.001, 1.06],
        ]),
      )
      .add('mouth', 'rope_hemp', thing.round(hoop(0.09, 0.02)), 2),
  jug_clay: (thing) =>
    thing.add(
      'body',
      'cabin_red',
      thing.round([
        [0.001, 0],
        [0.1, 0],
        [0.16, 0.12],
        [0.15, 0.24],
        [0.07, 0.34],
        [0.08, 0.4],
        [0.06, 0.39],
        [0.05, 0.33],
      ]),
    ),
  churn_tall: (thing) =>
    thing
      .add(
        'body',
        'deck_ash',
        thing.round([
          [0.001, 0],
          [0.22, 0],
          [0.17, 0.5],
          [0.15, 0.8],
          [0.001, 0.82],
        ]),
      )
      .add('plunger', 'hull_oak', thing.post([0, 0.8, 0], 0.55, 0.022), 3),
  sack_meal: (thing) =>
    thing
      .add(
        'cloth',
        'rope_hemp',
        thing.round([
          [0.001, 0],
          [0.28, 0.02],
          [0.33, 0.2],
          [0.27, 0.48],
          [0.1, 0.6],
          [0.14, 0.72],
          [0.001, 0.7],
        ]),
      )
      .add('cord', 'cabin_red', thing.round(hoop(0.1, 0.6)), 2),
  rope_coil: (thing) =>
    thing.add(
      'coils',
      'rope_hemp',
      joined(
        ...[0, 0.06, 0.12, 0.18].slice(0, Math.max(2, 4 - thing.level)).map((at) =>
          thing.round([
            [0.2, at],
            [0.26, at + 0.03],
            [0.2, at + 0.06],
            [0.14, at + 0.03],
            [0.2, at],
          ]),
        ),
      ),
    ),
  net_floats: (thing) =>
    thing
      .add(
        'floats',
        'cabin_red',
        joined(
          ...[0, 1, 2, 3, 4].map((at) =>
            ball([Math.cos(at * 1.26) * 0.3, 0.09, Math.sin(at * 1.26) * 0.3], 0.09, thing.segments),
          ),
        ),
      )
      .add(
        'net',
        'rope_hemp',
        thing.round([
          [0.001, 0.1],
          [0.2, 0.08],
          [0.34, 0],
        ]),
        3,
      ),
  anchor_iron: (thing) =>
    thing
      .add('shank', 'tin_roof', thing.post([0, 0.1, 0], 1.1, 0.05))
      .add('stock', 'hull_oak', box([0, 1.05, 0], [0.9, 0.07, 0.07]))
      .add(
        'arms',
        'tin_roof',
        joined(
          box([-0.25, 0.16, 0], [0.5, 0.09, 0.09]),
          box([0.25, 0.16, 0], [0.5, 0.09, 0.09]),
          box([-0.48, 0.3, 0], [0.09, 0.3, 0.14]),
          box([0.48, 0.3, 0], [0.09, 0.3, 0.14]),
        ),
      ),
  bell_fog: (thing) =>
    thing
      .add(
        'bell',
        'brass_worn',
        thing.round(
          [
            [0.26, 0],
            [0.22, 0.06],
            [0.15, 0.22],
            [0.13, 0.36],
            [0.06, 0.42],
            [0.001, 0.43],
          ],
          [0, 0.5, 0],
        ),
      )
      .add(
        'frame',
        'hull_oak',
        joined(
          thing.post([-0.36, 0, 0], 1.1, 0.05),
          thing.post([0.36, 0, 0], 1.1, 0.05),
          box([0, 1.08, 0], [0.86, 0.09, 0.09]),
        ),
      ),
  bench_quay: (thing) =>
    thing.add('seat', 'deck_ash', box([0, 0.45, 0], [1.6, 0.06, 0.36])).add(
      'legs',
      'hull_oak',
      four(1.4, 0.28, (x, z) => thing.post([x, 0, z], 0.43, 0.04)),
    ),
  table_net: (thing) =>
    thing
      .add('top', 'deck_ash', box([0, 0.75, 0], [1.4, 0.06, 0.8]))
      .add(
        'legs',
        'hull_oak',
        four(1.2, 0.6, (x, z) => thing.post([x, 0, z], 0.73, 0.045)),
      )
      .add('knife', 'tin_roof', box([0.3, 0.785, 0.1], [0.26, 0.01, 0.04]), 1),
  stool_three: (thing) =>
    thing
      .add(
        'seat',
        'deck_ash',
        thing.round([
          [0.001, 0.4],
          [0.19, 0.4],
          [0.19, 0.44],
          [0.001, 0.45],
        ]),
      )
      .add(
        'legs',
        'hull_oak',
        joined(
          ...[0, 2.1, 4.2].map((turn) =>
            thing.post([Math.cos(turn) * 0.13, 0, Math.sin(turn) * 0.13], 0.4, 0.025),
          ),
        ),
      ),
  ladder_stage: (thing) =>
    thing
      .add(
        'rails',
        'hull_oak',
        joined(thing.post([-0.24, 0, 0], 2.6, 0.035), thing.post([0.24, 0, 0], 2.6, 0.035)),
      )
      .add(
        'rungs',
        'deck_ash',
        joined(
          ...Array.from({ length: thing.level < 3 ? 8 : 4 }, (_, at) =>
            box([0, 0.25 + at * (thing.level < 3 ? 0.3 : 0.6), 0], [0.48, 0.04, 0.05]),
          ),
        ),
      ),
  oar_pair: (thing) =>
    thing
      .add('shafts', 'deck_ash', joined(...[-0.14, 0.14].map((x) => thing.post([x, 0.5, 0], 1.7, 0.026))))
      .add(
        'blades',
        'cabin_red',
        joined(...[-0.14, 0.14].map((x) => box([x, 0.28, 0], [0.15, 0.56, 0.025]))),
      ),
  post_mooring: (thing) =>
    thing
      .add('post', 'hull_oak', thing.post([0, -1, 0], 2.1, 0.13))
      .add(
        'cap',
        'tin_roof',
        thing.round([
          [0.13, 1.08],
          [0.14, 1.12],
          [0.001, 1.2],
        ]),
        3,
      )
      .add('rope', 'rope_hemp', joined(...[0.6, 0.66, 0.72].map((at) => thing.round(hoop(0.13, at)))), 2),
  post_sign: (thing) =>
    thing
      .add('post', 'hull_oak', thing.post([0, 0, 0], 2.2, 0.06))
      .add(
        'boards',
        'deck_ash',
        joined(box([0.34, 1.95, 0], [0.75, 0.17, 0.03]), box([-0.3, 1.68, 0], [0.66, 0.17, 0.03])),
      ),
  cart_hand: (thing) =>
    thing
      .add('bed', 'deck_ash', box([0, 0.55, 0], [1.3, 0.08, 0.8]))
      .add(
        'sides',
        'cabin_red',
        joined(box([0, 0.72, 0.4], [1.3, 0.26, 0.04]), box([0, 0.72, -0.4], [1.3, 0.26, 0.04])),
      )
      .add('wheels', 'hull_oak', joined(...[-0.46, 0.46].map((z) => wheel(thing, z))))
      .add('handles', 'hull_oak', joined(...[-0.3, 0.3].map((z) => box([0.95, 0.55, z], [0.7, 0.05, 0.05])))),
  cage_fowl: (thing) =>
    thing
      .add(
        'bars',
        'reed_thatch',
        joined(
          ...Array.from(
            { length: Math.max(5, 14 - thing.level * 3) },
            (_, at, turn = (at / Math.max(5, 14 - thing.level * 3)) * 6.283) =>
              thing.post([Math.cos(turn) * 0.25, 0, Math.sin(turn) * 0.25], 0.5, 0.012),
          ),
        ),
      )
      .add(
        'floor',
        'deck_ash',
        thing.round([
          [0.001, 0],
          [0.27, 0],
          [0.27, 0.04],
          [0.001, 0.05],
        ]),
      )
      .add(
        'dome',
        'reed_thatch',
        thing.round([
          [0.26, 0.5],
          [0.2, 0.62],
          [0.06, 0.7],
          [0.001, 0.7],
        ]),
      ),
  lamp_hand: (thing) =>
    thing
      .add(
        'base',
        'brass_worn',
        thing.round([
          [0.001, 0],
          [0.1, 0],
          [0.1, 0.05],
          [0.06, 0.08],
        ]),
      )
      .add(
        'glass',
        'lamp_glass',
        thing.round([
          [0.05, 0.08],
          [0.085, 0.16],
          [0.05, 0.26],
        ]),
      )
      .add(
        'cap',
        'brass_worn',
        thing.round([
          [0.08, 0.26],
          [0.05, 0.32],
          [0.001, 0.36],
        ]),
      ),
};

function wheel(thing: Thing, z: number): Shape {
  // Turned about the upright axis, and laid on its side.
  const flat = thing.round([
    [0.06, -0.03],
    [0.32, -0.04],
    [0.34, 0],
    [0.32, 0.04],
    [0.06, 0.03],
  ]);
  const laid = (values: readonly number[]): number[] =>
    values.flatMap((value, at) => (at % 3 === 0 ? [value, values[at + 2] ?? 0, -(values[at + 1] ?? 0)] : []));
  return placed({ ...flat, positions: laid(flat.positions), normals: laid(flat.normals) }, [-0.1, 0.36, z]);
}

export const cargo: readonly string[] = Object.keys(makers);

/** One thing of those that lie on quays and in boats, at a level of detail. @throws RangeError for a name that is none */
export function cargoModel(name: string, level: number): Promise<Uint8Array> {
  const make = makers[name];
  if (!make) throw new RangeError(`cargoModel: there is no ${name}`);
  return sceneOf(name, make(new Thing(level)).parts);
}
