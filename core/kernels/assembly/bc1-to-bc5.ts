import { first, numbers, output } from './layout';

/** Formats of blocks as picture/blocks/bc1-to-bc5.ts has them, with the same rounding: 1 to 5, and 0 for BC1 that is opaque throughout. */
const opaqueBc1: i32 = 0;
const opaque: i32 = 0xff000000;
/** Four colours of a block, then eight values of a channel, in `numbers`. */
const palette: usize = numbers;
const values: usize = numbers + 16;

function colourOf(bits: i32): i32 {
  const red = (bits >> 11) & 31;
  const green = (bits >> 5) & 63;
  const blue = bits & 31;
  return (red << 3) | (red >> 2) | (((green << 2) | (green >> 4)) << 8) | (((blue << 3) | (blue >> 2)) << 16);
}

function mixed(value: i32, a: i32, other: i32, b: i32, shift: i32): i32 {
  const whole = a + b;
  return ((((value >> shift) & 255) * a + ((other >> shift) & 255) * b + (whole >> 1)) / whole) << shift;
}

function mix(value: i32, a: i32, other: i32, b: i32): i32 {
  return mixed(value, a, other, b, 0) | mixed(value, a, other, b, 8) | mixed(value, a, other, b, 16);
}

function decodeColours(at: usize, to: usize, stride: usize, alwaysFour: bool, alpha: i32, fourth: i32): void {
  const ends = load<u32>(at);
  const firstEnd = ends & 0xffff;
  const secondEnd = ends >> 16;
  const a = colourOf(firstEnd);
  const b = colourOf(secondEnd);
  store<i32>(palette, a | alpha);
  store<i32>(palette, b | alpha, 4);
  if (alwaysFour || firstEnd > secondEnd) {
    store<i32>(palette, mix(a, 2, b, 1) | alpha, 8);
    store<i32>(palette, mix(a, 1, b, 2) | alpha, 12);
  } else {
    store<i32>(palette, mix(a, 1, b, 1) | alpha, 8);
    store<i32>(palette, fourth, 12);
  }
  let indices = load<u32>(at, 4);
  for (let row = 0; row < 4; row++, to += stride, indices >>= 8) {
    store<i32>(to, load<i32>(palette + ((indices & 3) << 2)));
    store<i32>(to, load<i32>(palette + (((indices >> 2) & 3) << 2)), 4);
    store<i32>(to, load<i32>(palette + (((indices >> 4) & 3) << 2)), 8);
    store<i32>(to, load<i32>(palette + (((indices >> 6) & 3) << 2)), 12);
  }
}

/** Writes one channel into the byte at `to` of each pixel. */
function decodeChannel(at: usize, to: usize, stride: usize): void {
  const a = load<u8>(at) as i32;
  const b = load<u8>(at, 1) as i32;
  store<u8>(values, a as u8);
  store<u8>(values, b as u8, 1);
  if (a > b) {
    for (let step = 1; step < 7; step++)
      store<u8>(values + step + 1, ((a * (7 - step) + b * step + 3) / 7) as u8);
  } else {
    for (let step = 1; step < 5; step++)
      store<u8>(values + step + 1, ((a * (5 - step) + b * step + 2) / 5) as u8);
    store<u8>(values, 0, 6);
    store<u8>(values, 255, 7);
  }
  let bits = load<u64>(at) >> 16;
  for (let row = 0; row < 4; row++, to += stride)
    for (let column: usize = 0; column < 4; column++, bits >>= 3)
      store<u8>(to + (column << 2), load<u8>(values + ((bits as usize) & 7)));
}

function fillBlock(to: usize, stride: usize, pixel: i32): void {
  const four = i32x4.splat(pixel);
  for (let row = 0; row < 4; row++, to += stride) v128.store(to, four);
}

/** Decodes rows of blocks from `first` to `output`. @param format 0 to 5 */
export function decodeBlocks(format: i32, blocksAcross: i32, blockRows: i32): void {
  const stride = (blocksAcross as usize) << 4;
  const isSmall = format < 2 || format == 4;
  let at = first;
  for (let row = 0; row < blockRows; row++)
    for (let column = 0; column < blocksAcross; column++, at += isSmall ? 8 : 16) {
      const to = output + (row as usize) * stride * 4 + ((column as usize) << 4);
      if (format < 2) decodeColours(at, to, stride, false, opaque, format == opaqueBc1 ? opaque : 0);
      else if (format < 4) {
        decodeColours(at + 8, to, stride, true, 0, 0);
        if (format == 3) decodeChannel(at, to + 3, stride);
        else {
          let bits = load<u64>(at);
          for (let line: usize = 0; line < 4; line++)
            for (let across: usize = 0; across < 4; across++, bits >>= 4)
              store<u8>(to + line * stride + (across << 2), (((bits as i32) & 15) * 17) as u8, 3);
        }
      } else {
        fillBlock(to, stride, opaque);
        decodeChannel(at, to, stride);
        if (format == 5) decodeChannel(at + 8, to + 1, stride);
        else
          for (let line: usize = 0; line < 4; line++)
            for (let across: usize = 0; across < 4; across++) {
              const pixel = to + line * stride + (across << 2);
              const grey = load<u8>(pixel);
              store<u8>(pixel, grey, 1);
              store<u8>(pixel, grey, 2);
            }
      }
    }
}
