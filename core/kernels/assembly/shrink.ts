import { first, numbers, output, sums } from './layout';

/** Red, green, blue and alpha of a pixel of the small picture, and how many pixels they are of, as floats of 64 bits. */
const bytesPerSum: usize = 40;

export function clearSums(toWidth: i32): void {
  memory.fill(sums, 0, (toWidth as usize) * bytesPerSum);
}

/** Adds a stretch of a row that is not opaque throughout, in the order of its pixels: floats remember in which order they were added. */
function addCovered(from: usize, end: usize, to: usize): void {
  let redGreen = f64x2.splat(0);
  let blueAlpha = f64x2.splat(0);
  for (let at = from; at < end; at += 4) {
    const cover = load<u8>(at, 3);
    if (cover == 0) continue;
    let a = f64x2(load<u8>(at) as f64, load<u8>(at, 1) as f64);
    let b = f64x2(load<u8>(at, 2) as f64, 1);
    if (cover != 255) {
      const share = f64x2.splat((cover as f64) / 255);
      a = f64x2.mul(a, share);
      b = f64x2.mul(b, share);
    }
    redGreen = f64x2.add(redGreen, a);
    blueAlpha = f64x2.add(blueAlpha, b);
  }
  v128.store(to, f64x2.add(v128.load(to), redGreen));
  v128.store(to + 16, f64x2.add(v128.load(to + 16), blueAlpha));
}

/** Adds a stretch of a row as whole numbers, as long as it is opaque. @returns whether it was */
function addOpaque(from: usize, end: usize, to: usize): bool {
  let total = i32x4.splat(0);
  const alphaMask = i32x4.splat(0xff000000);
  let at = from;
  for (; at + 16 <= end; at += 16) {
    const four = v128.load(at);
    if (!i32x4.all_true(i32x4.eq(v128.and(four, alphaMask), alphaMask))) return false;
    const pairs = i16x8.add(i16x8.extend_low_i8x16_u(four), i16x8.extend_high_i8x16_u(four));
    total = i32x4.add(total, i32x4.add(i32x4.extend_low_i16x8_u(pairs), i32x4.extend_high_i16x8_u(pairs)));
  }
  for (; at < end; at += 4) {
    if (load<u8>(at, 3) != 255) return false;
    const one = v128.load32_zero(at);
    total = i32x4.add(total, i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(one)));
  }
  const count = ((end - from) >> 2) as f64;
  v128.store(to, f64x2.add(v128.load(to), f64x2.convert_low_i32x4_u(total)));
  store<f64>(to, load<f64>(to, 16) + (i32x4.extract_lane(total, 2) as f64), 16);
  store<f64>(to, load<f64>(to, 24) + count, 24);
  return true;
}

/** Adds rows that lie in `first` to the sums of a row of the small picture, whose pixels' left edges stand in `numbers`. */
export function addRows(rows: i32, width: i32, toWidth: i32): void {
  for (let row = 0; row < rows; row++) {
    const line = first + (((row * width) as usize) << 2);
    let to = sums;
    let left = load<i32>(numbers);
    for (let x = 0; x < toWidth; x++, to += bytesPerSum) {
      const right = load<i32>(numbers + (((x + 1) as usize) << 2));
      const from = line + ((left as usize) << 2);
      const end = line + ((right as usize) << 2);
      if (!addOpaque(from, end, to)) addCovered(from, end, to);
      store<f64>(to, load<f64>(to, 32) + ((right - left) as f64), 32);
      left = right;
    }
  }
}

/** As the host's language rounds: halves go up, and what is just below a half does not. */
function rounded(value: f64): f64 {
  const whole = floor<f64>(value);
  return value - whole >= 0.5 ? whole + 1 : whole;
}

/** Writes the row of the small picture whose sums are there to `output`. */
export function finishRow(toWidth: i32): void {
  let from = sums;
  let to = output;
  for (let x = 0; x < toWidth; x++, from += bytesPerSum, to += 4) {
    const covered = load<f64>(from, 24);
    if (covered == 0) {
      store<i32>(to, 0);
      continue;
    }
    store<u8>(to, min<f64>(255, rounded(load<f64>(from) / covered)) as u8);
    store<u8>(to, min<f64>(255, rounded(load<f64>(from, 8) / covered)) as u8, 1);
    store<u8>(to, min<f64>(255, rounded(load<f64>(from, 16) / covered)) as u8, 2);
    store<u8>(to, rounded((covered / load<f64>(from, 32)) * 255) as u8, 3);
  }
}
