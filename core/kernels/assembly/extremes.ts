import { first, sums } from './layout';

const sortFloats: i32 = 0;
const sortShort: i32 = 1;

let low: f64 = 0;
let high: f64 = 0;
let peak: f64 = 0;

export function clearExtremes(): void {
  low = Infinity;
  high = -Infinity;
  peak = 0;
}

/**
 * Looks at frames of a sound in `first`: the least and the greatest sum of all channels, and the largest of any, go to `sums`.
 * @param sort 0: floats, one channel after the other; 1 and 2: interleaved integers of 16 and of 32 bits
 * @param apart from a channel's first sample to that of the next, in bytes
 * @param full scale of integers: a sample is a number from -1 to 1, the greatest of either sign is full scale
 */
export function addExtremes(sort: i32, channels: i32, frames: i32, apart: i32, full: f64): void {
  const bytes: usize = sort == sortShort ? 2 : 4;
  const step: usize = sort == sortFloats ? 4 : bytes * (channels as usize);
  const above = full - 1;
  let frame = first;
  for (let count = 0; count < frames; count++, frame += step) {
    let sum: f64 = 0;
    let at = frame;
    for (let channel = 0; channel < channels; channel++, at += apart as usize) {
      let value: f64;
      if (sort == sortFloats) value = load<f32>(at) as f64;
      else {
        const sample = (sort == sortShort ? (load<i16>(at) as i32) : load<i32>(at)) as f64;
        value = sample / (sample < 0 ? full : above);
      }
      sum += value;
      const size = abs<f64>(value);
      if (size > peak) peak = size;
    }
    if (sum < low) low = sum;
    if (sum > high) high = sum;
  }
  store<f64>(sums, low);
  store<f64>(sums + 8, high);
  store<f64>(sums + 16, peak);
}
