import type { Comparison } from '../../../contract/comparisons.ts';
import type { SoundFacts } from '../../../contract/facts.ts';
import { plural } from '../../figures.ts';
import { figure, sentenceOf, type Comparer, type Outcome } from '../comparing.ts';
import { identify } from '../identify.ts';
import { ReadError, type ReadRequest } from '../reading.ts';
import { drawWaveforms } from './compare/draw-waveforms.ts';
import { explain } from './compare/explain.ts';
import { heardLikeness } from './compare/pure-loss.ts';
import { timeText } from './compare/times.ts';
import { floatsOf, type DecodedSound } from './decoded.ts';
import { integratedLoudness, truePeak } from './loudness.ts';
import { soundOf } from './read.ts';

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
  if (formats.includes('midi') && !oldRequest.bySheet && !newRequest.bySheet)
    return (await import('./compare-notes.ts')).compareNotes(oldRequest, newRequest, others);
  return compareSides(await sideOf(oldRequest), await sideOf(newRequest));
};

async function sideOf(request: ReadRequest): Promise<Side> {
  const { format } = identify(request.bytes.subarray(0, 1024), request.path);
  const { sound, loops, cues } = await soundOf(request, format);
  if (sound.channels === 0 || sound.frames === 0)
    throw new ReadError(sound.damage ?? 'no sound could be decoded from it');
  const channels = floatsOf(sound);
  return { sound, format, channels, loops, cues };
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
  const { lagSeconds, likeness } = heardLikeness(old, now);
  const found = explain(old, now, Math.round(lagSeconds * now.sound.sampleRate));
  const besides = [
    ...(loopsText(old) === loopsText(now) ? [] : [`loop ${loopsText(now)} instead of ${loopsText(old)}`]),
    ...(cuesText(old) === cuesText(now) ? [] : [`marks ${cuesText(now)} instead of ${cuesText(old)}`]),
    ...(old.sound.channels === now.sound.channels
      ? []
      : [`${plural(now.sound.channels, 'channel')} instead of ${old.sound.channels}`]),
  ];
  // The tune is the same; what plays on, or from which side, is not.
  const nature =
    besides.length > 0 && (found.nature === 'same' || found.nature === 'recompressed')
      ? 'other'
      : found.nature;
  const loudness = [
    integratedLoudness(old.channels, old.sound.sampleRate),
    integratedLoudness(now.channels, now.sound.sampleRate),
  ] as const;
  const peaks = [truePeak(old.channels), truePeak(now.channels)] as const;
  const level = (value: number | null, unit: string): string =>
    value === null ? 'silence' : `${value.toFixed(1)} ${unit}`;
  const otherSeconds = found.ranges.reduce((sum, { from, to }) => sum + to - from, 0);
  const extent = found.extent ?? Math.max(0.005, Math.min(1, otherSeconds / Math.max(0.01, newSeconds)));
  const { leftDecibels } = found;
  const comparison: Comparison = {
    kind: 'sound',
    nature,
    extent: besides.length > 0 ? Math.max(0.1, extent) : extent,
    sentence: sentenceOf([...found.words, ...besides]),
    figures: [
      ...figure('length', timeText(oldSeconds), timeText(newSeconds)),
      ...figure('rate', `${old.sound.sampleRate} Hz`, `${now.sound.sampleRate} Hz`),
      ...figure('channels', old.sound.channels, now.sound.channels),
      ...figure('packed as', old.sound.coding, now.sound.coding),
      ...figure('bits', old.sound.bits ?? 'not said', now.sound.bits ?? 'not said'),
      ...figure('loudness', level(loudness[0], 'LUFS'), level(loudness[1], 'LUFS')),
      ...figure('true peak', level(peaks[0], 'dBTP'), level(peaks[1], 'dBTP')),
      ...figure('loop', loopsText(old), loopsText(now)),
      ...figure('marks', cuesText(old), cuesText(now)),
      { name: 'likeness of what is heard', old: '', new: likeness.toFixed(3) },
      ...(leftDecibels !== null && leftDecibels < -1 && nature !== 'same'
        ? [
            {
              name: 'left over, once aligned and levelled',
              old: '',
              new: Number.isFinite(leftDecibels)
                ? `${leftDecibels.toFixed(0).replace('-', '−')} dB`
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
      shiftSeconds: found.shiftSeconds,
      gainDecibels: found.gainDecibels,
      likeness: Math.max(-1, Math.min(1, likeness)),
      ranges: found.ranges,
    },
  };
  return {
    comparison,
    picture: drawWaveforms(
      old.channels,
      now.channels,
      [old.sound.sampleRate, now.sound.sampleRate],
      found.shiftSeconds,
      found.ranges,
    ),
  };
}
