import type { Nature } from '../../../../contract/comparisons.ts';
import { percentText } from '../../comparing.ts';
import type { Raster } from '../../reading.ts';
import { stretch } from '../stretch.ts';
import { boxesOf, mostBoxes, type Box } from './boxes.ts';
import { describeRelation } from './describe.ts';
import { tileSide, type PixelDifferences } from './differences.ts';
import { correlationOf, sameSizeRelation, shiftedRelation } from './exact-relation.ts';
import { isOnlyLoss } from './loss.ts';
import { boxesInLoss, describePlaces, placeThreshold, tightBoxes } from './places.ts';
import { relationOf } from './relation.ts';
import { brightnessOf } from './structural-similarity.ts';
import { textureChange, type TextureChange } from './texture.ts';

/** What was done to a picture of the same size. */
export interface PictureExplanation {
  nature: Nature | 'stretched';
  words: string;
  boxes: Box[];
  /** Whether how bright and of which colour it is tells something beside the words. */
  hasTone: boolean;
}

/** More of the picture than this, seen to differ, is no noise. */
const mostSeen = 0.01;
/** Less structure than this is left, by SSIM, where fine detail was lost, though all areas have the colour that they had. */
const leastKept = 0.96;
/** Pictures that have no more in common than this are two. */
const [leastCorrelation, leastSimilarity] = [0.75, 0.9];

export interface PairFacts {
  differences: PixelDifferences;
  /** Mean SSIM. */
  similarity: number;
  /** Share of it that is seen to differ. */
  seen: number;
  /** Both, made smaller. */
  small: readonly [Raster, Raster];
  /** Whether one of them is packed with loss. */
  isPacked: boolean;
}

/** Tells what was done, from evidence for each: what is exact first, then what is likely, and what is left over last. */
export function explainPair(old: Raster, now: Raster, facts: PairFacts): PictureExplanation {
  const { differences, similarity, seen, small, isPacked } = facts;
  const share = differences.differing / (now.width * now.height);
  const told = (
    nature: PictureExplanation['nature'],
    words: string,
    more: Partial<PictureExplanation> = {},
  ): PictureExplanation => ({
    nature,
    words,
    boxes: [],
    hasTone: false,
    ...more,
  });
  if (differences.isHiddenOnly) return told('other', 'only colours that are fully transparent differ');
  const [red = 0, green = 0, blue = 0] = differences.channelCounts;
  if (red + green + blue === 0 && share > 0.5) return told('other', describeAlpha(old, now, share));
  const exact = share > 0.05 ? sameSizeRelation(old, now) : null;
  if (exact) return told(exact.nature, exact.words);
  // Looked at when it is asked for: of most pairs it is not.
  let known: TextureChange | null | undefined;
  const texture = (): TextureChange | null =>
    known === undefined ? (known = textureChange(old, now)) : known;
  const lossOf = (): PictureExplanation | null => {
    if (!isOnlyLoss(old, now, similarity, worstTiles(differences)) || texture()?.kind === 'softer')
      return null;
    if (similarity < leastKept)
      return told('other', 'the same picture, packed with visible loss of its fine detail');
    return seen <= mostSeen
      ? told(
          'recompressed',
          `the same picture, packed otherwise: ${percentText(seen)} of it is seen to differ`,
        )
      : told(
          'other',
          `the same picture, packed with visible loss: ${percentText(seen)} of it is seen to differ`,
        );
  };
  if (untouchedShare(differences) > 0.4) {
    // Packers leave even ground as it was.
    const loss = isPacked ? lossOf() : null;
    if (loss) return loss;
    const boxes = tightBoxes(old, now, boxesOf(differences, now.width, now.height, 0), 0);
    // One thing on an even ground may fill less than half of it.
    const softer = share > 0.1 && boxes.length === 1 ? texture() : null;
    if (softer?.kind === 'softer') return told('filtered', softer.words);
    return told('other', describePixels(differences, now, boxes), { boxes, hasTone: true });
  }
  const shifted = shiftedRelation(old, now);
  if (shifted) return told(shifted.nature, shifted.words);
  const loss = lossOf();
  if (loss) return loss;
  const relation = relationOf(...small);
  if (relation && relation.nature !== 'recoloured') return told(relation.nature, describeRelation(relation));
  const detail = texture();
  if (detail?.kind === 'softer' || detail?.kind === 'fewer colours') return told('filtered', detail.words);
  if (relation) return told(relation.nature, describeRelation(relation), { hasTone: true });
  const threshold = placeThreshold(differences);
  if (threshold !== null) {
    const rough = boxesOf(differences, now.width, now.height, threshold);
    const boxes = boxesInLoss(old, now, rough);
    const area = boxes.reduce((sum, box) => sum + box.width * box.height, 0);
    if (boxes.length > 0 && area < now.width * now.height * 0.5) {
      const around = similarity > 0.6 && isPacked ? 'the same picture, packed otherwise, and other' : 'other';
      return told('other', `${around} ${describePlaces(boxes, mostBoxes)}`, { boxes });
    }
  }
  const likeness = correlationOf(...thumbnails(old, now));
  if (isPacked && likeness > 0.9 && similarity > 0.45)
    return told(
      'other',
      `the same picture, packed with visible loss: ${percentText(seen)} of it is seen to differ`,
    );
  if (detail) return told('filtered', detail.words);
  const isColoured = [red, green, blue].filter((count) => count > 0).length > 1;
  if (
    isColoured &&
    hasSpread(old) &&
    hasSpread(now) &&
    likeness < leastCorrelation &&
    similarity < leastSimilarity &&
    share > 0.8
  )
    return told('other', 'another picture');
  const boxes =
    share < 0.9
      ? tightBoxes(old, now, boxesOf(differences, now.width, now.height, quarterOfWorst(differences)), 0)
      : [];
  return told('other', describePixels(differences, now, boxes), { boxes, hasTone: true });
}

