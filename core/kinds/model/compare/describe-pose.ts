import type { ClipDetail } from '../../../../contract/comparisons.ts';
import { secondsText } from '../../../figures.ts';
import { lengthText, percentText, type LengthUnit } from '../../comparing.ts';

/** How far a node moved, or else by how much it is turned. */
export function describeMove(metres: number, degrees: number, lengths: LengthUnit): string {
  return metres >= 0.001 ? `by ${lengthText(metres, lengths)}` : `turned by ${degreesText(degrees)}`;
}

function degreesText(degrees: number): string {
  return `${degrees.toFixed(degrees < 10 ? 1 : 0)}°`;
}

/** Where a pose differs most: how far, else by how much it is turned, scaled or morphed. Empty where it does not. */
export function describePose(
  { greatestMetres, bone, atSeconds, others: [other] }: ClipDetail,
  lengths: LengthUnit,
): string {
  if (greatestMetres >= 1e-4)
    return `${bone} up to ${lengthText(greatestMetres, lengths)} elsewhere, at ${secondsText(atSeconds)}`;
  if (!other) return '';
  const amount = other.what === 'turned' ? degreesText(other.amount) : percentText(other.amount);
  return `${other.bone} ${other.what} by up to ${amount}, at ${secondsText(other.atSeconds)}`;
}
