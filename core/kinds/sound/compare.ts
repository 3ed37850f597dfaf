import type { Comparison, Nature } from '../../../contract/comparisons.ts';
import type { SoundFacts } from '../../../contract/facts.ts';
import { plural, secondsText } from '../../figures.ts';
import { figure, sentenceOf, type Comparer, type Outcome } from '../comparing.ts';
import { identify } from '../identify.ts';
import { ReadError, type ReadRequest } from '../reading.ts';
import { bands, lagOf, patternDifference, patternOf, type PatternDifference } from './compare/pattern.ts';
import { describeSound } from './compare/describe.ts';
import { drawWaveforms } from './compare/draw-waveforms.ts';
import { residualRanges, sampleRelation, type SampleRelation } from './compare/samples.ts';
import { floatsOf, type DecodedSound } from './decoded.ts';
import { integratedLoudness, truePeak } from './loudness.ts';
import { cuesOf, decodeSound, loopsOf } from './read.ts';

/** Packing with loss leaves this much between the bands of two sounds that are the same to hear. */
const lossResidual = 2.5;
const lossLikeness = 0.95;
/** Where rate and channels are the same, in decibels. */
const lossSignalToResidual = 4;
/** A stretch differs where what is heard is so many decibels off in the mean of a tenth of a second, for as long. */
const otherResidual = 3;
const shortestRange = 0.1;

interface Side {
  sound: DecodedSound;
  format: string;
  channels: readonly Float32Array[];
  loops: SoundFacts['loops'];
  cues: SoundFacts['cues'];
}

/** Compares two sounds by what is heard: where they begin, how loud they are, what they are filtered by, and what is other. */
export const compareSounds: Comparer = async (oldRequest, newRequest, others) => {
  const formats = [oldRequest, newRequest].map(
    ({ bytes, path }) => identify(bytes.subarray(0, 1024), path).format,
  );
  if (formats.includes('midi'))
    return (await import('./compare-notes.ts')).compareNotes(oldRequest, newRequest, others);
  return compareSides(await sideOf(oldRequest), await sideOf(newRequest));
};

async function sideOf({ bytes, path }: ReadRequest): Promise<Side> {
  const { format } = identify(bytes.subarray(0, 1024), path);
  const sound = await decodeSound(bytes, format);
  if (sound.channels === 0 || sound.frames === 0)
    throw new ReadError(sound.damage ?? 'no sound could be decoded from it');
  const loops = await loopsOf(bytes, format, sound.frames);
  const channels = floatsOf(sound);
  return { sound, format, channels, loops, cues: cuesOf(bytes, format) };
}

/** In seconds: at another rate the same loop begins at another frame. */
function loopsText({ loops, sound: { sampleRate } }: Side): string {
  const seconds = (frame: number): string => (frame / sampleRate).toFixed(3);
  return (
    loops.map(({ startFrame, endFrame }) => `${seconds(startFrame)} to ${seconds(endFrame)} s`).join(', ') ||
    'none'
  );
}

function cuesText({ cues, sound: { sampleRate } }: Side): string {
  return (
    cues
      .map(({ frame, label }) => `${label || 'no name'} at ${(frame / sampleRate).toFixed(3)} s`)
      .join(', ') || 'none'
  );
}

