import {
  energiesOf,
  leftOf,
  mixtureOf,
  type BlockEnergies,
  type BlockSums,
  type Mixture,
} from './block-sums.ts';

/** A block is told by the mixture where so little of it is left, in decibels; and where that is as little in all, in dBFS. */
const [toldDecibels, nothingDecibels] = [-45, -84];

export interface MixtureFit {
  mixture: Mixture;
  energies: BlockEnergies[];
  /** What is left of each block. */
  left: Float64Array;
  /** Blocks that the mixture tells. */
  isTold: boolean[];
  /** Share of the blocks with something in them. */
  toldShare: number;
  /** Of all, what is left, in decibels of the newer one; -Infinity where nothing is. */
  leftDecibels: number;
}

/**
 * How the newer sound was mixed of the older one, by what holds in most blocks: what is other in some of them does not
 * change the answer (least trimmed squares, Rousseeuw 1984).
 */
export function fitMixture(sums: BlockSums): MixtureFit {
  const free = fitFreely(sums);
  // Channels that are nearly one can be mixed in many ways to the same end: the simplest that tells as much is what was done.
  for (const simple of simpleMixtures(sums, free)) {
    const fit = fitOf(sums, simple);
    if (fit.toldShare >= free.toldShare - 0.002 && fit.toldShare > 0.2) return fit;
  }
  return free;
}

/** A gain for all channels as they are, then for left and right swapped. */
function simpleMixtures(sums: BlockSums, { isTold, toldShare }: MixtureFit): Mixture[] {
  const { inputs, outputs } = sums;
  if (inputs - 1 !== outputs) return [];
  const orders = [Array.from({ length: outputs }, (_, at) => at), ...(outputs === 2 ? [[1, 0]] : [])];
  return orders.map((order) => {
    const plain = order.map((input) => Array.from({ length: inputs }, (_, at) => (at === input ? 1 : 0)));
    let [both, said] = [0, 0];
    for (let block = 0; block < sums.blocks; block++) {
      if (toldShare > 0.2 && !isTold[block]) continue;
      const energies = energiesOf(sums, plain, block);
      both += energies.both;
      said += energies.said;
    }
    const gain = said > 0 ? both / said : 1;
    return plain.map((row) => row.map((factor) => factor * gain));
  });
}

function fitFreely(sums: BlockSums): MixtureFit {
  let mixture = mixtureOf(sums, () => true);
  let found = fitOf(sums, mixture);
  for (let round = 0; round < 6 && found.toldShare < 0.999; round++) {
    const worth = found.energies.map(({ there, said, frames }, at) => ({
      at,
      ratio: (found.left[at] ?? 0) / Math.max(1e-12 * frames, there + said),
      isHeard: there + said > frames * 1e-7,
    }));
    const heard = worth.filter(({ isHeard }) => isHeard).sort((a, b) => a.ratio - b.ratio);
    if (heard.length < 4) break;
    const taken = new Set(heard.slice(0, Math.max(2, heard.length >> 1)).map(({ at }) => at));
    mixture = mixtureOf(sums, (block) => taken.has(block));
    const next = fitOf(sums, mixture);
    if (next.toldShare < found.toldShare) break;
    const isSettled = next.toldShare - found.toldShare < 1e-6 && round > 1;
    found = next;
    if (isSettled) break;
  }
  return found;
}

export function fitOf(sums: BlockSums, mixture: Mixture): MixtureFit {
  const energies = Array.from({ length: sums.blocks }, (_, block) => energiesOf(sums, mixture, block));
  const left = Float64Array.from(energies, leftOf);
  let [told, heard, allLeft, all] = [0, 0, 0, 0];
  const isTold = energies.map(({ there, said, frames }, at) => {
    const rest = left[at] ?? 0;
    allLeft += rest;
    all += there;
    const is = rest <= there * 10 ** (toldDecibels / 10) || rest <= frames * 10 ** (nothingDecibels / 10);
    if (there + said > frames * 1e-8) {
      heard++;
      if (is) told++;
    }
    return is;
  });
  return {
    mixture,
    energies,
    left,
    isTold,
    toldShare: heard === 0 ? 1 : told / heard,
    leftDecibels: allLeft === 0 ? -Infinity : 10 * Math.log10(allLeft / Math.max(1e-12, all)),
  };
}

export interface ChannelRelation {
  /** What was done to the channels, in words; empty where they are what they were. */
  words: string[];
  /** How much louder the whole is. */
  gainDecibels: number;
  isInverted: boolean;
  /** Whether all that was done is a gain. */
  isPlain: boolean;
}

/** What is said of factors that nothing simpler gives. */
export const oddMixture = 'its channels mixed otherwise';

