import { fourier } from '../fourier.ts';

/** How one signal follows from another, frequency by frequency, in the mean of all windows (Welch, 1967). */
export interface Transfer {
  /** Hertz between two places. */
  step: number;
  /** Power of the first and of the second, and what is common to both. */
  a: Float64Array;
  b: Float64Array;
  real: Float64Array;
  imaginary: Float64Array;
  /** Share of the second's power that follows from the first by a filter that stays the same. */
  coherent: number;
  windows: number;
}

const mostWindows = 1500;

export function transferOf(
  a: Float32Array,
  b: Float32Array,
  shiftFrames: number,
  sampleRate: number,
  seconds = 0.06,
): Transfer {
  const size = 2 ** Math.max(8, Math.round(Math.log2(sampleRate * seconds)));
  const fft = fourier(size);
  const window = Float64Array.from(
    { length: size },
    (_, at) => 0.5 - 0.5 * Math.cos((2 * Math.PI * at) / size),
  );
  const [from, to] = [Math.max(0, shiftFrames), Math.min(b.length, a.length + shiftFrames)];
  const count = Math.max(1, Math.floor((to - from) / (size / 2)) - 1);
  const every = Math.max(1, Math.ceil(count / mostWindows));
  const half = size / 2 + 1;
  const sums = [0, 1, 2, 3].map(() => new Float64Array(half)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const [first, second] = [fft.createComplexArray(), fft.createComplexArray()] as [number[], number[]];
  const input = new Float64Array(size);
  let windows = 0;
  for (let step = 0; step < count; step += every) {
    const start = from + step * (size / 2);
    for (let at = 0; at < size; at++) input[at] = (a[start + at - shiftFrames] ?? 0) * (window[at] ?? 0);
    fft.realTransform(first, input);
    for (let at = 0; at < size; at++) input[at] = (b[start + at] ?? 0) * (window[at] ?? 0);
    fft.realTransform(second, input);
    windows++;
    for (let bin = 0; bin < half; bin++) {
      const [ar = 0, ai = 0, br = 0, bi = 0] = [
        first[bin * 2],
        first[bin * 2 + 1],
        second[bin * 2],
        second[bin * 2 + 1],
      ];
      sums[0][bin] = (sums[0][bin] ?? 0) + ar * ar + ai * ai;
      sums[1][bin] = (sums[1][bin] ?? 0) + br * br + bi * bi;
      sums[2][bin] = (sums[2][bin] ?? 0) + br * ar + bi * ai;
      sums[3][bin] = (sums[3][bin] ?? 0) + bi * ar - br * ai;
    }
  }
  let [common, all] = [0, 0];
  for (let bin = 1; bin < half; bin++) {
    const power = sums[1][bin] ?? 0;
    all += power;
    common += Math.min(
      power,
      ((sums[2][bin] ?? 0) ** 2 + (sums[3][bin] ?? 0) ** 2) / Math.max(1e-30, sums[0][bin] ?? 0),
    );
  }
  return {
    step: sampleRate / size,
    a: sums[0],
    b: sums[1],
    real: sums[2],
    imaginary: sums[3],
    coherent: all > 0 ? common / all : 0,
    windows,
  };
}

/** A third of an octave around a frequency (the bands of IEC 61260), with what a filter does in it. */
export interface Band {
  hertz: number;
  decibels: number;
  /** Of the first signal, below its loudest band. */
  levelDecibels: number;
  /** Share of the second's power in it that follows from the first. */
  coherent: number;
  /** The second's power by the first's, in decibels: also of what does not follow. */
  powerDecibels: number;
}

/** Bands in which the first signal has something. */
export function bandsOf({ step, a, b, real, imaginary }: Transfer): Band[] {
  const bands: Band[] = [];
  for (let third = -16; third <= 13; third++) {
    const hertz = 1000 * 2 ** (third / 3);
    const [low, high] = [hertz / 2 ** (1 / 6), hertz * 2 ** (1 / 6)];
    let [first, second, common] = [0, 0, 0];
    const begin = Math.max(1, Math.round(low / step));
    const end = Math.max(begin + 1, Math.round(high / step));
    if (end >= a.length) break;
    for (let bin = begin; bin < end; bin++) {
      first += a[bin] ?? 0;
      second += b[bin] ?? 0;
      common += ((real[bin] ?? 0) ** 2 + (imaginary[bin] ?? 0) ** 2) / Math.max(1e-30, a[bin] ?? 0);
    }
    bands.push({
      hertz,
      // By power: a phase that turns within a band takes nothing away.
      decibels: 10 * Math.log10(Math.max(1e-30, common) / Math.max(1e-30, first)),
      levelDecibels: first / (end - begin),
      coherent: Math.min(1, common / Math.max(1e-30, second)),
      powerDecibels: 10 * Math.log10(Math.max(1e-30, second) / Math.max(1e-30, first)),
    });
  }
  const loudest = Math.max(...bands.map(({ levelDecibels }) => levelDecibels), 1e-30);
  for (const band of bands) band.levelDecibels = 10 * Math.log10(band.levelDecibels / loudest + 1e-12);
  return bands.filter(({ levelDecibels }) => levelDecibels > -65);
}

export interface FilterWords {
  words: string;
  /** The greatest deviation from an even change, in decibels. */
  greatest: number;
  gainDecibels: number;
  /** Where nothing is left above, in hertz; null where there is no such place. */
  cutHertz: number | null;
}

/** Where a filter takes half of the power, between a band that it leaves and one that it takes. */
function crossingOf(
  { step, a, real, imaginary }: Transfer,
  from: number,
  to: number,
  gainDecibels: number,
): number {
  const [first, last] = [from / 2 ** (1 / 6), to].map((hertz) => Math.round(hertz / step)) as [
    number,
    number,
  ];
  const sign = Math.sign(last - first) || 1;
  const end = Math.round((sign > 0 ? to * 2 ** (1 / 6) : to / 2 ** (1 / 6)) / step);
  const begin = sign > 0 ? first : Math.round((from * 2 ** (1 / 6)) / step);
  for (let bin = begin; sign > 0 ? bin <= end : bin >= end; bin += sign) {
    let [common, power] = [0, 0];
    for (let at = Math.max(1, bin - 2); at <= bin + 2; at++) {
      common += ((real[at] ?? 0) ** 2 + (imaginary[at] ?? 0) ** 2) / Math.max(1e-30, a[at] ?? 0);
      power += a[at] ?? 0;
    }
    if (10 * Math.log10(Math.max(1e-30, common) / Math.max(1e-30, power)) - gainDecibels < -3)
      return bin * step;
  }
  return to;
}

const hertzText = (hertz: number): string =>
  hertz < 1000 ? `${Number(hertz.toPrecision(2))} Hz` : `${Number((hertz / 1000).toPrecision(2))} kHz`;

/** What a filter does, in words: which tones it takes or adds, and by how much. */
export function describeBands(all: readonly Band[], transfer: Transfer): FilterWords {
  // Where something else is louder, nothing is known of the filter.
  const bands = all.filter(({ coherent, powerDecibels }) => coherent > 0.4 || powerDecibels < -6);
  const sorted = bands.map(({ decibels }) => decibels).sort((x, y) => x - y);
  const median = sorted[sorted.length >> 1] ?? 0;
  // Where the most bands are within half a decibel of one another, nothing was done but a gain.
  let [gain, most] = [median, -1];
  for (const value of sorted) {
    const near = sorted.filter((other) => Math.abs(other - value) < 0.5).length;
    if (near > most || (near === most && Math.abs(value) < Math.abs(gain))) [gain, most] = [value, near];
  }
  const within = sorted.filter((value) => Math.abs(value - gain) < 0.5);
  const gainDecibels = within.reduce((sum, value) => sum + value, 0) / Math.max(1, within.length);
  const offs = bands.map(({ hertz, decibels, powerDecibels }) => ({
    hertz,
    off: decibels - gainDecibels,
    power: powerDecibels - gainDecibels,
  }));
  const greatest = offs.reduce((best, { off }) => (Math.abs(off) > Math.abs(best) ? off : best), 0);
  const cut = (list: typeof offs): number | null => {
    const at = list.findIndex(
      ({ off }, place) => off < -3 && list.slice(place).every(({ off: rest }) => rest < -2),
    );
    const last = list.at(-1);
    return at > 0 && last && last.off < -8 && last.power < -6 ? at : null;
  };
  const cutHigh = cut(offs);
  // Lower tones are longer than what is looked at at once.
  const low = offs.filter(({ hertz }) => hertz >= 60);
  const cutLow = cut([...low].reverse());
  const parts: string[] = [];
  let cutHertz: number | null = null;
  if (cutHigh !== null) {
    cutHertz = crossingOf(transfer, offs[cutHigh - 1]?.hertz ?? 0, offs[cutHigh]?.hertz ?? 0, gainDecibels);
    parts.push(`cut off above ${hertzText(cutHertz)}`);
  }
  if (cutLow !== null) {
    const at = low.length - 1 - cutLow;
    const hertz = crossingOf(transfer, low[at + 1]?.hertz ?? 0, low[at]?.hertz ?? 0, gainDecibels);
    parts.push(`cut off below ${hertzText(hertz)}`);
  }
  if (parts.length === 0) {
    const touched = offs.filter(({ off }) => Math.abs(off) > Math.max(0.4, Math.abs(greatest) * 0.3));
    const [first, last] = [touched[0], touched.at(-1)];
    const isOne = touched.every(({ off }) => Math.sign(off) === Math.sign(greatest));
    const by = `${Math.abs(greatest).toFixed(1)} dB ${greatest > 0 ? 'more' : 'less'}`;
    if (first && last && isOne) {
      if (first.hertz <= (offs[0]?.hertz ?? 0) * 1.3)
        parts.push(`${by} bass, below ${hertzText(last.hertz * 2 ** (1 / 6))}`);
      else if (last.hertz >= (offs.at(-1)?.hertz ?? 0) / 1.3)
        parts.push(`${by} treble, above ${hertzText(first.hertz / 2 ** (1 / 6))}`);
      else {
        const peak = touched.reduce(
          (best, band) => (Math.abs(band.off) > Math.abs(best.off) ? band : best),
          first,
        );
        parts.push(`${by} around ${hertzText(peak.hertz)}`);
      }
    } else if (first) {
      const [low, high] = [Math.min(...offs.map(({ off }) => off)), Math.max(...offs.map(({ off }) => off))];
      parts.push(`equalised, from −${Math.abs(low).toFixed(1)} to +${high.toFixed(1)} dB`);
    }
  }
  return { words: parts.join(', '), greatest, gainDecibels, cutHertz };
}