function compareSides(old: Side, now: Side): Outcome {
  const [oldSeconds, newSeconds] = [
    old.sound.frames / old.sound.sampleRate,
    now.sound.frames / now.sound.sampleRate,
  ];
  const longest = Math.max(oldSeconds, newSeconds);
  const stepSeconds = longest > 120 ? 0.05 : longest > 40 ? 0.02 : 0.01;
  const [before, after] = [
    patternOf(old.channels, old.sound.sampleRate, stepSeconds),
    patternOf(now.channels, now.sound.sampleRate, stepSeconds),
  ];
  const lag = lagOf(before, after);
  const difference = patternDifference(before, after, lag);
  const isOneForm =
    old.sound.sampleRate === now.sound.sampleRate && old.sound.channels === now.sound.channels;
  const roughFrames = Math.round(lag * stepSeconds * now.sound.sampleRate);
  const exact = isOneForm
    ? sampleRelation(
        old.channels,
        now.channels,
        roughFrames,
        Math.ceil(stepSeconds * now.sound.sampleRate * 1.5),
      )
    : null;
  const isExact = exact !== null && exact.signalToResidual > 50;
  const shiftSeconds = isExact
    ? exact.shiftFrames / now.sound.sampleRate
    : Math.abs(lag) <= 2
      ? 0
      : lag * stepSeconds;
  const ranges = [
    ...(isExact
      ? residualRanges(old.channels, now.channels, exact, now.sound.sampleRate)
      : rangesOf(difference, stepSeconds)),
    ...newEnds(now, shiftSeconds, oldSeconds, newSeconds),
  ];
  const gainDecibels = isExact
    ? 20 * Math.log10(Math.max(1e-6, Math.abs(exact.gain)))
    : difference.gainDecibels;
  const heard = natureOf(
    exact,
    isExact,
    difference,
    ranges,
    shiftSeconds,
    gainDecibels,
    newSeconds - oldSeconds,
  );
  const besides = [
    ...(loopsText(old) === loopsText(now) ? [] : [`loop ${loopsText(now)} instead of ${loopsText(old)}`]),
    ...(cuesText(old) === cuesText(now) ? [] : [`marks ${cuesText(now)} instead of ${cuesText(old)}`]),
    ...(old.sound.channels === now.sound.channels
      ? []
      : [`${plural(now.sound.channels, 'channel')} instead of ${old.sound.channels}`]),
  ];
  // The tune is the same; what plays on, or from which side, is not.
  const nature = besides.length > 0 && (heard === 'same' || heard === 'recompressed') ? 'other' : heard;
  const loudness = [
    integratedLoudness(old.channels, old.sound.sampleRate),
    integratedLoudness(now.channels, now.sound.sampleRate),
  ] as const;
  const peaks = [truePeak(old.channels), truePeak(now.channels)] as const;
  const level = (value: number | null, unit: string): string =>
    value === null ? 'silence' : `${value.toFixed(1)} ${unit}`;
  const otherSeconds = ranges.reduce((sum, { from, to }) => sum + to - from, 0);
  const comparison: Comparison = {
    kind: 'sound',
    nature,
    extent:
      nature === 'same'
        ? 0
        : nature === 'recompressed'
          ? 0.02
          : nature === 'other'
            ? Math.max(
                besides.length > 0 ? 0.1 : 0.05,
                Math.min(1, otherSeconds / Math.max(0.01, newSeconds)),
              )
            : 0.1,
    sentence: sentenceOf([
      ...describeSound(
        heard,
        difference,
        ranges,
        { shiftSeconds, gainDecibels, oldSeconds, newSeconds },
        exact,
      ),
      ...besides,
    ]),
    figures: [
      ...figure('length', secondsText(oldSeconds), secondsText(newSeconds)),
      ...figure('rate', `${old.sound.sampleRate} Hz`, `${now.sound.sampleRate} Hz`),
      ...figure('channels', old.sound.channels, now.sound.channels),
      ...figure('packed as', old.sound.coding, now.sound.coding),
      ...figure('bits', old.sound.bits ?? 'not said', now.sound.bits ?? 'not said'),
      ...figure('loudness', level(loudness[0], 'LUFS'), level(loudness[1], 'LUFS')),
      ...figure('true peak', level(peaks[0], 'dBTP'), level(peaks[1], 'dBTP')),
      ...figure('loop', loopsText(old), loopsText(now)),
      ...figure('marks', cuesText(old), cuesText(now)),
      { name: 'likeness of what is heard', old: '', new: difference.likeness.toFixed(3) },
      ...(exact && exact.signalToResidual > 1 && nature !== 'same'
        ? [
            {
              name: 'left over, once shifted and levelled',
              old: '',
              new: Number.isFinite(exact.signalToResidual)
                ? `${(-exact.signalToResidual).toFixed(0)} dB`
                : 'nothing',
            },
          ]
        : []),
    ],
    detail: {
      kind: 'sound',
      oldLoudness: loudness[0],
      newLoudness: loudness[1],
      oldPeak: peaks[0],
      newPeak: peaks[1],
      shiftSeconds,
      gainDecibels,
      likeness: Math.max(-1, Math.min(1, difference.likeness)),
      ranges,
    },
  };
  return {
    comparison,
    picture: drawWaveforms(
      old.channels,
      now.channels,
      [old.sound.sampleRate, now.sound.sampleRate],
      shiftSeconds,
      ranges,
    ),
  };
}

