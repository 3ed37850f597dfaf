import { shownChannels, type ShownChannels } from '../../../core/kinds/picture/view/draw-view.ts';
import type { Changes, Said } from '../model/look-address.ts';
import { firstImage, type ImageChoice } from './image-chooser.tsx';

export const grounds = ['paper', 'light', 'dark'] as const;
export type Ground = (typeof grounds)[number];

/** Where a picture is looked at: drawn pixels to one of it, and what lies in the middle; null is all of it. */
export type Place = { scale: number; x: number; y: number } | null;

/** How a picture is looked at, all of it: a link holds it. */
export interface PictureLook {
  image: ImageChoice;
  /** All sides of a cube at once. */
  isUnfolded: boolean;
  channels: ShownChannels;
  ground: Ground;
  exposure: number;
  isTiled: boolean;
  /** As a normal map under a light. */
  isLit: boolean;
  isGreenDown: boolean;
  place: Place;
  hasFigures: boolean;
  /** All its frames below it. */
  hasStrip: boolean;
}

const mostExposure = 12;
export const [leastScale, mostScale] = [1 / 64, 64];

export function pictureLookFrom(said: Said): PictureLook {
  const channels = said.get('channels') ?? '';
  const ground = said.get('ground') ?? '';
  const exposure = Number(said.get('exposure') ?? 0);
  return {
    image: imageFrom(said.get('image') ?? ''),
    isUnfolded: said.get('sides') === 'all',
    channels: isOneOf(shownChannels, channels) ? channels : 'all',
    ground: isOneOf(grounds, ground) ? ground : 'paper',
    exposure: Number.isFinite(exposure) ? Math.max(-mostExposure, Math.min(mostExposure, exposure)) : 0,
    isTiled: said.get('tiled') === '1',
    isLit: said.get('lit') !== null,
    isGreenDown: said.get('lit') === 'down',
    place: placeFrom(said.get('at') ?? ''),
    hasFigures: said.get('figures') !== '0',
    hasStrip: said.get('strip') === '1',
  };
}

export function pictureChanges(look: Partial<PictureLook>, now: PictureLook): Changes {
  const changes: Changes = {};
  const flag = (is: boolean): string | undefined => (is ? '1' : undefined);
  const { image, place } = look;
  if (image) changes.image = imageWord(image);
  if (look.isUnfolded !== undefined) changes.sides = look.isUnfolded ? 'all' : undefined;
  if (look.channels !== undefined) changes.channels = look.channels === 'all' ? undefined : look.channels;
  if (look.ground !== undefined) changes.ground = look.ground === 'paper' ? undefined : look.ground;
  if (look.exposure !== undefined) changes.exposure = look.exposure === 0 ? undefined : String(look.exposure);
  if (look.isTiled !== undefined) changes.tiled = flag(look.isTiled);
  if (look.isLit !== undefined || look.isGreenDown !== undefined) {
    const { isLit, isGreenDown } = { ...now, ...look };
    changes.lit = isLit ? (isGreenDown ? 'down' : 'up') : undefined;
  }
  if (place !== undefined)
    changes.at = place
      ? [place.scale, place.x, place.y].map((number) => Number(number.toPrecision(6))).join(',')
      : undefined;
  if (look.hasFigures !== undefined) changes.figures = look.hasFigures ? undefined : '0';
  if (look.hasStrip !== undefined) changes.strip = flag(look.hasStrip);
  return changes;
}

const imageParts = ['level', 'layer', 'face', 'slice', 'frame'] as const;

function imageFrom(word: string): ImageChoice {
  const numbers = word.split('.');
  if (numbers.length !== imageParts.length || !numbers.every((number) => /^\d{1,6}$/.test(number)))
    return firstImage;
  return Object.fromEntries(
    imageParts.map((part, at) => [part, Number(numbers[at])]),
  ) as unknown as ImageChoice;
}

function imageWord(image: ImageChoice): string | undefined {
  const numbers = imageParts.map((part) => image[part]);
  return numbers.every((number) => number === 0) ? undefined : numbers.join('.');
}

function placeFrom(word: string): Place {
  const numbers = word.split(',').map(Number);
  const [scale = 0, x = 0, y = 0] = numbers;
  if (numbers.length !== 3 || !numbers.every((number) => Number.isFinite(number)) || scale <= 0) return null;
  return { scale: Math.max(leastScale, Math.min(mostScale, scale)), x, y };
}

function isOneOf<Name extends string>(names: readonly Name[], name: string): name is Name {
  return (names as readonly string[]).includes(name);
}
