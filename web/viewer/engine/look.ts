import type { WayOfSeeing } from './ways-of-seeing.ts';

export type Axis = 'x' | 'y' | 'z';

/** How a model is looked at, all of it: a link holds it, and a canvas shows it. */
export interface Look {
  way: WayOfSeeing;
  /** Lines of the triangles over whatever is seen. */
  hasWires: boolean;
  hasBones: boolean;
  /** Name of the bone that is looked at. */
  bone: string | null;
  /** Parts that are not shown, by their places. */
  hidden: ReadonlySet<number>;
  /** The part that is marked. */
  part: number | null;
  hasBounds: boolean;
  /** A plane that cuts the near half away: across which axis, and where between its ends, 0 to 1. */
  section: { axis: Axis; share: number } | null;
  /** How far the light is turned about the vertical. */
  lightDegrees: number;
  /** Steps of exposure: each one doubles the light. */
  exposure: number;
}

export const plainLook: Look = {
  ...{ way: 'textured', hasWires: false, hasBones: false, bone: null, hidden: new Set(), part: null },
  ...{ hasBounds: false, section: null, lightDegrees: 0, exposure: 0 },
};

/** Whether two looks show the same. */
export function isSameLook(one: Look, other: Look): boolean {
  const words = (look: Look): string =>
    JSON.stringify({ ...look, hidden: [...look.hidden].sort((a, b) => a - b) });
  return words(one) === words(other);
}
