import type { Nature } from '../../../../contract/comparisons.ts';
import type { DecodedSound } from '../decoded.ts';
import { describeAdded, echoOf } from './added-sound.ts';
import { alignmentOf, alignmentOfChannels, mixed } from './align.ts';
import { blockSums, mixtureOf, type BlockSums } from './block-sums.ts';
import { editOf } from './edits.ts';
import { endsOf } from './ends.ts';
import { gainCurveOf } from './gain-curve.ts';
import { describeMixture, fitMixture, fitOf, loudnessWords, oddMixture, type MixtureFit } from './mixture.ts';
import { envelopeLikeness, pitchRatio } from './pitch.ts';
import { lossOf } from './pure-loss.ts';
import { resampled } from './resample.ts';
import { describeRounding, stepsBetween } from './rounding.ts';
import { bandsOf, describeBands, transferOf, type Band, type FilterWords, type Transfer } from './spectra.ts';
import { describeStretches, stretchesOf } from './stretches.ts';
import { rangeText, timeText } from './times.ts';

/** What was done to a sound: told from evidence for each, never from what is left over. */
export interface Explanation {
  nature: Nature;
  words: string[];
  shiftSeconds: number;
  gainDecibels: number;
  /** Stretches of the newer one that are other, in seconds. */
  ranges: { from: number; to: number }[];
  /** Share of the newer one that is other, where that is not told by the ranges. */
  extent: number | null;
  /** What is left over, in decibels of the newer one; null where that says nothing. */
  leftDecibels: number | null;
}

export interface SoundSide {
  sound: DecodedSound;
  channels: readonly Float32Array[];
}

/** So much of the sound, by blocks, must be told by one mixture for the rest to be a change of its own. */
const leastTold = 0.5;
/** A filter that stays the same tells so much of the power, at the least, of what was filtered. */
const leastCoherent = 0.9;

