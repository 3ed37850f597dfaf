import { first, output, sums } from './layout';

/** Rows of 32-bit floats lie in `first`, one after the other, each of so many samples. */

/**
 * Sums of the rows' products with one another, block by block: to `sums`, for each block and each row the sum of its samples,
 * then of its products with itself and with the rows after it.
 */
export function addProducts(rows: i32, samples: i32, blockSamples: i32): void {
  let to = sums;
  const apart = (samples as usize) << 2;
  for (let from: i32 = 0; from < samples; from += blockSamples) {
    const count = min<i32>(blockSamples, samples - from);
    for (let row = 0; row < rows; row++) {
      const a = first + (row as usize) * apart + ((from as usize) << 2);
      store<f64>(to, sumOf(a, count));
      to += 8;
      for (let other = row; other < rows; other++, to += 8)
        store<f64>(to, productOf(a, a + ((other - row) as usize) * apart, count));
    }
  }
}

function sumOf(a: usize, count: i32): f64 {
  let sum = f64x2.splat(0);
  const end = a + ((count as usize) << 2);
  for (; a + 16 <= end; a += 16) {
    const values = v128.load(a);
    sum = f64x2.add(sum, f64x2.promote_low_f32x4(values));
    sum = f64x2.add(sum, f64x2.promote_low_f32x4(v128.shuffle<f64>(values, values, 1, 0)));
  }
  let rest = f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1);
  for (; a < end; a += 4) rest += load<f32>(a) as f64;
  return rest;
}

function productOf(a: usize, b: usize, count: i32): f64 {
  let sum = f64x2.splat(0);
  const end = a + ((count as usize) << 2);
  for (; a + 16 <= end; a += 16, b += 16) {
    const p = v128.load(a);
    const q = v128.load(b);
    sum = f64x2.add(sum, f64x2.mul(f64x2.promote_low_f32x4(p), f64x2.promote_low_f32x4(q)));
    const u = v128.shuffle<f64>(p, p, 1, 0);
    const v = v128.shuffle<f64>(q, q, 1, 0);
    sum = f64x2.add(sum, f64x2.mul(f64x2.promote_low_f32x4(u), f64x2.promote_low_f32x4(v)));
  }
  let rest = f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1);
  for (; a < end; a += 4, b += 4) rest += (load<f32>(a) as f64) * (load<f32>(b) as f64);
  return rest;
}

/** The highest sample of each block of one row, whatever its sign, as 32-bit floats to `output`. */
export function findPeaks(samples: i32, blockSamples: i32): void {
  let to = output;
  let at = first;
  for (let from: i32 = 0; from < samples; from += blockSamples, to += 4) {
    const end = at + ((min<i32>(blockSamples, samples - from) as usize) << 2);
    let peaks = f32x4.splat(0);
    for (; at + 16 <= end; at += 16) peaks = f32x4.pmax(peaks, f32x4.abs(v128.load(at)));
    let peak: f32 = max<f32>(
      max<f32>(f32x4.extract_lane(peaks, 0), f32x4.extract_lane(peaks, 1)),
      max<f32>(f32x4.extract_lane(peaks, 2), f32x4.extract_lane(peaks, 3)),
    );
    for (; at < end; at += 4) {
      const value = abs<f32>(load<f32>(at));
      if (value > peak) peak = value;
    }
    store<f32>(to, peak);
  }
}

/**
 * Interleaved integers in `first` as floats, one channel after the other in `output`.
 * @param isShort whether they have 16 bits
 * @param below what those below 0 are multiplied by, and `above` the others
 */
export function toFloats(isShort: bool, channels: i32, frames: i32, below: f64, above: f64): void {
  const step = (channels as usize) << (isShort ? 1 : 2);
  let to = output;
  for (let channel = 0; channel < channels; channel++) {
    let at = first + ((channel as usize) << (isShort ? 1 : 2));
    for (let frame = 0; frame < frames; frame++, at += step, to += 4) {
      const value = (isShort ? (load<i16>(at) as i32) : load<i32>(at)) as f64;
      store<f32>(to, (value * (value < 0 ? below : above)) as f32);
    }
  }
}
