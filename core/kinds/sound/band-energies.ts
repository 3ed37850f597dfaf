import { findKernels, type Kernels } from '../../kernels/kernels.ts';
import { fullScale, type DecodedSound } from './decoded.ts';
import { fourier } from './fourier.ts';
import { framesAtOnce, putFrames } from './kernel-frames.ts';

/** Samples of a window. */
export const windowSize = 1024;
export const bands = 32;

// Made once: most sounds of a game are short, and there are tens of thousands of them.
const fft = fourier(windowSize);
const hann = Float64Array.from(
  { length: windowSize },
  (_, at) => 0.5 - 0.5 * Math.cos((2 * Math.PI * at) / windowSize),
);

/** Steps of the mel scale after O'Shaughnessy (1987): 2595 log10(1 + f / 700). */
const mel = (hertz: number): number => 2595 * Math.log10(1 + hertz / 700);
const hertz = (value: number): number => 700 * (10 ** (value / 2595) - 1);

/** Bin of a transform at which a band begins, from 40 Hz to 11 kHz, not rounded. @param edge the band's number; `bands` is the end */
export function edgeBin(edge: number, size: number, sampleRate: number): number {
  return (hertz(mel(40) + ((mel(11_000) - mel(40)) * edge) / bands) * size) / sampleRate;
}

/** Where the energies lie among the kernels' sums. */
const energiesAt = 2048;

/** Energies of 32 mel bands from 40 Hz to 11 kHz, window by window. */
export class BandEnergies {
  private readonly input = new Float64Array(windowSize);
  private readonly output = fft.createComplexArray() as number[];
  /** First bin of each band, and the one after its last. */
  private readonly bins: Int32Array;
  private readonly kernels: Kernels | null;

  /** @param kernels null where it is to be computed without */
  constructor(
    private readonly sound: Pick<DecodedSound, 'sampleRate' | 'channels' | 'frames' | 'samples'>,
    kernels = findKernels(),
  ) {
    const bin = (edge: number): number => edgeBin(edge, windowSize, sound.sampleRate);
    this.bins = Int32Array.from({ length: bands * 2 }, (_, at) => {
      const band = at >> 1;
      const from = Math.max(1, Math.round(bin(band)));
      return at % 2 === 0 ? from : Math.max(from + 1, Math.min(windowSize / 2, Math.round(bin(band + 1))));
    });
    const fits = kernels !== null && framesAtOnce(kernels, sound.channels) >= windowSize;
    // What is so slow that it has no such tones is left to the transform that knows all frequencies.
    const hasAll = this.bins.every((place) => place <= windowSize / 2);
    this.kernels = fits && hasAll ? kernels : null;
    if (this.kernels) writeTables(this.kernels);
  }

  /** Adds the energies of a window to those of the bands. @returns their sum */
  add(from: number, energies: Float64Array): number {
    // Before the beginning and after the end there is nothing.
    if (from + windowSize <= 0 || from >= this.sound.frames) return 0;
    const { kernels } = this;
    const found = kernels ? this.inKernel(kernels, from) : this.here(from);
    let sum = 0;
    for (let band = 0; band < bands; band++) {
      const energy = found[band] ?? 0;
      energies[band] = (energies[band] ?? 0) + energy;
      sum += energy;
    }
    return sum;
  }

  private here(from: number): Float64Array {
    const { input, output, bins } = this;
    fillWindow(this.sound, from, input);
    fft.realTransform(output, input);
    return Float64Array.from({ length: bands }, (_, band) => {
      let energy = 0;
      for (let bin = bins[band * 2] ?? 0; bin < (bins[band * 2 + 1] ?? 0); bin++)
        energy += (output[bin * 2] ?? 0) ** 2 + (output[bin * 2 + 1] ?? 0) ** 2;
      return energy;
    });
  }

  private inKernel(kernels: Kernels, from: number): Float64Array {
    const { channels, samples } = this.sound;
    kernels.numbers.set(this.bins);
    const { sort } = putFrames(kernels, this.sound, from, windowSize);
    kernels.bandEnergies(sort, channels, 'floats' in samples ? 1 : 1 / fullScale(samples.integers));
    return kernels.sums.subarray(energiesAt, energiesAt + bands);
  }
}

/** The window and the factors of its transform, as assembly/spectrum.ts has them. */
function writeTables({ waves }: Kernels): void {
  if (waves[1] !== 0) return;
  waves.set(hann);
  const factor = (at: number): number => (-2 * Math.PI * at) / (windowSize / 2);
  for (let at = 0; at < windowSize / 4; at++) {
    const [real, imaginary] = [Math.cos(factor(at)), Math.sin(factor(at))];
    waves.set([real, real, -imaginary, imaginary], windowSize + at * 4);
  }
  for (let at = 0; at <= windowSize / 2; at++)
    waves.set([Math.cos(factor(at) / 2), Math.sin(factor(at) / 2)], windowSize * 2 + at * 2);
}

/** The sum of all channels from a frame on, under the window, read off as they lie. */
function fillWindow(
  { channels, samples }: Pick<DecodedSound, 'channels' | 'samples'>,
  from: number,
  input: Float64Array,
): void {
  input.fill(0);
  if ('floats' in samples) {
    for (const floats of samples.floats)
      for (let at = 0; at < windowSize; at++) input[at] = (input[at] ?? 0) + (floats[from + at] ?? 0);
  } else {
    const { integers } = samples;
    const scale = 1 / fullScale(integers);
    for (let channel = 0; channel < channels; channel++) {
      let place = from * channels + channel;
      for (let at = 0; at < windowSize; at++, place += channels)
        input[at] = (input[at] ?? 0) + (integers[place] ?? 0) * scale;
    }
  }
  for (let at = 0; at < windowSize; at++) input[at] = (input[at] ?? 0) * (hann[at] ?? 0);
}