export function explain(old: SoundSide, now: SoundSide, likelyShift: number): Explanation {
  const rate = now.sound.sampleRate;
  const isOneRate = old.sound.sampleRate === rate;
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

interface Context {
  old: SoundSide;
  now: SoundSide;
  /** The older one's channels at the newer one's rate. */
  before: readonly Float32Array[];
  shiftFrames: number;
  /** How well they fit at that shift. */
  alignment: number;
  sums: BlockSums;
  fit: MixtureFit;
  rate: number;
  isOneRate: boolean;
}

function nothingKnown({ shiftFrames, rate }: Pick<Context, 'shiftFrames' | 'rate'>): Explanation {
  return {
    nature: 'other',
    words: [],
    shiftSeconds: shiftFrames / rate,
    gainDecibels: 0,
    ranges: [],
    extent: null,
    leftDecibels: null,
  };
}

const lossyCodings = /vorbis|opus|mp3|mpeg|aac|adpcm|law|module/i;

function isLossy({ sound }: SoundSide): boolean {
  return lossyCodings.test(sound.coding);
}

function lengthWords({ old, now }: Pick<Context, 'old' | 'now'>): string[] {
  const [before, after] = [old, now].map(({ sound }) => sound.frames / sound.sampleRate) as [number, number];
  const by = after - before;
  if (Math.abs(by) < 0.0005) return [];
  return [`${timeText(Math.abs(by))} ${by > 0 ? 'longer' : 'shorter'}`];
}

/** The same samples at another rate play faster or slower. */
function explainRate(old: SoundSide, now: SoundSide): Explanation | null {
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

/** Where most of a sound is the older one's to the sample: channels, gain, ends, and stretches that are other. */
function explainExact(context: Context): Explanation {
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
  return { ...common, nature: 'recompressed', words: ['the same sound, rounded otherwise'], extent: 0.01 };
}

/** Integers of fewer bits: no sample is farther off than these can say. */
function explainRounding(context: Context): Explanation | null {
  const { old, now, shiftFrames, rate, isOneRate } = context;
  const [was, is] = [old.sound.bits ?? 0, now.sound.bits ?? 0];
  if (!isOneRate || was === 0 || is === 0 || is >= was || isLossy(old) || isLossy(now)) return null;
  const steps = stepsBetween(old.sound, now.sound, shiftFrames);
  if (!steps || steps.greatest > 2 ** (was - is) * 1.6) return null;
  const rounding = describeRounding(steps, old.sound, now.sound, rate);
  return rounding && { ...nothingKnown(context), ...rounding };
}

function packedWords({ old, now, isOneRate }: Context): string {
  if (!isOneRate)
    return `the same sound at ${now.sound.sampleRate.toLocaleString('en')} Hz instead of ${old.sound.sampleRate.toLocaleString('en')}`;
  return 'the same sound, packed otherwise';
}

function offsetOf({ mixture }: MixtureFit): number {
  const offsets = mixture.map((row) => row.at(-1) ?? 0);
  const greatest = offsets.reduce((most, value) => (Math.abs(value) > Math.abs(most) ? value : most), 0);
  return Math.abs(greatest) < 0.0005 ? 0 : greatest;
}

/** A stretch that was put in or cut out, with all around it as it was but for a gain. */
function editIn(old: SoundSide, now: SoundSide, gain: number): Explanation | null {
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

function identity({ before, now }: Context): number[][] {
  return now.channels.map((_, output) =>
    Array.from({ length: before.length + 1 }, (_, input) => (input === output ? 1 : 0)),
  );
}

/** By all blocks: nothing in it is the same to the sample. */
function wholeFit({ sums }: Context): MixtureFit {
  return fitOf(
    sums,
    mixtureOf(sums, () => true),
  );
}

function explainGainCurve(context: Context): Explanation | null {
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

/** What the older sound is by a mixture of its channels, as one row of samples at the newer one's places. */
function saidBy({ before, now, shiftFrames }: Context, fit: MixtureFit): Float32Array {
  const length = now.channels[0]?.length ?? 0;
  const said = new Float32Array(length);
  const factors = fit.mixture.reduce<number[]>(
    (sum, row) => row.map((value, at) => value / fit.mixture.length + (sum[at] ?? 0)),
    [],
  );
  const isNothing = factors.slice(0, before.length).every((factor) => Math.abs(factor) < 1e-3);
  for (let input = 0; input < before.length; input++) {
    const factor = isNothing ? 1 / before.length : (factors[input] ?? 0);
    const samples = before[input];
    if (samples)
      for (let at = 0; at < length; at++)
        said[at] = (said[at] ?? 0) + factor * (samples[at - shiftFrames] ?? 0);
  }
  return said;
}

function meanOf(channels: readonly Float32Array[]): Float32Array {
  const [first = new Float32Array(0)] = channels;
  const mean = new Float32Array(first.length);
  for (const samples of channels)
    for (let at = 0; at < mean.length; at++)
      mean[at] = (mean[at] ?? 0) + (samples[at] ?? 0) / channels.length;
  return mean;
}

interface Filtering {
  said: Float32Array;
  there: Float32Array;
  transfer: Transfer;
  bands: Band[];
  filter: FilterWords;
  channelWords: string[];
  gainDecibels: number;
}

/** What a mixture and a filter behind it make of the older sound. */
function filteringOf(context: Context): Filtering {
  const { before, now, rate } = context;
  const free = wholeFit(context);
  const found = describeMixture(free.mixture, before.length);
  // What only a mixture of odd factors tells is not known to be mixed.
  const plain = plainFit(context);
  // Nor what is told nearly as well by one gain for all: packers draw sides that are alike nearer together.
  const isClean = !found.words.includes(oddMixture) && free.leftDecibels < plain.leftDecibels - 3;
  const fit = isClean ? free : plain;
  const relation = isClean ? found : describeMixture(fit.mixture, before.length);
  const [said, there] = [saidBy(context, fit), meanOf(now.channels)];
  const transfer = transferOf(said, there, 0, rate);
  const bands = bandsOf(transfer);
  const filter = describeBands(bands, transfer);
  return {
    said,
    there,
    transfer,
    bands,
    filter,
    channelWords: [
      ...relation.words,
      ...(relation.isPlain && relation.isInverted ? ['its polarity inverted'] : []),
    ],
    gainDecibels: relation.gainDecibels + filter.gainDecibels,
  };
}

/** One gain for all channels. */
function plainFit(context: Context): MixtureFit {
  const { sums, before, now } = context;
  const plain =
    before.length === now.channels.length
      ? identity(context)
      : now.channels.map(() => [...before.map(() => 1 / before.length), 0]);
  const fit = fitOf(sums, plain);
  const [both, said] = fit.energies.reduce<[number, number]>(
    ([a, b], energies) => [a + energies.both, b + energies.said],
    [0, 0],
  );
  const gain = said > 0 ? both / said : 1;
  return fitOf(
    sums,
    plain.map((row) => row.map((factor) => factor * gain)),
  );
}

/** Packed with loss, or at another rate: the same sound, and what else was done to it. */
function explainLoss(context: Context): Explanation | null {
  const { old, now, before, shiftFrames, rate, isOneRate } = context;
  const { transfer, bands, filter, channelWords, gainDecibels } = filteringOf(context);
  const loss = lossOf(
    { channels: before, sampleRate: rate, frames: before[0]?.length ?? 0 },
    { channels: now.channels, sampleRate: rate, frames: now.sound.frames },
    shiftFrames,
    filter,
    transfer,
    bands,
  );
  if (!loss) return null;
  const ends = endsOf(before, now.channels, shiftFrames, rate, false);
  const ranges = [...loss.ranges, ...ends.ranges];
  const isLouder = Math.abs(gainDecibels) > 0.6;
  const [first = { from: 0, to: 0 }] = loss.ranges;
  const words = [
    ...channelWords,
    ...(isLouder ? [loudnessWords(gainDecibels)] : []),
    ...(loss.cutHertz === null ? [] : [filter.words]),
    ...(loss.ranges.length === 1 ? [`other ${rangeText(first)}`] : []),
    ...(loss.ranges.length > 1
      ? [`other in ${loss.ranges.length} stretches, the first ${rangeText(first)}`]
      : []),
    ...ends.words,
  ];
  // Below this rate all that is high is gone.
  const isDuller = !isOneRate && rate < old.sound.sampleRate && rate < lowestFullRate;
  const nature =
    ranges.length > 0 || channelWords.length > 0
      ? 'other'
      : loss.cutHertz !== null
        ? 'filtered'
        : isLouder
          ? 'louder'
          : ends.isCut
            ? 'trimmed'
            : ends.words.length > 0
              ? 'shifted'
              : isDuller
                ? 'rescaled'
                : 'recompressed';
  return {
    ...nothingKnown(context),
    gainDecibels,
    nature,
    words: [packedWords(context), ...words],
    ranges,
    extent: ranges.length > 0 ? null : words.length > 0 || isDuller ? 0.1 : 0.02,
  };
}

/** All that people hear fits into rates from here on (common practice: twice 20 kHz). */
const lowestFullRate = 40_000;

/** A filter that stays the same, or something that was laid over it. */
function explainFilter(context: Context): Explanation | null {
  const { rate } = context;
  const { said, there, transfer, filter, channelWords, gainDecibels } = filteringOf(context);
  const common = { ...nothingKnown(context), gainDecibels };
  const begin = ['the same sound', ...channelWords];
  const leftBy = (gain: number): Float32Array =>
    Float32Array.from(there, (value, at) => value - (said[at] ?? 0) * gain);
  if (transfer.coherent >= leastCoherent && transfer.windows > 1) {
    if (Math.abs(filter.greatest) > 0.7)
      return {
        ...common,
        nature: 'filtered',
        words: [...begin, filter.words, ...gainWords(gainDecibels)],
        extent: 0.2,
      };
    const added = describeAdded(leftBy(10 ** (filter.gainDecibels / 20)), rate);
    if (added) return { ...common, words: [...begin, added.words, ...gainWords(gainDecibels)], extent: 0.2 };
  }
  if (transfer.coherent <= 0.3) return null;
  const left = leftBy(1);
  const echo = echoOf(left, said, rate);
  if (echo) return { ...common, words: [...begin, echo.words, ...lengthWords(context)], extent: 0.3 };
  const added = transfer.coherent > 0.6 ? describeAdded(left, rate) : null;
  return added && { ...common, words: [...begin, added.words], extent: 0.4 };
}

function gainWords(decibels: number): string[] {
  return Math.abs(decibels) > 0.3 ? [loudnessWords(decibels)] : [];
}

function explainTurned(context: Context): Explanation | null {
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
function explainSpeed(context: Context): Explanation | null {
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
function explainPitch(context: Context): Explanation | null {
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
