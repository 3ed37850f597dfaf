import { ball, box, joined, type Shape } from '../shapes.ts';
import { four, hoop, type Makers, type Thing } from './thing.ts';

/** What holds something, each as its parts. */
export const vessels: Makers = {
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
};

function planksOf(thing: Thing, width: number, height: number, depth: number): Shape {
  const count = 5 - thing.level;
  return joined(
    ...Array.from({ length: count }, (_, at) =>
      box([0, ((at + 0.5) * height) / count, 0], [width, (height / count) * (count > 1 ? 0.92 : 1), depth]),
    ),
  );
}
