import type { Kind } from '../../../contract/kinds.ts';
import { correlationOf } from '../../kinds/picture/compare/exact-relation.ts';
import { sharedOf } from '../../kinds/minhash.ts';
import { modelSignatureParts } from '../../kinds/model/signature.ts';
import { pictureSignatureParts } from '../../kinds/picture/signature.ts';
import { soundSignatureParts } from '../../kinds/sound/signature.ts';
import { textSignatureParts } from '../../kinds/text/signature.ts';

/**
 * How alike two contents are, by several measures of what their signatures say (what the bytes of each mean stands with the
 * readers): each from 0 to 1, where 1 is no difference.
 */
export type Looks = readonly number[];

interface Measured {
  /** How long a signature is. */
  bytes: number;
  names: readonly string[];
  measure: (a: Uint8Array, b: Uint8Array) => Looks;
  /** What says most for their being one thing, in words. */
  describe: (measure: (name: string) => number) => string;
}

/** The measures of each kind that has a signature. */
export const looksOf: Partial<Record<Kind, Measured>> = {
  picture: {
    bytes: pictureSignatureParts.end,
    names: [
      'waves',
      'squares alike',
      'light alike',
      'light equal',
      'squares near',
      'pattern',
      'not plain',
      'colours',
      'same shape',
      'same size',
    ],
    measure: pictureLooks,
    describe: (of) => `looks ${percent((of('waves') + of('pattern') + of('squares near')) / 3)} alike`,
  },
  model: {
    bytes: modelSignatureParts.end,
    names: [
      'distances',
      'turns',
      'proportions',
      'extents',
      'extents but for scale',
      'triangles',
      'names',
      'same triangles',
      'many triangles',
      'same unwrapping',
      'much unwrapping',
    ],
    measure: modelLooks,
    describe: (of) =>
      of('same triangles') > 0.5
        ? `${most(of('same triangles'))} of its triangles are the same`
        : of('same unwrapping') > 0.5
          ? `${most(of('same unwrapping'))} of its triangles lie where they lay on the texture`
          : `looks ${percent(Math.max(of('distances'), of('turns')))} alike`,
  },
  sound: {
    bytes: soundSignatureParts.end,
    names: ['bands', 'course', 'length', 'loudness', 'one end', 'other end', 'tone of one end'],
    measure: soundLooks,
    describe: (of) =>
      of('one end') > 0.9 && of('other end') <= 0.9
        ? 'begins or ends the same'
        : `sounds ${percent(Math.max(of('bands'), of('course')))} alike`,
  },
  text: {
    bytes: textSignatureParts.end,
    names: ['words', 'pairs of words', 'many pairs', 'length'],
    measure: textLooks,
    describe: (of) => `${most(of('pairs of words'))} of its words are the same`,
  },
};

/** What two contents are alike in, in words. */
export function describeLooks(kind: Kind, looks: Looks): string {
  const measured = looksOf[kind];
  return measured?.describe((name) => looks[measured.names.indexOf(name)] ?? 0) ?? '';
}

/** Of what is not the same, never all. */
const percent = (share: number): string => `${Math.min(99, Math.round(share * 100))} %`;

/** A share that few bytes tell: to a tenth. */
const most = (share: number): string =>
  share > 0.95 ? 'nearly all' : share < 0.05 ? 'hardly any' : `about ${Math.round(share * 10) * 10} %`;

function pictureLooks(a: Uint8Array, b: Uint8Array): Looks {
  const { waves, squares, light, colours, size, end } = pictureSignatureParts;
  const [one, other] = [a.subarray(light, colours), b.subarray(light, colours)];
  const [wide, high] = [stepOf(a, b, size), stepOf(a, b, size + 1)];
  let alike = 0;
  for (let square = squares; square < light; square += 4)
    if (
      stepOf(a, b, square) <= 6 &&
      stepOf(a, b, square + 1) <= 6 &&
      stepOf(a, b, square + 2) <= 6 &&
      stepOf(a, b, square + 3) <= 6
    )
      alike++;
  return [
    fade(differingBits(a, b, waves, squares), 10),
    alike / ((light - squares) / 4),
    shareWithin(a, b, light, colours, 3),
    shareWithin(a, b, light, colours, 1) ** 2,
    fade(meanStep(a, b, squares, light), 16),
    Math.max(0, correlationOf(one, other)),
    1 - fade(Math.min(spread(one), spread(other)), 6),
    fade(meanStep(a, b, colours, size), 10),
    Math.abs(wide - high) <= 1 ? 1 : 0,
    meanStep(a, b, size, end) === 0 ? 1 : 0,
  ];
}

