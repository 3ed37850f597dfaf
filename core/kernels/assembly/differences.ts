import { first, numbers, output, second, steps, sums } from './layout';

/** What was counted since `clearCounts`, as floats of 64 bits in `sums`: see `countNames` in the host. */
const differingAt: usize = sums;
const hiddenAt: usize = sums + 8;
const sampledAt: usize = sums + 16;
/** Red, green, blue and alpha: pixels in which they differ, and the sums of the steps. */
const countsAt: usize = sums + 24;
const totalsAt: usize = sums + 56;
/** Which block of small pictures each column belongs to. */
const blockOf: usize = output;

let differing: u32 = 0;
let hidden: u32 = 0;
let sampled: u32 = 0;
let counts: v128 = i32x4.splat(0);
let totals: v128 = i32x4.splat(0);

export function clearCounts(): void {
  differing = 0;
  hidden = 0;
  sampled = 0;
  memory.fill(sums, 0, 88);
}

function addLanes(to: usize, lanes: v128): void {
  store<f64>(to, load<f64>(to) + (i32x4.extract_lane(lanes, 0) as u32 as f64));
  store<f64>(to, load<f64>(to, 8) + (i32x4.extract_lane(lanes, 1) as u32 as f64), 8);
  store<f64>(to, load<f64>(to, 16) + (i32x4.extract_lane(lanes, 2) as u32 as f64), 16);
  store<f64>(to, load<f64>(to, 24) + (i32x4.extract_lane(lanes, 3) as u32 as f64), 24);
}

/** Adds up the four pixels' bytes by channel. */
function byChannel(bytes: v128): v128 {
  const pairs = i16x8.add(i16x8.extend_low_i8x16_u(bytes), i16x8.extend_high_i8x16_u(bytes));
  return i32x4.add(i32x4.extend_low_i16x8_u(pairs), i32x4.extend_high_i16x8_u(pairs));
}

/** One pixel that differs: whether it is seen, whether it stands for others, and the greatest step of its block. */
function meet(a: i32, b: i32, step: i32, pixel: i32, mask: i32, blocks: usize, x: i32): void {
  if (a >>> 24 == 0 && b >>> 24 == 0) hidden++;
  if (((differing as i32) & mask) == 0) {
    store<i32>(numbers + ((sampled as usize) << 2), pixel);
    sampled++;
  }
  differing++;
  const block = blocks + (load<i32>(blockOf + ((x as usize) << 2)) as usize);
  if (step > (load<u8>(block) as i32)) store<u8>(block, step as u8);
}

/** Four pixels of which at least one differs. @returns the sum of their greatest steps */
function meetFour(a: v128, b: v128, pixel: i32, mask: i32, blocks: usize, x: i32): i32 {
  const difference = v128.or(i8x16.sub_sat_u(a, b), i8x16.sub_sat_u(b, a));
  totals = i32x4.add(totals, byChannel(difference));
  counts = i32x4.add(counts, byChannel(v128.and(i8x16.ne(difference, i32x4.splat(0)), i8x16.splat(1))));
  const halves = i8x16.max_u(difference, i32x4.shr_u(difference, 16));
  const greatest = v128.and(i8x16.max_u(halves, i32x4.shr_u(halves, 8)), i32x4.splat(255));
  const s0 = i32x4.extract_lane(greatest, 0);
  const s1 = i32x4.extract_lane(greatest, 1);
  const s2 = i32x4.extract_lane(greatest, 2);
  const s3 = i32x4.extract_lane(greatest, 3);
  if (s0 != 0) meet(i32x4.extract_lane(a, 0), i32x4.extract_lane(b, 0), s0, pixel, mask, blocks, x);
  if (s1 != 0) meet(i32x4.extract_lane(a, 1), i32x4.extract_lane(b, 1), s1, pixel + 1, mask, blocks, x + 1);
  if (s2 != 0) meet(i32x4.extract_lane(a, 2), i32x4.extract_lane(b, 2), s2, pixel + 2, mask, blocks, x + 2);
  if (s3 != 0) meet(i32x4.extract_lane(a, 3), i32x4.extract_lane(b, 3), s3, pixel + 3, mask, blocks, x + 3);
  return s0 + s1 + s2 + s3;
}

/**
 * Looks at rows of two pictures, in `first` and `second`, which lie in one row of tiles and one row of blocks.
 * @param from number of the first pixel in the whole picture
 * @param mask of the pixels that differ, those whose number has none of these bits stand for the others
 * @param tiles where in `steps` the sums of the tiles begin, in bytes: numbers of 32 bits
 * @param blocks where in `steps` the row of blocks begins, in bytes
 */
export function addDifferences(rows: i32, width: i32, from: i32, mask: i32, tiles: i32, blocks: i32): void {
  const tileSums = steps + (tiles as usize);
  const blockSteps = steps + (blocks as usize);
  counts = i32x4.splat(0);
  totals = i32x4.splat(0);
  let at: usize = 0;
  let pixel = from;
  for (let row = 0; row < rows; row++) {
    let tile = tileSums;
    for (let x = 0; x < width; tile += 4) {
      const end = min(width, x + 16);
      let sum = 0;
      for (; x + 4 <= end; x += 4, at += 16, pixel += 4) {
        const a = v128.load(first + at);
        const b = v128.load(second + at);
        if (v128.any_true(v128.xor(a, b))) sum += meetFour(a, b, pixel, mask, blockSteps, x);
      }
      for (; x < end; x++, at += 4, pixel++) {
        const a = v128.load32_zero(first + at);
        const b = v128.load32_zero(second + at);
        if (v128.any_true(v128.xor(a, b))) sum += meetFour(a, b, pixel, mask, blockSteps, x);
      }
      store<i32>(tile, load<i32>(tile) + sum);
    }
  }
  addLanes(countsAt, counts);
  addLanes(totalsAt, totals);
  store<f64>(differingAt, differing as f64);
  store<f64>(hiddenAt, hidden as f64);
  store<f64>(sampledAt, sampled as f64);
}
