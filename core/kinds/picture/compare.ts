import type { Comparison, Figure, Nature } from '../../../contract/comparisons.ts';
import { figure, percentText, sentenceOf, type Comparer, type Outcome } from '../comparing.ts';
import { sameBytes } from '../../bytes.ts';
import type { Raster } from '../reading.ts';
import { describeRelation, toneFigures } from './compare/describe.ts';
import { pixelDifferences } from './compare/differences.ts';
import { drawDifference } from './compare/draw-difference.ts';
import { partRelation } from './compare/exact-relation.ts';
import { explainPair } from './compare/explain.ts';
import { relationOf } from './compare/relation.ts';
import { seenShare } from './compare/seen.ts';
import { bandsOf, structuralSimilarity } from './compare/structural-similarity.ts';
import { normalDegrees } from './compare/tone.ts';
import { compareDisplays, plainDisplay } from './display.ts';
import { pictureOf } from './open.ts';
import type { ImagePlace, Picture } from './picture.ts';
import { narrow } from './read.ts';
import { reduce } from './reduce.ts';
import { shrink } from './shrink.ts';

const mostSide = 8192;
/** Pictures as a whole are looked at in this size, and what differs is drawn in it. */
const smallSide = 256;
const mostImages = 256;

/** Natures that say that nothing is to be seen. */
const unseen: ReadonlySet<Nature> = new Set<Nature>(['same', 'recompressed']);

/** Compares two pictures image by image, and tells of the one that differs most. */
export const comparePictures: Comparer = async (oldRequest, newRequest) => {
  const old = await pictureOf(oldRequest);
  const now = await pictureOf(newRequest);
  let worst: { outcome: Outcome; place: ImagePlace } | null = null;
  const places = commonImages(old, now);
  const looked = Math.min(mostImages, places.length);
  for (const place of places.slice(0, mostImages)) {
    const outcome = await compareAt(old, now, place);
    if (!worst || rank(outcome) > rank(worst.outcome)) worst = { outcome, place };
  }
  const { outcome, place } = worst ?? { outcome: await compareAt(old, now, {}), place: {} };
  const where = nameOfPlace(place);
  const { comparison } = outcome;
  const display = compareDisplays(old.display ?? plainDisplay, now.display ?? plainDisplay);
  const figures = [...factFigures(old, now), ...display.figures, ...comparison.figures];
  // What is there on one side only, or was not looked at, may be anything.
  const unlooked =
    looked < places.length
      ? [`the same in ${looked} images, ${places.length - looked} more were not looked at`]
      : [];
  const counts = countFigures(old, now).map(
    ({ name, old: before, new: after }) => `${name} ${before} → ${after}`,
  );
  if (unseen.has(comparison.nature) && counts.length + unlooked.length > 0)
    return {
      ...outcome,
      comparison: {
        ...comparison,
        nature: 'other',
        extent: 0.5,
        figures,
        sentence: sentenceOf([...counts, ...unlooked]),
      },
    };
  if (unseen.has(comparison.nature) && display.words.length > 0)
    return {
      ...outcome,
      comparison: {
        ...comparison,
        nature: 'other',
        extent: 0.3,
        figures,
        sentence: sentenceOf([
          comparison.nature === 'same' ? 'the same pixels' : 'the same picture',
          ...display.words,
        ]),
      },
    };
  const sentence =
    comparison.nature === 'same' && figures.length > 0
      ? sentenceOf([
          'the same to look at',
          figures.map(({ name, old: before, new: after }) => `${name} ${before} → ${after}`).join(', '),
        ])
      : where === ''
        ? comparison.sentence
        : `${comparison.sentence.slice(0, -1)}, on ${where}.`;
  const whole =
    display.words.length > 0 ? `${sentence.slice(0, -1)}, ${display.words.join(', ')}.` : sentence;
  return { ...outcome, comparison: { ...comparison, figures, sentence: whole } };
};

/** What is to be seen goes before what packing leaves, however much that is. */
function rank({ comparison: { nature, extent } }: Outcome): number {
  return extent + (unseen.has(nature) ? 0 : 1);
}

