import FFT from 'fft.js';

/** Transforms of small sizes are made once: their tables take longer than a transform. Large ones would only lie about. */
const mostKept = 1 << 16;
const kept = new Map<number, FFT>();

/** The Fourier transform of a size that is a power of two. What it gives out is the caller's; it may be used at any time. */
export function fourier(size: number): FFT {
  let fft = kept.get(size);
  if (!fft) {
    fft = new FFT(size);
    if (size <= mostKept) kept.set(size, fft);
  }
  return fft;
}

/**
 * How well a stretch of samples fits into a longer one at each place: sums of products, by the convolution theorem.
 * @param long has `stretch.length + places - 1` samples
 */
export function correlation(stretch: Float32Array, long: Float32Array, places: number): Float64Array {
  return correlationAt(stretch, long, places, 0);
}

/**
 * The same at every shift of two sounds against each other, which may reach over either's ends.
 * @returns at `shift - leastShift` for shifts from -(one.length - 1) to other.length - 1
 */
export function correlationAnywhere(
  one: Float32Array,
  other: Float32Array,
  isWhitened = false,
): Float64Array {
  return correlationAt(one, other, one.length + other.length - 1, 1 - one.length, isWhitened);
}

/** @param isWhitened every frequency counts alike, so that a sound's own swings are no echo (Knapp and Carter, 1976) */
function correlationAt(
  one: Float32Array,
  other: Float32Array,
  places: number,
  leastShift: number,
  isWhitened = false,
): Float64Array {
  // So large that nothing comes round from the other end.
  const size = 2 ** Math.ceil(Math.log2(Math.max(4, other.length - leastShift)));
  const fft = fourier(size);
  const [a, b] = [spectrumOf(fft, one, size), spectrumOf(fft, other, size)];
  for (let at = 0; at < size * 2; at += 2) {
    const [ar = 0, ai = 0, br = 0, bi = 0] = [a[at], a[at + 1], b[at], b[at + 1]];
    const weight = isWhitened ? Math.hypot(ar, ai) * Math.hypot(br, bi) + 1e-20 : 1;
    b[at] = (br * ar + bi * ai) / weight;
    b[at + 1] = (bi * ar - br * ai) / weight;
  }
  fft.inverseTransform(a, b);
  return Float64Array.from({ length: places }, (_, place) => {
    const shift = place + leastShift;
    return a[(shift < 0 ? shift + size : shift) * 2] ?? 0;
  });
}

/** All of the spectrum of real samples, the complex numbers one after the other. */
function spectrumOf(fft: FFT, samples: Float32Array, size: number): number[] {
  const input = new Float64Array(size);
  input.set(samples.subarray(0, size));
  const output = fft.createComplexArray() as number[];
  fft.realTransform(output, input);
  fft.completeSpectrum(output);
  return output;
}
