import { ball, joined, tube, type Shape } from '../shapes.ts';
import { birdBones, type Place } from './bird-bones.ts';
import { clipsAlone, skinned, type BoneMove, type Clip, type SkinnedPart } from './skinned.ts';

export interface Bird {
  name: string;
  scale: number;
  plumage: 'plumage_grey' | 'plumage_white' | 'plumage_dusk';
  colour: readonly [number, number, number];
  /** How stout it is; 1 is a heron. */
  girth: number;
}

export const birds: readonly Bird[] = [
  { name: 'gru_lake', scale: 1, plumage: 'plumage_grey', colour: [0.27, 0.33, 0.38], girth: 1 },
  { name: 'gru_snow', scale: 1.1, plumage: 'plumage_white', colour: [0.8, 0.8, 0.77], girth: 0.95 },
  { name: 'gru_dusk', scale: 0.9, plumage: 'plumage_dusk', colour: [0.14, 0.08, 0.14], girth: 1.05 },
  { name: 'bit_reed', scale: 0.55, plumage: 'plumage_dusk', colour: [0.26, 0.17, 0.07], girth: 1.5 },
  { name: 'stk_mill', scale: 1.2, plumage: 'plumage_white', colour: [0.75, 0.75, 0.72], girth: 1.1 },
  { name: 'rail_mud', scale: 0.4, plumage: 'plumage_grey', colour: [0.14, 0.12, 0.1], girth: 1.8 },
];

/** Points around, by level of detail. */
const aroundOf = [18, 12, 9, 6, 4] as const;

const at = new Map(birdBones.map((bone) => [bone.name, bone.at]));
const place = (name: string): Place => at.get(name) ?? [0, 0, 0];

/** A tube through places, of a radius at each. */
function limb(points: readonly (readonly [Place, number])[], around: number): Shape {
  return tube(
    points.map(([[x, y, z], radius]) => [x, y, z, radius] as const),
    around,
  );
}

/** A flat sheet of feathers behind the bones of a wing. */
function feathers(sign: 1 | -1, rows: number): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  const columns = rows * 3;
  for (let column = 0; column <= columns; column++) {
    const along = column / columns;
    const x = sign * (0.12 + along * 0.86);
    const deep = 0.34 * (1 - 0.45 * along) * (0.9 + 0.1 * Math.sin(column * 2.1));
    for (let row = 0; row <= rows; row++) {
      const back = row / rows;
      shape.positions.push(x, 1.03 - back * 0.02, 0.13 - back * deep - along * 0.05);
      shape.normals.push(0, 1, 0);
      shape.uvs.push(along * 2, back);
    }
  }
  for (let column = 0; column < columns; column++)
    for (let row = 0; row < rows; row++) {
      const corner = column * (rows + 1) + row;
      const next = corner + rows + 1;
      shape.indices.push(corner, corner + 1, next, next, corner + 1, next + 1);
    }
  return shape;
}

