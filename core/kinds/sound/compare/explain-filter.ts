import { addedTone, describeAdded, echoOf } from './added-sound.ts';
import { meanOf } from './align.ts';
import { endsOf } from './ends.ts';
import {
  identity,
  lengthWords,
  leastCoherent,
  nothingKnown,
  packedWords,
  saidBy,
  wholeFit,
  type Context,
  type Explanation,
} from './explanation.ts';
import { describeMixture, fitOf, loudnessWords, oddMixture, type MixtureFit } from './mixture.ts';
import { lossOf } from './pure-loss.ts';
import { bandsOf, describeBands, transferOf, type Band, type FilterWords, type Transfer } from './spectra.ts';
import { rangeText } from './times.ts';

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
export function explainLoss(context: Context): Explanation | null {
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
  const tone = addedTone(transfer, meanOf(now.channels));
  // A tone that lies over all of it is what differs where the sound itself is soft.
  const stretches = tone === null ? loss.ranges : [];
  const ranges = [...stretches, ...ends.ranges];
  const isLouder = Math.abs(gainDecibels) > 0.6;
  const [first = { from: 0, to: 0 }] = stretches;
  const words = [
    ...channelWords,
    ...(tone === null ? [] : [tone]),
    ...(isLouder ? [loudnessWords(gainDecibels)] : []),
    ...(loss.cutHertz === null ? [] : [filter.words]),
    ...(stretches.length === 1 ? [`other ${rangeText(first)}`] : []),
    ...(stretches.length > 1
      ? [`other in ${stretches.length} stretches, the first ${rangeText(first)}`]
      : []),
    ...ends.words,
  ];
  // Below this rate all that is high is gone.
  const isDuller = !isOneRate && rate < old.sound.sampleRate && rate < lowestFullRate;
  const nature =
    ranges.length > 0 || channelWords.length > 0 || tone !== null
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
export function explainFilter(context: Context): Explanation | null {
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
