import { box, joined, placed, type Shape } from '../shapes.ts';
import { four, hoop, type Makers, type Thing } from './thing.ts';

/** What stands and lies on quays and in boats, each as its parts. */
export const quayThings: Makers = {
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