function partsOf({ plumage, colour, girth }: Bird, level: number): SkinnedPart[] {
  const around = aroundOf[level] ?? 4;
  const feathered = { material: plumage, colour };
  const horn = { material: 'beak_horn', colour: [0.55, 0.3, 0.06] as const };
  const spine = ['hips', 'spine_1', 'spine_2', 'spine_3'];
  const necks = ['neck_1', 'neck_2', 'neck_3', 'neck_4'];
  const [hips, chest] = [place('hips'), place('spine_3')];
  const trunk = ball([0, 0, 0], 1, around * 2);
  const middle: Place = [0, (hips[1] + chest[1]) / 2, (hips[2] + chest[2]) / 2];
  const radii: Place = [0.13 * girth, 0.14 * girth, 0.27];
  const body: Shape = {
    ...trunk,
    positions: trunk.positions.map((value, index) => {
      const axis = (index % 3) as 0 | 1 | 2;
      return middle[axis] + value * radii[axis];
    }),
  };
  const parts: SkinnedPart[] = [
    { name: 'body', ...feathered, shape: body, bones: [...spine, 'tail_1'] },
    {
      name: 'neck',
      ...feathered,
      shape: limb(
        [
          [chest, 0.075 * girth],
          ...necks.map((name, index) => [place(name), 0.06 - index * 0.007] as const),
          [place('head'), 0.04],
        ],
        around,
      ),
      bones: ['spine_3', ...necks, 'head'],
    },
    { name: 'head', ...feathered, shape: ball(place('head'), 0.055, around), bones: ['head', 'neck_4'] },
    {
      name: 'beak',
      ...horn,
      shape: joined(beakOf([0, 1.525, 0.33], 0.26, around), beakOf([0, 1.5, 0.33], 0.23, around)),
      bones: ['beak_upper', 'beak_lower'],
    },
  ];
  if (level < 4)
    parts.push({
      name: 'eyes',
      material: 'eye_amber',
      colour: [0.9, 0.55, 0.05],
      shape: joined(ball(place('eye_l'), 0.012, 6), ball(place('eye_r'), 0.012, 6)),
      bones: ['eye_l', 'eye_r'],
    });
  for (const [side, sign] of [
    ['l', 1],
    ['r', -1],
  ] as const) {
    const wing = [
      'shoulder',
      'upper_wing',
      'fore_wing',
      'hand',
      'feathers_1',
      'feathers_2',
      'feathers_3',
    ].map((name) => `${name}_${side}`);
    parts.push(
      { name: `wing_${side}`, ...feathered, shape: feathers(sign, Math.max(1, 4 - level)), bones: wing },
      {
        name: `leg_${side}`,
        ...horn,
        shape: limb(
          [
            [place(`thigh_${side}`), 0.05 * girth],
            [place(`shin_${side}`), 0.024],
            [place(`ankle_${side}`), 0.014],
            [place(`foot_${side}`), 0.014],
          ],
          Math.max(4, around / 2),
        ),
        bones: ['thigh', 'shin', 'ankle', 'foot'].map((name) => `${name}_${side}`),
      },
      {
        name: `toes_${side}`,
        ...horn,
        shape: joined(
          ...[-1, 0, 1].map((spread) => {
            const [x, , z] = place(`foot_${side}`);
            return toeOf([x, 0.015, z], [x + spread * 0.05, 0.008, z + 0.11]);
          }),
        ),
        bones: [`foot_${side}`, `toe_${side}`],
      },
    );
  }
  parts.push({
    name: 'tail',
    ...feathered,
    shape: limb(
      [
        [place('hips'), 0.07 * girth],
        [place('tail_1'), 0.06],
        [place('tail_2'), 0.015],
      ],
      around,
    ),
    bones: ['hips', 'tail_1', 'tail_2'],
  });
  return parts;
}

function beakOf([x, y, z]: Place, length: number, around: number): Shape {
  // A cone along Z: the tube of the demo goes upwards, so it is laid down.
  const cone = tube(
    [
      [0, 0, 0, 0.022],
      [0, length, 0, 0.002],
    ],
    Math.max(4, around / 2),
  );
  const laid = (values: readonly number[], from: Place): number[] =>
    values.map((_, index) => {
      const start = index - (index % 3);
      const [vx, vy, vz] = [values[start] ?? 0, values[start + 1] ?? 0, values[start + 2] ?? 0];
      return [vx + from[0], -vz * 0.6 + from[1], vy + from[2]][index % 3] ?? 0;
    });
  return { ...cone, positions: laid(cone.positions, [x, y, z]), normals: laid(cone.normals, [0, 0, 0]) };
}

function toeOf(from: Place, to: Place): Shape {
  const wide = 0.008;
  return {
    positions: [
      ...[from[0] - wide, from[1], from[2]],
      ...[from[0] + wide, from[1], from[2]],
      ...[to[0], to[1], to[2]],
    ],
    normals: [0, 1, 0, 0, 1, 0, 0, 1, 0],
    uvs: [0, 0, 1, 0, 0.5, 1],
    indices: [0, 2, 1],
  };
}

const round = Math.PI * 2;
const wave = (moment: number, phase = 0): number => Math.sin(round * (moment + phase));

