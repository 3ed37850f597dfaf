import { alignmentOf, mixed } from './align.ts';
import { blockSums } from './block-sums.ts';
import {
  leastTold,
  lengthWords,
  nothingKnown,
  wholeFit,
  type Context,
  type Explanation,
  type SoundSide,
} from './explanation.ts';
import { gainCurveOf } from './gain-curve.ts';
import { fitMixture } from './mixture.ts';
import { envelopeLikeness, pitchRatio } from './pitch.ts';
import { resampled } from './resample.ts';

/** The same samples at another rate play faster or slower. */
export function explainRate(old: SoundSide, now: SoundSide): Explanation | null {
  if (Math.abs(old.sound.frames - now.sound.frames) > Math.max(2, now.sound.frames * 0.001)) return null;
  const sums = blockSums(old.channels, now.channels, 0, now.sound.sampleRate);
  const fit = fitMixture(sums);
  if (fit.toldShare < 0.9) return null;
  return {
    ...nothingKnown({ shiftFrames: 0, rate: now.sound.sampleRate }),
    nature: 'rescaled',
    words: [
      `the same samples at ${now.sound.sampleRate.toLocaleString('en')} Hz, so that it plays ${speedWords(now.sound.sampleRate / old.sound.sampleRate)}`,
    ],
    extent: 0.3,
    leftDecibels: fit.leftDecibels,
  };
}

function speedWords(ratio: number): string {
  const percent = Math.abs(ratio - 1) * 100;
  return `${Number(percent.toFixed(percent < 10 ? 1 : 0))} % ${ratio > 1 ? 'faster' : 'slower'}`;
}

export function explainGainCurve(context: Context): Explanation | null {
  const fit = wholeFit(context);
  const curve = gainCurveOf(context.sums, fit);
  if (!curve) return null;
  return {
    ...nothingKnown(context),
    nature: 'louder',
    words: ['the same sound', curve.words],
    gainDecibels: curve.gainDecibels,
    extent: 0.2,
    leftDecibels: fit.leftDecibels,
  };
}

export function explainTurned(context: Context): Explanation | null {
  const { before, now, rate } = context;
  const turned = before.map((samples) => new Float32Array(samples).reverse());
  const [a, b] = [mixed(turned), mixed(now.channels)];
  const { shiftFrames, fit } = alignmentOf(a, b, [
    { shift: 0, slack: 2 },
    { shift: b.length - a.length, slack: 2 },
  ]);
  if (fit < 0.9) return null;
  const found = fitMixture(blockSums(turned, now.channels, shiftFrames, rate));
  const isClear = fit > context.alignment + 0.05 && found.leftDecibels < -15;
  if (found.toldShare < leastTold && !isClear) return null;
  return {
    ...nothingKnown({ shiftFrames: 0, rate }),
    words: ['the same sound played backwards', ...lengthWords(context)],
    nature: 'mirrored',
    extent: 0.5,
    leftDecibels: found.leftDecibels,
  };
}

/** The whole of it faster or slower, as a tape is: pitch and length follow from one another. */
export function explainSpeed(context: Context): Explanation | null {
  const { before, now, rate } = context;
  const [a, b] = [mixed(before), mixed(now.channels)];
  const ratio = a.length / b.length;
  if (Math.abs(ratio - 1) < 0.0005 || ratio > 2.5 || ratio < 0.4) return null;
  const stretched = resampled(a, 1 / ratio);
  const { shiftFrames, fit } = alignmentOf(stretched, b, [{ shift: 0, slack: Math.ceil(rate * 0.003) }]);
  if (fit < 0.8) return null;
  const found = fitMixture(blockSums([stretched], [b], shiftFrames, rate));
  if (found.leftDecibels > -8 && found.toldShare < leastTold) return null;
  return {
    ...nothingKnown({ shiftFrames: 0, rate }),
    nature: 'rescaled',
    words: ['the same sound', `${speedWords(ratio)}, and so ${ratio > 1 ? 'higher' : 'lower'}`],
    extent: 0.3,
    leftDecibels: found.leftDecibels,
  };
}

/** Its tones higher or lower by one ratio, or its time stretched, while all else goes on as before. */
export function explainPitch(context: Context): Explanation | null {
  const { before, now, rate } = context;
  const [a, b] = [mixed(before), mixed(now.channels)];
  const envelope = envelopeLikeness(a, b);
  if (envelope < 0.75) return null;
  const pitch = pitchRatio(a, b, rate);
  if (pitch === null) return null;
  const cents = 1200 * Math.log2(pitch);
  const ratio = a.length / b.length;
  const isStretched = Math.abs(ratio - 1) > 0.002;
  const isTuned = Math.abs(cents) > 1.5;
  if (!isStretched && !isTuned) return null;
  const parts = [
    ...(isTuned
      ? [`${pitchWords(pitch)} (${Math.abs(cents).toFixed(Math.abs(cents) < 20 ? 1 : 0)} cents)`]
      : []),
    ...(isStretched ? [`${speedWords(ratio)}${isTuned ? '' : ' at the same pitch'}`] : []),
  ];
  return {
    ...nothingKnown({ shiftFrames: 0, rate }),
    words: ['the same sound', ...parts],
    nature: 'other',
    extent: 0.4,
  };
}

function pitchWords(ratio: number): string {
  const percent = Math.abs(ratio - 1) * 100;
  return `${Number(percent.toFixed(percent < 10 ? 2 : 0))} % ${ratio > 1 ? 'higher' : 'lower'} in pitch`;
}
