/** How one sound's samples follow from another's by a shift and a gain. */
export interface SampleRelation {
  /** Sample frames that the newer one begins later. */
  shiftFrames: number;
  gain: number;
  /** What is left once these are taken out, below the signal, in decibels; infinite where nothing is. */
  signalToResidual: number;
}

const probeFrames = 2048;

/**
 * Finds the shift, to the sample, near a lag that is known roughly, from the loudest stretch of the older sound; then
 * measures what is left of all that overlaps.
 */
export function sampleRelation(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  roughFrames: number,
  slackFrames: number,
): SampleRelation {
  const [a, b] = [old[0] ?? new Float32Array(0), now[0] ?? new Float32Array(0)];
  const probe = loudestPlace(
    a,
    Math.max(0, -roughFrames + slackFrames),
    Math.min(a.length, b.length - roughFrames - slackFrames),
  );
  const length = Math.min(probeFrames, a.length - probe);
  let [shiftFrames, best] = [roughFrames, -Infinity];
  for (let shift = roughFrames - slackFrames; shift <= roughFrames + slackFrames; shift++) {
    let [products, energy] = [0, 1e-12];
    for (let at = probe; at < probe + length; at++) {
      const there = b[at + shift] ?? 0;
      products += (a[at] ?? 0) * there;
      energy += there * there;
    }
    const fit = products / Math.sqrt(energy);
    if (fit > best + 1e-9 || (fit > best - 1e-9 && Math.abs(shift) < Math.abs(shiftFrames)))
      [shiftFrames, best] = [shift, Math.max(best, fit)];
  }
  const some = relationAt(old, now, shiftFrames, 4);
  // Looked at four times as closely, what is not the same to the sample in a fourth of it is not so in all of it.
  return some.signalToResidual < surelyOther ? some : relationAt(old, now, shiftFrames, 1);
}

/** Less than the same to the sample leaves, by more than a fourth of the sound can be off. */
const surelyOther = 40;
const partFrames = 4096;

/** @param every of so many stretches one is looked at */
function relationAt(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  shiftFrames: number,
  every: number,
): SampleRelation {
  let [products, energyOld, energyNow] = [0, 0, 0];
  const from = Math.max(0, shiftFrames);
  const to = Math.min(now[0]?.length ?? 0, (old[0]?.length ?? 0) + shiftFrames);
  for (const [channel, samples] of now.entries()) {
    const before = old[channel];
    if (!before) continue;
    for (let part = from; part < to; part += partFrames * every) {
      const end = Math.min(to, part + partFrames);
      let [partProducts, partOld, partNow] = [0, 0, 0];
      for (let at = part; at < end; at++) {
        const p = before[at - shiftFrames] ?? 0;
        const q = samples[at] ?? 0;
        partProducts += p * q;
        partOld += p * p;
        partNow += q * q;
      }
      products += partProducts;
      energyOld += partOld;
      energyNow += partNow;
    }
  }
  const gain = energyOld > 0 ? products / energyOld : 1;
  const residual = Math.max(0, energyNow - 2 * gain * products + gain * gain * energyOld);
  // Sums of squares cancel to about fourteen digits.
  const isNothing = residual <= energyNow * 1e-12;
  return {
    shiftFrames,
    gain,
    signalToResidual:
      energyNow === 0 ? Infinity : isNothing ? Infinity : 10 * Math.log10(energyNow / residual),
  };
}

const blockSeconds = 0.01;
/** A block differs where so much is left of it, in dBFS, and so many decibels more than in the usual block. */
const [leastResidual, aboveUsual] = [-66, 12];

/**
 * Stretches in which more is left than the rest has, once shift and gain are taken out: a click in an hour is little of
 * all, and heard.
 * @returns seconds of the newer sound
 */
export function residualRanges(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  { shiftFrames, gain }: SampleRelation,
  sampleRate: number,
): { from: number; to: number }[] {
  const block = Math.max(1, Math.round(sampleRate * blockSeconds));
  const from = Math.max(0, shiftFrames);
  const to = Math.min(now[0]?.length ?? 0, (old[0]?.length ?? 0) + shiftFrames);
  const levels = new Float64Array(Math.max(0, Math.ceil((to - from) / block)));
  for (const [channel, samples] of now.entries()) {
    const before = old[channel];
    if (!before) continue;
    for (let at = 0; at < levels.length; at++) {
      const [first, end] = [from + at * block, Math.min(to, from + (at + 1) * block)];
      let energy = 0;
      for (let frame = first; frame < end; frame++) {
        const left = (samples[frame] ?? 0) - gain * (before[frame - shiftFrames] ?? 0);
        energy += left * left;
      }
      levels[at] = Math.max(levels[at] ?? 0, energy / (end - first));
    }
  }
  const decibels = levels.map((power) => 10 * Math.log10(power + 1e-16));
  const usual = [...decibels].sort((a, b) => a - b)[decibels.length >> 1] ?? 0;
  const ranges: { from: number; to: number }[] = [];
  decibels.forEach((level, at) => {
    if (level < leastResidual || level < usual + aboveUsual) return;
    const range = {
      from: (from + at * block) / sampleRate,
      to: Math.min(to, from + (at + 1) * block) / sampleRate,
    };
    const last = ranges.at(-1);
    if (last && range.from - last.to < 0.15) last.to = range.to;
    else ranges.push(range);
  });
  return ranges;
}

/** Begin of the loudest stretch within a range. */
function loudestPlace(samples: Float32Array, from: number, to: number): number {
  let [best, bestEnergy] = [Math.max(0, Math.min(from, samples.length - 1)), -1];
  for (let start = Math.max(0, from); start + probeFrames <= to; start += probeFrames) {
    let energy = 0;
    for (let at = start; at < start + probeFrames; at += 7) energy += (samples[at] ?? 0) ** 2;
    if (energy > bestEnergy) [best, bestEnergy] = [start, energy];
  }
  return best;
}