const sides = ['left', 'right'];
const sideOf = (at: number, count: number): string => (count === 2 ? (sides[at] ?? '') : `channel ${at + 1}`);

/** What a mixture does to channels, in words. Factors are taken for equal within 2 %. */
export function describeMixture(mixture: Mixture, inputs: number): ChannelRelation {
  const outputs = mixture.length;
  const factor = (output: number, input: number): number => mixture[output]?.[input] ?? 0;
  const greatest = Math.max(...mixture.flatMap((row) => row.slice(0, inputs).map(Math.abs)), 1e-9);
  const near = (a: number, b: number): boolean => Math.abs(a - b) <= Math.max(0.02 * greatest, 0.0005);
  const decibels = (value: number): number => 20 * Math.log10(Math.max(1e-6, Math.abs(value)));
  const plain = (gain: number, words: string[]): ChannelRelation => ({
    words,
    gainDecibels: decibels(gain),
    isInverted: gain < 0,
    isPlain: words.length === 0,
  });
  const isDiagonal = (order: readonly number[]): boolean =>
    order.every((input, output) =>
      Array.from({ length: inputs }, (_, other) => other === input || near(factor(output, other), 0)).every(
        Boolean,
      ),
    );
  const own = Array.from({ length: outputs }, (_, at) => at);
  if (inputs === outputs && isDiagonal(own)) {
    const gains = own.map((at) => factor(at, at));
    const [first = 1] = gains;
    if (gains.every((gain) => near(gain, first))) return plain(first, []);
    const silent = own.filter((at) => near(gains[at] ?? 0, 0));
    if (silent.length > 0) {
      const loud = own.filter((at) => !silent.includes(at));
      return plain(gains[loud[0] ?? 0] ?? 1, [
        `${silent.map((at) => sideOf(at, outputs)).join(' and ')} ${silent.length === 1 ? 'is' : 'are'} silent`,
      ]);
    }
    if (gains.every((gain) => near(Math.abs(gain), Math.abs(first)))) {
      const turned = own.filter((at) => (gains[at] ?? 0) < 0);
      return plain(Math.abs(first), [
        `the polarity of ${turned.map((at) => sideOf(at, outputs)).join(' and ')} inverted`,
      ]);
    }
    return plain(
      1,
      own
        .filter((at) => !near(gains[at] ?? 0, 1))
        .map((at) => `${sideOf(at, outputs)} ${loudnessWords(decibels(gains[at] ?? 0))}`),
    );
  }
  if (inputs === 2 && outputs === 2 && isDiagonal([1, 0]))
    return plain(factor(0, 1), ['left and right swapped']);
  if (inputs === 2 && outputs === 1) {
    const [left, right] = [factor(0, 0), factor(0, 1)];
    if (near(right, 0)) return plain(left, ['left alone']);
    if (near(left, 0)) return plain(right, ['right alone']);
    if (near(left, right)) return plain(left * 2, ['left and right mixed into one channel']);
  }
  if (inputs === 1 && outputs > 1) {
    const gains = own.map((at) => factor(at, 0));
    const [first = 1] = gains;
    if (gains.every((gain) => near(gain, first)))
      return plain(first, [`the same on ${outputs === 2 ? 'left and right' : `all ${outputs} channels`}`]);
    const silent = own.filter((at) => near(gains[at] ?? 0, 0));
    if (silent.length === outputs - 1)
      return plain(Math.max(...gains), [
        `on ${own
          .filter((at) => !silent.includes(at))
          .map((at) => sideOf(at, outputs))
          .join('')} alone`,
      ]);
  }
  if (inputs === 2 && outputs === 2) {
    const [ll, lr, rl, rr] = [factor(0, 0), factor(0, 1), factor(1, 0), factor(1, 1)];
    if (near(ll, rl) && near(lr, rr)) {
      if (near(lr, 0)) return plain(ll, ['left on both sides']);
      if (near(ll, 0)) return plain(lr, ['right on both sides']);
      if (near(ll, lr)) return plain(ll * 2, ['left and right mixed, the same on both sides']);
    }
    if (near(ll, rr) && near(lr, rl)) {
      const width = (ll - lr) / Math.max(1e-9, ll + lr);
      return plain(ll + lr, [
        width < 1
          ? `left and right ${Math.round((1 - width) * 100)} % closer together`
          : `left and right ${Math.round((width - 1) * 100)} % farther apart`,
      ]);
    }
  }
  return plain(1, [oddMixture]);
}

export function loudnessWords(decibels: number): string {
  return `${Math.abs(decibels).toFixed(1)} dB ${decibels > 0 ? 'louder' : 'quieter'}`;
}