function natureOf(
  exact: SampleRelation | null,
  isExact: boolean,
  { likeness, residuals, bandGains, gainDecibels: median, overlap }: PatternDifference,
  ranges: readonly { from: number; to: number }[],
  shiftSeconds: number,
  gainDecibels: number,
  longer: number,
): Nature {
  if (overlap === 0) return 'other';
  const isLouder = Math.abs(gainDecibels) > 0.3 || (exact !== null && isExact && exact.gain < 0);
  const isTrimmed = Math.abs(longer) > 0.005;
  if (isExact) {
    if (ranges.length > 0) return 'other';
    if (isLouder) return 'louder';
    if (isTrimmed) return 'trimmed';
    return Math.abs(shiftSeconds) > 1e-9
      ? 'shifted'
      : exact?.signalToResidual === Infinity
        ? 'same'
        : 'recompressed';
  }
  if (ranges.length > 0) return 'other';
  const heard = [...residuals].filter((value) => !Number.isNaN(value));
  const mean = heard.reduce((sum, value) => sum + value, 0) / Math.max(1, heard.length);
  if (mean > lossResidual) return 'other';
  let spread = 0;
  for (const gain of bandGains) spread += Math.abs(gain - median) / bands;
  // Each band by itself is as it was: that they are not among one another is a filter.
  if (spread > 2.5) return 'filtered';
  if (likeness < lossLikeness) return 'other';
  // What is packed with loss still swings as it did; what only sounds much the same does not.
  if (exact && exact.signalToResidual < lossSignalToResidual) return 'other';
  if (isTrimmed) return Math.abs(longer) > 0.06 ? 'trimmed' : 'recompressed';
  if (Math.abs(gainDecibels) > 1) return 'louder';
  return Math.abs(shiftSeconds) > 0.06 ? 'shifted' : 'recompressed';
}

/** Stretches in which what is left over is heard, in seconds of the newer one. */
function rangesOf({ residuals }: PatternDifference, stepSeconds: number): { from: number; to: number }[] {
  const ranges: { from: number; to: number }[] = [];
  const gap = Math.round(0.15 / stepSeconds);
  let [start, last] = [-1, -1];
  const close = (): void => {
    if (start >= 0 && (last + 1 - start) * stepSeconds >= shortestRange)
      ranges.push({ from: start * stepSeconds, to: (last + 1) * stepSeconds });
    start = -1;
  };
  const half = Math.max(1, Math.round(shortestRange / 2 / stepSeconds));
  residuals.forEach((_, step) => {
    const around = residuals
      .subarray(Math.max(0, step - half), step + half + 1)
      .filter((value) => !Number.isNaN(value));
    const mean = around.reduce((sum, value) => sum + value, 0) / Math.max(1, around.length);
    if (mean > otherResidual) {
      if (start < 0) start = step;
      last = step;
    } else if (start >= 0 && step - last > gap) close();
  });
  close();
  return ranges;
}

/** Quieter than this is silence, in dBFS (common practice, no published source). */
const silence = -60;

/** What the newer one has before the older one begins and after it ends, where that is no silence. */
function newEnds(
  { channels, sound }: Side,
  shiftSeconds: number,
  oldSeconds: number,
  newSeconds: number,
): { from: number; to: number }[] {
  const ends = [
    { from: 0, to: Math.min(newSeconds, shiftSeconds) },
    { from: Math.max(0, oldSeconds + shiftSeconds), to: newSeconds },
  ];
  return ends.filter(({ from, to }) => {
    if (to - from < shortestRange) return false;
    let energy = 0;
    const [first, last] = [Math.floor(from * sound.sampleRate), Math.floor(to * sound.sampleRate)];
    for (const samples of channels)
      for (let at = first; at < last; at++) energy += (samples[at] ?? 0) ** 2 / channels.length;
    return 10 * Math.log10(energy / Math.max(1, last - first) + 1e-12) > silence;
  });
}
