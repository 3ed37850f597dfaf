export type Place = readonly [x: number, y: number, z: number];

export interface Bone {
  name: string;
  /** Name of the one that it hangs on; nothing for the root. */
  parent: string;
  /** Metres, of a bird of one metre and a half; it looks towards +Z. */
  at: Place;
}

const bone = (name: string, parent: string, ...at: Place): Bone => ({ name, parent, at });

/** Both sides of what a bird has twice; the left is +X. */
const both = (made: (side: 'l' | 'r', sign: 1 | -1) => Bone[]): Bone[] => [...made('l', 1), ...made('r', -1)];

/** The skeleton of all birds: forty bones. */
export const birdBones: readonly Bone[] = [
  bone('root', '', 0, 0, 0),
  bone('hips', 'root', 0, 0.82, -0.08),
  bone('spine_1', 'hips', 0, 0.87, 0.02),
  bone('spine_2', 'spine_1', 0, 0.93, 0.12),
  bone('spine_3', 'spine_2', 0, 1.0, 0.2),
  bone('neck_1', 'spine_3', 0, 1.1, 0.27),
  bone('neck_2', 'neck_1', 0, 1.22, 0.3),
  bone('neck_3', 'neck_2', 0, 1.34, 0.27),
  bone('neck_4', 'neck_3', 0, 1.45, 0.25),
  bone('head', 'neck_4', 0, 1.52, 0.28),
  bone('beak_upper', 'head', 0, 1.52, 0.36),
  bone('beak_lower', 'head', 0, 1.5, 0.35),
  ...both((side, sign) => [bone(`eye_${side}`, 'head', sign * 0.035, 1.545, 0.32)]),
  ...both((side, sign) => [
    bone(`shoulder_${side}`, 'spine_3', sign * 0.09, 1.02, 0.16),
    bone(`upper_wing_${side}`, `shoulder_${side}`, sign * 0.15, 1.02, 0.12),
    bone(`fore_wing_${side}`, `upper_wing_${side}`, sign * 0.38, 1.03, 0.1),
    bone(`hand_${side}`, `fore_wing_${side}`, sign * 0.64, 1.03, 0.12),
    bone(`feathers_1_${side}`, `upper_wing_${side}`, sign * 0.27, 1.02, 0.04),
    bone(`feathers_2_${side}`, `fore_wing_${side}`, sign * 0.52, 1.03, 0.03),
    bone(`feathers_3_${side}`, `hand_${side}`, sign * 0.8, 1.03, 0.06),
  ]),
  ...both((side, sign) => [
    bone(`thigh_${side}`, 'hips', sign * 0.07, 0.78, -0.02),
    bone(`shin_${side}`, `thigh_${side}`, sign * 0.07, 0.6, 0.06),
    bone(`ankle_${side}`, `shin_${side}`, sign * 0.07, 0.3, -0.04),
    bone(`foot_${side}`, `ankle_${side}`, sign * 0.07, 0.03, 0.0),
    bone(`toe_${side}`, `foot_${side}`, sign * 0.07, 0.02, 0.08),
  ]),
  bone('tail_1', 'hips', 0, 0.84, -0.2),
  bone('tail_2', 'tail_1', 0, 0.82, -0.36),
];
