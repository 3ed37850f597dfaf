import { fourier } from '../fourier.ts';

interface Peak {
  hertz: number;
  weight: number;
}

const mostPeaks = 16;
const mostWindows = 200;

/** The strongest tones of a sound, between the places of the transform (parabola through the logarithms of three). */
function peaksOf(samples: Float32Array, sampleRate: number): Peak[] {
  const size = Math.min(2 ** 15, 2 ** Math.floor(Math.log2(Math.max(1024, samples.length))));
  const fft = fourier(size);
  const input = new Float64Array(size);
  const output = fft.createComplexArray() as number[];
  const powers = new Float64Array(size / 2);
  const hop = size / 2;
  const count = Math.max(1, Math.floor((samples.length - size) / hop) + 1);
  for (let step = 0; step < count; step += Math.max(1, Math.ceil(count / mostWindows))) {
    for (let at = 0; at < size; at++)
      input[at] = (samples[step * hop + at] ?? 0) * (0.5 - 0.5 * Math.cos((2 * Math.PI * at) / size));
    fft.realTransform(output, input);
    for (let bin = 0; bin < size / 2; bin++)
      powers[bin] = (powers[bin] ?? 0) + (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2;
  }
  const loudest = Math.max(...powers);
  const peaks: Peak[] = [];
  for (let bin = 2; bin < size / 2 - 2; bin++) {
    const power = powers[bin] ?? 0;
    if (power < loudest * 1e-4 || power < (powers[bin - 1] ?? 0) || power <= (powers[bin + 1] ?? 0)) continue;
    const [left, middle, right] = [powers[bin - 1] ?? 0, power, powers[bin + 1] ?? 0].map((value) =>
      Math.log(value + 1e-30),
    ) as [number, number, number];
    const bend = left - 2 * middle + right;
    const offset = bend === 0 ? 0 : (0.5 * (left - right)) / bend;
    peaks.push({ hertz: ((bin + offset) * sampleRate) / size, weight: power });
  }
  return peaks.sort((a, b) => b.weight - a.weight).slice(0, mostPeaks);
}

/** Two tones are one within so many octaves: three hundredths of a semitone. */
const sameTone = 0.0025;
/** So much of the tones of both, by power, must follow from one another by one ratio. */
const leastMatched = 0.6;

/** By which ratio all tones of a sound are higher than those of another; null where they do not follow by one. */
export function pitchRatio(old: Float32Array, now: Float32Array, sampleRate: number): number | null {
  const [before, after] = [peaksOf(old, sampleRate), peaksOf(now, sampleRate)];
  let best: { octaves: number; score: number } | null = null;
  for (const p of before)
    for (const q of after) {
      const octaves = Math.log2(q.hertz / p.hertz);
      if (Math.abs(octaves) > 1.05) continue;
      const score = scoreAt(before, after, octaves).share;
      if (
        !best ||
        score > best.score + 1e-9 ||
        (score > best.score - 1e-9 && Math.abs(octaves) < Math.abs(best.octaves))
      )
        best = { octaves, score };
    }
  if (!best || best.score < leastMatched) return null;
  return 2 ** scoreAt(before, after, best.octaves).octaves;
}

function scoreAt(
  before: readonly Peak[],
  after: readonly Peak[],
  octaves: number,
): { share: number; octaves: number } {
  let [matched, weighted] = [0, 0];
  const taken = new Set<Peak>();
  for (const p of before) {
    const q = after.find(
      (peak) => !taken.has(peak) && Math.abs(Math.log2(peak.hertz / p.hertz) - octaves) < sameTone,
    );
    if (!q) continue;
    taken.add(q);
    const weight = Math.sqrt(p.weight * q.weight);
    matched += weight;
    weighted += weight * Math.log2(q.hertz / p.hertz);
  }
  const total = Math.sqrt(
    before.reduce((sum, { weight }) => sum + weight, 0) * after.reduce((sum, { weight }) => sum + weight, 0),
  );
  return { share: total > 0 ? matched / total : 0, octaves: matched > 0 ? weighted / matched : octaves };
}

const envelopeSteps = 400;

/** How far two sounds rise and fall together, each as a whole, whatever their lengths; 1 for the same. */
export function envelopeLikeness(old: Float32Array, now: Float32Array): number {
  const [a, b] = [envelopeOf(old), envelopeOf(now)];
  const mean = (values: Float64Array): number =>
    values.reduce((sum, value) => sum + value, 0) / values.length;
  const [meanA, meanB] = [mean(a), mean(b)];
  let [products, squaresA, squaresB] = [0, 0, 0];
  for (let at = 0; at < a.length; at++) {
    const [x, y] = [(a[at] ?? 0) - meanA, (b[at] ?? 0) - meanB];
    products += x * y;
    squaresA += x * x;
    squaresB += y * y;
  }
  // What never rises or falls is alike in that.
  const [evenA, evenB] = [squaresA < meanA ** 2 * 0.04, squaresB < meanB ** 2 * 0.04];
  if (evenA && evenB) return 1;
  return squaresA * squaresB > 0 ? products / Math.sqrt(squaresA * squaresB) : 0;
}

function envelopeOf(samples: Float32Array): Float64Array {
  const steps = Math.min(envelopeSteps, Math.max(1, samples.length >> 6));
  return Float64Array.from({ length: envelopeSteps }, (_, at) => {
    const step = Math.floor((at * steps) / envelopeSteps);
    const [from, to] = [
      Math.floor((step * samples.length) / steps),
      Math.floor(((step + 1) * samples.length) / steps),
    ];
    let energy = 0;
    for (let frame = from; frame < to; frame++) energy += (samples[frame] ?? 0) ** 2;
    return Math.sqrt(energy / Math.max(1, to - from));
  });
}
