import type { MapScene } from '../../../contract/assets.ts';
import type {
  FittedGround,
  GroundExtent,
  GroundLevels,
} from '../../../core/kinds/map/ground/height-field.ts';
import type { Changes, Said } from '../model/look-address.ts';

/** What is said of a map's ground: pictures by their paths, null for none. */
export interface SaidGround {
  heights: string | null;
  /** Its picture from above. */
  picture: string | null;
  /** Whether somebody said so; what is not said was found by names. */
  isSaid: boolean;
  /** Where it lies and how high it is; null where it is as it was fitted. */
  extent: GroundExtent | null;
  levels: GroundLevels | null;
}

const none = 'none';

/** What an address says of the ground, or what was found where it says nothing. */
export function groundSaid(said: Said, { heights, pictures }: MapScene['grounds']): SaidGround {
  const [high, seen] = [said.get('ground'), said.get('cover')];
  const [x, z, width, depth] = numbersIn(said.get('extent'), 4);
  const [lowest, highest] = numbersIn(said.get('levels'), 2);
  const isPlaced = x !== undefined && z !== undefined && Number(width) > 0 && Number(depth) > 0;
  return {
    heights: high === none ? null : (high ?? heights[0] ?? null),
    picture: seen === none ? null : (seen ?? pictures[0] ?? null),
    isSaid: high !== null || seen !== null,
    extent: isPlaced
      ? { x, z, width: width ?? 1, depth: depth ?? 1, isFlipped: said.get('flip') === 'on' }
      : null,
    levels: lowest === undefined || highest === undefined ? null : { lowest, highest },
  };
}

/** What an address says of a change of the ground. */
export const groundChanges = {
  heights: (path: string | null): Changes => ({
    ground: path ?? none,
    ...{ extent: undefined, levels: undefined, flip: undefined },
  }),
  picture: (path: string | null): Changes => ({ cover: path ?? none }),
  extent: ({ x, z, width, depth, isFlipped }: GroundExtent): Changes => ({
    extent: [x, z, width, depth].map(shortNumber).join(','),
    flip: isFlipped ? 'on' : undefined,
  }),
  levels: ({ lowest, highest }: GroundLevels): Changes => ({
    levels: [lowest, highest].map(shortNumber).join(','),
  }),
  asFitted: (): Changes => ({ extent: undefined, levels: undefined, flip: undefined }),
};

/** Where a ground lies, and how high: as it is said, as it was fitted, or flat under the first extent that is likely. */
export function groundPlace(
  { extent, levels }: SaidGround,
  fitted: FittedGround | null,
  likely: GroundExtent,
): { extent: GroundExtent; levels: GroundLevels } {
  const place = extent ?? fitted?.extent ?? likely;
  const usual = { lowest: 0, highest: Math.max(place.width, place.depth) / 20 };
  return { extent: place, levels: levels ?? fitted?.levels ?? usual };
}

function numbersIn(text: string | null, count: number): readonly (number | undefined)[] {
  const numbers = (text ?? '').split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
  return numbers.length === count && numbers.every(Number.isFinite) ? numbers : [];
}

function shortNumber(value: number): string {
  return String(Math.round(value * 1000) / 1000);
}