/** Share of the tiles in which nothing differs. */
function untouchedShare({ tileMeans }: PixelDifferences): number {
  let untouched = 0;
  for (const mean of tileMeans) if (mean === 0) untouched++;
  return untouched / Math.max(1, tileMeans.length);
}

/** Whether there is anything in a picture but one colour. */
function hasSpread(picture: Raster): boolean {
  const values = brightnessOf(stretch(picture, 16, 16));
  return Math.max(...values) - Math.min(...values) > 12;
}

function thumbnails(old: Raster, now: Raster): [Uint8Array, Uint8Array] {
  const side = Math.max(8, Math.min(64, now.width, now.height));
  return [brightnessOf(stretch(old, side, side)), brightnessOf(stretch(now, side, side))];
}

function describeAlpha(old: Raster, now: Raster, share: number): string {
  const mean = ({ rgba }: Raster): number => {
    let sum = 0;
    for (let at = 3; at < rgba.length; at += 4) sum += rgba[at] ?? 0;
    return sum / Math.max(1, rgba.length / 4) / 2.55;
  };
  return `only alpha differs, in ${percentText(share)} of the pixels: ${mean(old).toFixed(0)} % → ${mean(now).toFixed(0)} % in the mean`;
}

const channelNames = ['red', 'green', 'blue', 'alpha'];

function describePixels(
  { differing, channelCounts }: PixelDifferences,
  { width, height }: Raster,
  boxes: readonly Box[],
): string {
  const touched = channelNames.filter((_, at) => (channelCounts[at] ?? 0) > 0);
  const only = touched.length === 1 ? `, in ${touched[0] ?? ''} alone` : '';
  const [first] = boxes;
  if (differing === 1 && first) return `one pixel differs, at ${first.x}, ${first.y}${only}`;
  const share = differing / (width * height);
  const places = boxes.length > 0 && share < 0.9 ? `, ${describePlaces(boxes, mostBoxes)}` : '';
  const count =
    share === 1
      ? 'all pixels differ'
      : differing <= 1000
        ? `${differing.toLocaleString('en')} pixels differ`
        : `${percentText(share)} of the pixels differ`;
  return `${count}${only}${places}`;
}

const worstCount = 8;

/** Places of the tiles whose pixels differ most. */
function worstTiles({ tileMeans, tilesAcross }: PixelDifferences): { x: number; y: number }[] {
  const worst: number[] = [];
  for (let tile = 0; tile < tileMeans.length; tile++) {
    const mean = tileMeans[tile] ?? 0;
    if (worst.length === worstCount && mean <= (tileMeans[worst.at(-1) ?? 0] ?? 0)) continue;
    worst.push(tile);
    worst.sort((a, b) => (tileMeans[b] ?? 0) - (tileMeans[a] ?? 0));
    worst.length = Math.min(worst.length, worstCount);
  }
  return worst.map((tile) => ({
    x: (tile % tilesAcross) * tileSide,
    y: Math.floor(tile / tilesAcross) * tileSide,
  }));
}

/** A quarter of the strongest tile, so that a box is drawn around what differs most and not around its faint surroundings. */
function quarterOfWorst({ tileMeans }: PixelDifferences): number {
  let greatest = 0;
  for (const mean of tileMeans) if (mean > greatest) greatest = mean;
  return Math.min(2, greatest / 4);
}
