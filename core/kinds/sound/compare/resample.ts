const halfTaps = 16;
const phases = 256;

/**
 * Samples at another rate, through a windowed sinc of 32 taps (Hann).
 * @param factor newer rate through the older one; above 1 for more samples
 */
export function resampled(samples: Float32Array, factor: number): Float32Array {
  if (Math.abs(factor - 1) < 1e-12) return samples;
  const cutoff = Math.min(1, factor) * 0.97;
  const taps = Math.ceil(halfTaps / Math.min(1, factor));
  const table = new Float64Array((phases + 1) * taps * 2);
  for (let phase = 0; phase <= phases; phase++)
    for (let tap = 0; tap < taps * 2; tap++) {
      const at = tap - taps + 1 - phase / phases;
      const x = Math.PI * at * cutoff;
      const sinc = Math.abs(x) < 1e-9 ? 1 : Math.sin(x) / x;
      const window = Math.abs(at) >= taps ? 0 : 0.5 + 0.5 * Math.cos((Math.PI * at) / taps);
      table[phase * taps * 2 + tap] = sinc * window * cutoff;
    }
  const result = new Float32Array(Math.floor(samples.length * factor));
  for (let frame = 0; frame < result.length; frame++) {
    const place = frame / factor;
    const whole = Math.floor(place);
    const exact = (place - whole) * phases;
    const phase = Math.floor(exact);
    const share = exact - phase;
    const [one, other] = [phase * taps * 2, Math.min(phases, phase + 1) * taps * 2];
    let sum = 0;
    for (let tap = 0; tap < taps * 2; tap++) {
      const factorHere = (table[one + tap] ?? 0) * (1 - share) + (table[other + tap] ?? 0) * share;
      sum += factorHere * (samples[whole + tap - taps + 1] ?? 0);
    }
    result[frame] = sum;
  }
  return result;
}
