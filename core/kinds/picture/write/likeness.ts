import type { Pixels } from '../picture.ts';
import type { Platform } from '../../reading.ts';
import type { Proof } from '../../writing.ts';
import { asLight, fullScaleOf, withBits } from './depth.ts';

/**
 * What was read again, beside what it was made of.
 * @param isData whether the numbers are data, which have no curve
 * @param hasAlpha whether alpha says anything: a picture without it is read as opaque
 */
export function proofOfPixels(
  source: Pixels,
  read: Pixels,
  { isData, hasAlpha }: { isData: boolean; hasAlpha: boolean },
  { sameBytes }: Pick<Platform, 'sameBytes'>,
): Proof {
  if (source.width !== read.width || source.height !== read.height)
    return {
      verdict: 'differs',
      sentence: `It is ${read.width} × ${read.height} pixels instead of ${source.width} × ${source.height}.`,
    };
  const [first, second] = inOneForm(source, read, isData);
  if (first.constructor === second.constructor && sameBytes(first, second))
    return { verdict: 'the same', sentence: '' };
  const full = fullScaleOf(first);
  let greatest = 0;
  let sum = 0;
  let pixels = 0;
  for (let at = 0; at < first.length; at += 4) {
    let worst = 0;
    for (let channel = 0; channel < (hasAlpha ? 4 : 3); channel++)
      worst = Math.max(worst, Math.abs((first[at + channel] ?? 0) - (second[at + channel] ?? 0)));
    if (worst === 0) continue;
    pixels++;
    sum += worst;
    greatest = Math.max(greatest, worst);
  }
  if (pixels === 0) return { verdict: 'the same', sentence: '' };
  const step = (value: number): string =>
    first instanceof Float32Array ? value.toPrecision(2) : ((value / full) * 255).toPrecision(2);
  const share = (100 * pixels) / (first.length / 4);
  return {
    verdict: 'differs',
    sentence:
      `${share < 0.01 ? 'Less than 0.01' : share.toFixed(2)} % of its pixels differ, by ${step(sum / pixels)} ` +
      `in the mean and ${step(greatest)} at most${first instanceof Float32Array ? ' of linear light' : ', of 255'}.`,
  };
}

/** Both with the numbers of whichever says more. */
function inOneForm(source: Pixels, read: Pixels, isData: boolean): [Pixels['data'], Pixels['data']] {
  if (source.data instanceof Float32Array || read.data instanceof Float32Array)
    return [asLight(source, isData).data, asLight(read, isData).data];
  const bits = source.data instanceof Uint16Array || read.data instanceof Uint16Array ? 16 : 8;
  return [withBits(source, bits, true).data, withBits(read, bits, true).data];
}
