import { alignmentOfChannels } from './align.ts';
import { blockSums } from './block-sums.ts';
import { editIn, explainExact, explainRounding } from './explain-exact.ts';
import { explainFilter, explainLoss } from './explain-filter.ts';
import { explainGainCurve, explainPitch, explainRate, explainSpeed, explainTurned } from './explain-time.ts';
import {
  isLossy,
  leastTold,
  lengthWords,
  nothingKnown,
  type Context,
  type Explanation,
  type SoundSide,
} from './explanation.ts';
import { fitMixture } from './mixture.ts';
import { resampled } from './resample.ts';
import { isHeard } from './stretches.ts';

/** Tells what was done to a sound: what is exact first, then what is likely, and what is left over last. */
export function explain(old: SoundSide, now: SoundSide, likelyShift: number): Explanation {
  const rate = now.sound.sampleRate;
  const isOneRate = old.sound.sampleRate === rate;
  const [wasHeard, isNowHeard] = [isHeard(old.channels), isHeard(now.channels)];
  if (wasHeard !== isNowHeard)
    return {
      ...nothingKnown({ shiftFrames: 0, rate }),
      words: [
        isNowHeard ? 'a sound where there was silence' : 'silence where there was a sound',
        ...lengthWords({ old, now }),
      ],
      extent: 1,
    };
  const raw = isOneRate ? null : explainRate(old, now);
  if (raw) return raw;
  const before = isOneRate
    ? old.channels
    : old.channels.map((samples) => resampled(samples, rate / old.sound.sampleRate));
  const edit = isOneRate ? editIn(old, now, 1) : null;
  if (edit) return edit;
  const [length, oldLength] = [now.channels[0]?.length ?? 0, before[0]?.length ?? 0];
  const { shiftFrames, fit: alignment } = alignmentOfChannels(before, now.channels, [
    { shift: 0, slack: Math.ceil(rate * 0.002) },
    { shift: length - oldLength, slack: 2 },
    { shift: likelyShift, slack: Math.ceil(rate * 0.016) },
  ]);
  const sums = blockSums(before, now.channels, shiftFrames, rate);
  const fit = fitMixture(sums);
  const context: Context = { old, now, before, shiftFrames, alignment, sums, fit, rate, isOneRate };
  const isPacked = isLossy(old) || isLossy(now) || !isOneRate;
  const isExact = fit.toldShare >= leastTold && sums.blocks > 0;
  // What loss leaves of a soft sound may be as little as what is told to the sample.
  const rounding = explainRounding(context);
  if (rounding) return rounding;
  if (isExact && (!isPacked || fit.leftDecibels < -70)) return explainExact(context);
  return (
    (isPacked ? explainLoss(context) : null) ??
    (isExact ? explainExact(context) : null) ??
    explainTurned(context) ??
    explainGainCurve(context) ??
    explainSpeed(context) ??
    explainFilter(context) ??
    explainPitch(context) ?? {
      ...nothingKnown(context),
      nature: 'other',
      words: ['another sound', ...lengthWords(context)],
      extent: 1,
    }
  );
}
