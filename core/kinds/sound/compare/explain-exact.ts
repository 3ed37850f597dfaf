import { describeAdded } from './added-sound.ts';
import { meanOf } from './align.ts';
import { editOf } from './edits.ts';
import { endsOf } from './ends.ts';
import {
  isLossy,
  lengthWords,
  nothingKnown,
  packedWords,
  saidBy,
  type Context,
  type Explanation,
  type SoundSide,
} from './explanation.ts';
import { describeMixture, loudnessWords, type MixtureFit } from './mixture.ts';
import { describeRounding, stepsBetween } from './rounding.ts';
import { describeStretches, stretchesOf } from './stretches.ts';
import { rangeText, timeText } from './times.ts';

/** Where most of a sound is the older one's to the sample: channels, gain, ends, and stretches that are other. */
export function explainExact(context: Context): Explanation {
  const { old, now, before, shiftFrames, sums, fit, rate, isOneRate } = context;
  const relation = describeMixture(fit.mixture, before.length);
  const ends = endsOf(before, now.channels, shiftFrames, rate, isOneRate);
  const isGain = relation.isPlain && !relation.isInverted && Math.abs(relation.gainDecibels) > 0.01;
  const edit = isGain && isOneRate ? editIn(old, now, 10 ** (relation.gainDecibels / 20)) : null;
  if (edit) return edit;
  const stretches = stretchesOf(before, now.channels, shiftFrames, sums, fit, rate);
  const ranges = [...stretches.map(({ from, to }) => ({ from: from / rate, to: to / rate })), ...ends.ranges];
  const isLouder = Math.abs(relation.gainDecibels) >= 0.05;
  const offset = offsetOf(fit);
  const words = [
    ...relation.words,
    ...(relation.isInverted && relation.isPlain ? ['its polarity inverted'] : []),
    ...(isLouder ? [loudnessWords(relation.gainDecibels)] : []),
    ...(offset === 0 ? [] : [`an offset of ${offset.toFixed(3).replace('-', '−')} of full scale`]),
  ];
  const common = {
    ...nothingKnown(context),
    gainDecibels: relation.gainDecibels,
    ranges,
    leftDecibels: fit.leftDecibels,
  };
  if (words.length + stretches.length + ends.words.length > 0) {
    const isOther =
      stretches.length > 0 || ends.isNew || relation.words.length > 0 || relation.isInverted || offset !== 0;
    return {
      ...common,
      nature: isOther
        ? 'other'
        : isLouder
          ? 'louder'
          : ends.isCut || lengthWords(context).length > 0
            ? 'trimmed'
            : 'shifted',
      words: ['the same sound', ...words, ...describeStretches(stretches), ...ends.words],
      extent: stretches.length + ends.ranges.length > 0 ? null : relation.words.length > 0 ? 0.3 : 0.1,
    };
  }
  const steps = stepsBetween(old.sound, now.sound, shiftFrames);
  if (steps?.differing === 0) return { ...common, nature: 'same', words: ['the same samples'], extent: 0 };
  const rounding = steps && describeRounding(steps, old.sound, now.sound, rate);
  if (rounding) return { ...common, ...rounding };
  if (isLossy(old) || isLossy(now) || !isOneRate)
    return { ...common, nature: 'recompressed', words: [packedWords(context)], extent: 0.02 };
  // So little that each block is told, and more than rounding leaves: something soft lies over all of it.
  const [said, there] = [saidBy(context, fit), meanOf(now.channels)];
  const added = describeAdded(
    there.map((value, at) => value - (said[at] ?? 0)),
    rate,
  );
  return {
    ...common,
    nature: 'other',
    words: ['the same sound', added?.words ?? 'off by little'],
    extent: 0.1,
  };
}

/** Integers of fewer bits: no sample is farther off than these can say. */
export function explainRounding(context: Context): Explanation | null {
  const { old, now, shiftFrames, rate, isOneRate } = context;
  const [was, is] = [old.sound.bits ?? 0, now.sound.bits ?? 0];
  if (!isOneRate || was === 0 || is === 0 || is >= was || isLossy(old) || isLossy(now)) return null;
  const steps = stepsBetween(old.sound, now.sound, shiftFrames);
  if (!steps || steps.greatest > 2 ** (was - is) * 1.6) return null;
  const rounding = describeRounding(steps, old.sound, now.sound, rate);
  return rounding && { ...nothingKnown(context), ...rounding };
}

function offsetOf({ mixture }: MixtureFit): number {
  const offsets = mixture.map((row) => row.at(-1) ?? 0);
  const greatest = offsets.reduce((most, value) => (Math.abs(value) > Math.abs(most) ? value : most), 0);
  return Math.abs(greatest) < 0.0005 ? 0 : greatest;
}

/** A stretch that was put in or cut out, with all around it as it was but for a gain. */
export function editIn(old: SoundSide, now: SoundSide, gain: number): Explanation | null {
  const edit = editOf(old.channels, now.channels, gain);
  if (!edit) return null;
  const rate = now.sound.sampleRate;
  const [from, to] = [edit.from / rate, edit.to / rate];
  const gainDecibels = 20 * Math.log10(Math.max(1e-6, gain));
  return {
    ...nothingKnown({ shiftFrames: 0, rate }),
    nature: edit.kind === 'inserted' ? 'other' : 'trimmed',
    words: [
      'the same sound',
      edit.kind === 'inserted'
        ? `${timeText(to - from)} inserted ${rangeText({ from, to })}`
        : `${timeText(to - from)} cut out at ${timeText(from)}`,
      ...(Math.abs(gainDecibels) >= 0.05 ? [loudnessWords(gainDecibels)] : []),
    ],
    gainDecibels,
    ranges: edit.kind === 'inserted' ? [{ from, to }] : [],
    extent: edit.kind === 'inserted' ? null : 0.1,
  };
}