function legs(step: number): Record<string, BoneMove> {
  const moves: Record<string, BoneMove> = {};
  for (const [side, phase] of [
    ['l', 0],
    ['r', 0.5],
  ] as const) {
    moves[`thigh_${side}`] = { turns: (moment) => [step * wave(moment, phase), 0, 0] };
    moves[`shin_${side}`] = {
      turns: (moment) => [step * 0.9 * Math.max(0, wave(moment, phase + 0.25)), 0, 0],
    };
    moves[`ankle_${side}`] = {
      turns: (moment) => [-step * 1.3 * Math.max(0, wave(moment, phase + 0.25)), 0, 0],
    };
    moves[`toe_${side}`] = { turns: (moment) => [-step * 0.7 * wave(moment, phase + 0.3), 0, 0] };
  }
  return moves;
}

function wings(beat: number, phase = 0): Record<string, BoneMove> {
  const moves: Record<string, BoneMove> = {};
  for (const [side, sign] of [
    ['l', 1],
    ['r', -1],
  ] as const) {
    moves[`upper_wing_${side}`] = { turns: (moment) => [0, 0, sign * beat * wave(moment, phase)] };
    moves[`fore_wing_${side}`] = {
      turns: (moment) => [0, 0, sign * beat * 0.7 * wave(moment, phase - 0.12)],
    };
    moves[`hand_${side}`] = { turns: (moment) => [0, 0, sign * beat * 0.5 * wave(moment, phase - 0.22)] };
  }
  return moves;
}

function neck(turn: (moment: number, link: number) => Place): Record<string, BoneMove> {
  return Object.fromEntries(
    [1, 2, 3, 4].map((link) => [`neck_${link}`, { turns: (moment: number) => turn(moment, link) }]),
  );
}

/** Clips that all birds have: of the whole body, and of parts of it that are laid over others. */
export const birdClips: Readonly<
  Record<'walk' | 'fly' | 'look' | 'preen_upper' | 'shuffle_lower' | 'call_face', Clip>
> = {
  walk: {
    name: 'walk',
    seconds: 1.2,
    moves: {
      ...legs(0.5),
      ...neck((moment, link) => [0.12 * wave(moment * 2, link * 0.08), 0, 0]),
      // It comes ahead by a step and a half: root motion.
      root: { shift: (moment) => [0, 0.012 * Math.abs(wave(moment)), 0.62 * moment] },
    },
  },
  fly: {
    name: 'fly',
    seconds: 0.8,
    moves: {
      ...wings(0.85),
      hips: { turns: () => [0.5, 0, 0] },
      thigh_l: { turns: () => [1.2, 0, 0] },
      thigh_r: { turns: () => [1.2, 0, 0] },
      root: { shift: (moment) => [0, 1.2 - 0.09 * wave(moment, 0.1), 0] },
    },
  },
  look: {
    name: 'look',
    seconds: 91 / 30,
    moves: {
      ...neck((moment) => [0, 0.3 * wave(moment), 0]),
      head: { turns: (moment) => [0.1 * wave(moment * 2), 0.4 * wave(moment, -0.05), 0] },
    },
  },
  preen_upper: {
    name: 'preen_upper',
    seconds: 2,
    moves: {
      ...neck((moment, link) => [0.25 + 0.2 * wave(moment * 2, link * 0.1), 0.45, 0]),
      ...wings(0.15, 0.25),
    },
  },
  shuffle_lower: { name: 'shuffle_lower', seconds: 0.8, moves: legs(0.22) },
  call_face: {
    name: 'call_face',
    seconds: 1,
    moves: {
      beak_lower: {
        turns: (moment) => [0.35 * Math.max(0, wave(moment * 3)), 0, 0],
        shift: (moment) => [0, -0.01 * Math.max(0, wave(moment * 3)), 0],
      },
      eye_l: { shift: (moment) => [0, 0.003 * wave(moment), 0] },
      eye_r: { shift: (moment) => [0, 0.003 * wave(moment), 0] },
    },
  },
};

/** A bird; its finest level has the clips of the whole body. @param level 0 is the finest */
export function bird(which: Bird, level: number): Promise<Uint8Array> {
  const clips = level === 0 ? [birdClips.walk, birdClips.fly, birdClips.look] : [];
  return skinned(which.name, birdBones, partsOf(which, level), clips, which.scale);
}

/** A clip by itself, for the skeleton of a bird. */
export function birdClip(which: Bird, clip: Clip): Promise<Uint8Array> {
  return clipsAlone(`${which.name}_${clip.name}`, birdBones, [clip], which.scale);
}