async function compareAt(old: Picture, now: Picture, place: ImagePlace): Promise<Outcome> {
  const [before, after] = [await old.image(place), await now.image(place)];
  const outcome = comparePair(
    shrink(before, mostSide),
    shrink(after, mostSide),
    isLossy(old) || isLossy(now),
  );
  if (outcome.comparison.nature !== 'same') return outcome;
  const [a, b] = [narrow(before.data), narrow(after.data)];
  if (a.BYTES_PER_ELEMENT === b.BYTES_PER_ELEMENT && sameBytes(bytesOf(a), bytesOf(b))) return outcome;
  // Heights and floats say more than is looked at.
  const finer =
    Math.max(a.BYTES_PER_ELEMENT, b.BYTES_PER_ELEMENT) > 1
      ? 'the same in 8 bits, finer values differ'
      : 'the same when it is seen smaller, single pixels differ';
  return {
    ...outcome,
    comparison: { ...outcome.comparison, nature: 'other', extent: 0.001, sentence: sentenceOf([finer]) },
  };
}

function bytesOf({ buffer, byteOffset, byteLength }: Uint8Array | Uint16Array | Float32Array): Uint8Array {
  return new Uint8Array(buffer, byteOffset, byteLength);
}

/** Packed with loss, or likely so: of WebP and AVIF nobody says. */
function isLossy({ encoding }: Picture): boolean {
  return /jpe?g|webp|avif|heif|BC|ETC|UASTC|ASTC|PVR/i.test(encoding);
}

/** The largest level of every layer, side, slice and frame that both have; then the smaller levels. */
function commonImages(old: Picture, now: Picture): ImagePlace[] {
  const count = (key: 'layers' | 'faces' | 'depth' | 'levels' | 'frames'): number =>
    Math.min(old[key], now[key]);
  const places: ImagePlace[] = [];
  for (let layer = 0; layer < count('layers'); layer++)
    for (let face = 0; face < count('faces'); face++)
      for (let slice = 0; slice < count('depth'); slice++) places.push({ layer, face, slice });
  for (let frame = 1; frame < count('frames'); frame++) places.push({ frame });
  for (let level = 1; level < count('levels'); level++) places.push({ level });
  return places;
}

const sides = ['+X', '−X', '+Y', '−Y', '+Z', '−Z'];

function nameOfPlace({ level = 0, layer = 0, face = 0, slice = 0, frame = 0 }: ImagePlace): string {
  const names = [
    level > 0 ? `mip ${level}` : '',
    layer > 0 ? `layer ${layer}` : '',
    face > 0 ? `side ${sides[face] ?? face}` : '',
    slice > 0 ? `slice ${slice}` : '',
    frame > 0 ? `frame ${frame + 1}` : '',
  ];
  return names.filter(Boolean).join(', ');
}

function factFigures(old: Picture, now: Picture): Figure[] {
  const size = ({ width, height }: Picture): string => `${width} × ${height}`;
  const alpha = ({ hasAlpha }: Picture): string => (hasAlpha ? 'alpha' : 'no alpha');
  return [
    ...figure('size', size(old), size(now)),
    ...figure('packed as', old.encoding, now.encoding),
    ...figure('channels', old.channels, now.channels),
    ...figure('alpha', alpha(old), alpha(now)),
    ...figure('bits to a channel', old.bitsPerChannel, now.bitsPerChannel),
    ...figure('mips', old.levels, now.levels),
    ...countFigures(old, now),
    ...figure('colour space', old.colourSpace, now.colourSpace),
  ];
}

function countFigures(old: Picture, now: Picture): Figure[] {
  return [
    ...figure('layers', old.layers, now.layers),
    ...figure('sides', old.faces, now.faces),
    ...figure('slices', old.depth, now.depth),
    ...figure('frames', old.frames, now.frames),
  ];
}