function modelLooks(a: Uint8Array, b: Uint8Array): Looks {
  const { distances, proportions, size, triangles, turns, extents, names, corners, unwrapped } =
    modelSignatureParts;
  const off = [0, 2, 4].map((at) => Math.abs(wordAt(a, extents + at) - wordAt(b, extents + at)));
  const shift = wordAt(a, extents) - wordAt(b, extents);
  const scaled = [2, 4].map((at) => Math.abs(wordAt(a, extents + at) - wordAt(b, extents + at) - shift));
  const named = (signature: Uint8Array): boolean =>
    signature.subarray(names, corners).some((byte) => byte !== 0);
  const triangle = sharedOf(a, b, corners);
  const unwrapping = sharedOf(a, b, unwrapped);
  return [
    fade(meanStep(a, b, distances, proportions), 5),
    fade(meanStep(a, b, turns, extents), 8),
    fade(meanStep(a, b, proportions, size), 12),
    off.filter((steps) => steps <= 2).length / 3,
    scaled.filter((steps) => steps <= 3).length / 2,
    fade(stepOf(a, b, triangles), 2),
    named(a) && named(b) ? fade(differingBits(a, b, names, corners), 10) : 0,
    triangle.share,
    triangle.weight,
    unwrapping.share,
    unwrapping.weight,
  ];
}

function soundLooks(a: Uint8Array, b: Uint8Array): Looks {
  const { bands, slices, length, loudness, beginning, ending, end } = soundSignatureParts;
  const course = slices - bands;
  const ends = [beginning, ending].map((at) => ({
    course: shareWithin(a, b, at, at + course, 8),
    tone: fade(meanStep(a, b, at + course, at + (end - ending)), 14),
  }));
  ends.sort((one, other) => other.course - one.course);
  return [
    fade(meanStep(a, b, bands, slices), 7),
    fade(meanStep(a, b, slices, length), 8),
    fade(stepOf(a, b, length), 2),
    fade(stepOf(a, b, loudness), 6),
    ends[0]?.course ?? 0,
    ends[1]?.course ?? 0,
    ends[0]?.tone ?? 0,
  ];
}

function textLooks(a: Uint8Array, b: Uint8Array): Looks {
  const { words, length, pairs } = textSignatureParts;
  const { share, weight } = sharedOf(a, b, pairs);
  return [fade(differingBits(a, b, words, length), 8), share, weight, fade(stepOf(a, b, length), 3)];
}

/** Ones in a byte. */
const ones = Uint8Array.from({ length: 256 }, (_, byte) => {
  let count = 0;
  for (let rest = byte; rest > 0; rest >>= 1) count += rest & 1;
  return count;
});

function differingBits(a: Uint8Array, b: Uint8Array, from: number, to: number): number {
  let count = 0;
  for (let at = from; at < to; at++) count += ones[(a[at] ?? 0) ^ (b[at] ?? 0)] ?? 0;
  return count;
}

function stepOf(a: Uint8Array, b: Uint8Array, at: number): number {
  return Math.abs((a[at] ?? 0) - (b[at] ?? 0));
}

function meanStep(a: Uint8Array, b: Uint8Array, from: number, to: number): number {
  let sum = 0;
  for (let at = from; at < to; at++) sum += stepOf(a, b, at);
  return sum / Math.max(1, to - from);
}

/** Share of those that are something in either, of which both are as much but for so many steps. */
function shareWithin(a: Uint8Array, b: Uint8Array, from: number, to: number, steps: number): number {
  let [within, all] = [0, 0];
  for (let at = from; at < to; at++) {
    if ((a[at] ?? 0) === 0 && (b[at] ?? 0) === 0) continue;
    all++;
    if (stepOf(a, b, at) <= steps) within++;
  }
  return all === 0 ? 1 : within / all;
}

function wordAt(bytes: Uint8Array, at: number): number {
  return ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
}

/** How much of a likeness is left at a distance: 1 at none, a half at `half`. */
function fade(distance: number, half: number): number {
  const share = distance / half;
  return Math.exp(-Math.LN2 * share * Math.sqrt(share));
}

/** Standard deviation. */
function spread(values: Uint8Array): number {
  let [sum, squares] = [0, 0];
  for (let at = 0; at < values.length; at++) {
    const value = values[at] ?? 0;
    sum += value;
    squares += value * value;
  }
  return Math.sqrt(Math.max(0, squares / values.length - (sum / values.length) ** 2));
}
