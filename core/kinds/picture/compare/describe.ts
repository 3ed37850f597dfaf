import type { Figure } from '../../../../contract/comparisons.ts';
import type { Raster } from '../../reading.ts';
import { timesText } from '../../comparing.ts';
import type { Relation } from './relation.ts';
import { meanLab, sharpness } from './tone.ts';

/** What one of two pictures is to the other. */
export function describeRelation(relation: Relation): string {
  switch (relation.nature) {
    case 'mirrored':
      return relation.how.startsWith('turned')
        ? `the same picture, ${relation.how}`
        : `the same picture, mirrored ${relation.how}`;
    case 'rescaled':
      return `the same picture, ${timesText(relation.factor)} as large`;
    case 'stretched':
      return `the same picture, stretched: ${stretchText(relation)}`;
    case 'bordered': {
      const { left, top, right, bottom, wider } = relation;
      return `the same picture, borders ${wider === 'new' ? 'added' : 'cut off'}: ${left} left, ${top} above, ${right} right, ${bottom} below`;
    }
    case 'recoloured':
      return 'the same picture in other colours';
  }
}

function stretchText({ across, down }: { across: number; down: number }): string {
  const parts = [
    ...(Math.abs(across - 1) < 0.003 ? [] : [`${timesText(across)} as wide`]),
    ...(Math.abs(down - 1) < 0.003 ? [] : [`${timesText(down)} as high`]),
  ];
  return parts.join(' and ');
}

/**
 * How much brighter, of which other colour and how much sharper one of two pictures is.
 * @param brightness of both at full size, where they are of one size
 */
export function toneFigures(
  [old, now]: readonly [Raster, Raster],
  brightness: readonly [Uint8Array, Uint8Array] | null,
  width: number,
): { figures: Figure[]; words: string[] } {
  const [l1, a1, b1] = meanLab(old);
  const [l2, a2, b2] = meanLab(now);
  const figures: Figure[] = [];
  const words: string[] = [];
  if (Math.abs(l2 - l1) > 0.5) {
    figures.push({ name: 'brightness (L*)', old: l1.toFixed(1), new: l2.toFixed(1) });
    if (Math.abs(l2 - l1) > 1.5) words.push(l2 > l1 ? 'brighter' : 'darker');
  }
  const shift = Math.hypot(a2 - a1, b2 - b1);
  if (shift > 1) {
    const hues = [
      [a2 - a1, 'redder', 'greener'],
      [b2 - b1, 'yellower', 'bluer'],
    ] as const;
    const [by, up, down] = Math.abs(hues[0][0]) > Math.abs(hues[1][0]) ? hues[0] : hues[1];
    figures.push({
      name: 'colour (a*, b*)',
      old: `${a1.toFixed(1)}, ${b1.toFixed(1)}`,
      new: `${a2.toFixed(1)}, ${b2.toFixed(1)}`,
    });
    if (shift > 3) words.push(by > 0 ? up : down);
  }
  if (brightness) {
    const [s1, s2] = [sharpness(brightness[0], width), sharpness(brightness[1], width)];
    if (s1 > 0.2 && Math.abs(s2 / s1 - 1) > 0.12) {
      figures.push({ name: 'sharpness (mean step)', old: s1.toFixed(2), new: s2.toFixed(2) });
      words.push(s2 > s1 ? 'sharper' : 'softer');
    }
  }
  return { figures, words };
}