/** Compares two images, of any sizes. */
export function comparePair(old: Raster, now: Raster, isPacked = true): Outcome {
  const isOneSize = old.width === now.width && old.height === now.height;
  if (!isOneSize) return ofOtherSize(old, now);
  const factor = Math.max(1, Math.ceil(Math.max(now.width, now.height) / smallSide));
  const small = [reduce(old, smallSide), reduce(now, smallSide)] as const;
  const differences = pixelDifferences(old, now, factor);
  const pixels = now.width * now.height;
  if (differences.differing === 0)
    return {
      comparison: {
        kind: 'picture',
        nature: 'same',
        extent: 0,
        sentence: 'The same pixels.',
        figures: [],
        detail: null,
      },
      picture: null,
    };
  const [before, after] = [bandsOf(old), bandsOf(now)];
  const similarity = structuralSimilarity(before.values, after.values, now.width, before.height);
  const seen = seenShare(old, now);
  const { nature, words, boxes, hasTone } = explainPair(old, now, {
    differences,
    similarity,
    seen,
    small,
    isPacked,
  });
  const normals = normalDegrees(old, now, small);
  const share = differences.differing / pixels;
  const tones = toneFigures(small, [before.values, after.values], now.width);
  const names = ['red', 'green', 'blue', 'alpha'];
  const channels = names.map((name, at) => {
    const count = differences.channelCounts[at] ?? 0;
    return {
      name,
      share: count / pixels,
      mean: count === 0 ? 0 : (differences.channelSums[at] ?? 0) / count,
    };
  });
  const comparison: Comparison = {
    kind: 'picture',
    nature: natureOfWords(nature),
    extent:
      nature === 'recompressed'
        ? Math.min(0.05, seen)
        : Math.max(1e-4, Math.min(1, differences.isHiddenOnly ? 0.001 : share)),
    sentence: sentenceOf([words, ...tones.words.slice(0, hasTone ? 2 : 0)]),
    figures: [
      { name: 'pixels that differ', old: '', new: percentText(share) },
      { name: 'seen to differ', old: '', new: percentText(seen) },
      {
        name: 'colour difference, mean and greatest',
        old: '',
        new: `${differences.meanDifference.toFixed(1)} and ${differences.greatestDifference.toFixed(1)} (CIEDE2000)`,
      },
      { name: 'structural similarity', old: '', new: similarity.toFixed(4) },
      ...tones.figures,
      ...(normals
        ? [
            {
              name: 'normals turned, mean and greatest',
              old: '',
              new: `${normals.mean.toFixed(1)}° and ${normals.greatest.toFixed(1)}°`,
            },
          ]
        : []),
      ...channels
        .filter((channel) => channel.share > 0)
        .map((channel) => ({
          name: channel.name,
          old: '',
          new: `${percentText(channel.share)}, by ${channel.mean.toFixed(1)} of 255`,
        })),
    ],
    detail: {
      kind: 'picture',
      differingShare: share,
      visibleShare: Math.min(1, differences.visibleShare),
      meanDifference: differences.meanDifference,
      greatestDifference: differences.greatestDifference,
      similarity,
      boxes,
      channels,
      normalDegrees: normals,
    },
  };
  return { comparison, picture: drawDifference(...small, differences.blockSteps) };
}

/** Stretched is rescaled, in two directions. */
function natureOfWords(nature: Nature | 'stretched'): Nature {
  return nature === 'stretched' ? 'rescaled' : nature;
}

function ofOtherSize(old: Raster, now: Raster): Outcome {
  const likely = relationOf(old, now);
  const part = likely?.nature === 'bordered' ? null : partRelation(old, now);
  const relation = part ? null : likely;
  const nature = natureOfWords(part?.nature ?? relation?.nature ?? 'other');
  const tones = toneFigures([reduce(old, smallSide), reduce(now, smallSide)], null, 0);
  return {
    comparison: {
      kind: 'picture',
      nature,
      extent: part || relation ? 0.2 : 1,
      sentence: sentenceOf([
        part
          ? part.words
          : relation
            ? describeRelation(relation)
            : `another picture, ${old.width} × ${old.height} → ${now.width} × ${now.height}`,
      ]),
      figures: tones.figures,
      detail: null,
    },
    picture: null,
  };
}
