/**
 * Decodes a block to 4 x 4 pixels.
 * @param words the compressed data as little-endian 32-bit words, with a sign: others would be doubles, and three times as
 *   slow
 * @param at the block's first word
 * @param to where its upper left pixel goes
 * @param stride pixels from a row to the next
 */
export type BlockDecoder<Out> = (words: Int32Array, at: number, out: Out, to: number, stride: number) => void;

/** How many bytes a picture of blocks of 4 x 4 pixels takes; blocks at the edges are whole. */
export function blockBytes(width: number, height: number, bytesPerBlock: number): number {
  return Math.ceil(width / 4) * Math.ceil(height / 4) * bytesPerBlock;
}

/**
 * Puts blocks of 4 x 4 pixels together.
 * @param decode writes pixels as 32-bit words with red in their lowest byte
 * @returns RGBA, 8 bits a channel, rows from the top
 */
export function joinBlocks8(
  bytes: Uint8Array,
  width: number,
  height: number,
  bytesPerBlock: number,
  decode: BlockDecoder<Int32Array>,
): Uint8Array {
  const pixels = new Int32Array(width * height);
  joinBlocks(bytes, width, height, bytesPerBlock, decode, pixels, new Int32Array(16), 1);
  return new Uint8Array(pixels.buffer);
}

/** The same for blocks that decode to RGBA quadruples of floats. */
export function joinBlocksFloat(
  bytes: Uint8Array,
  width: number,
  height: number,
  bytesPerBlock: number,
  decode: BlockDecoder<Float32Array>,
): Float32Array {
  const pixels = new Float32Array(width * height * 4);
  joinBlocks(bytes, width, height, bytesPerBlock, decode, pixels, new Float32Array(64), 4);
  return pixels;
}

/** Blocks that reach over the edge are decoded beside the picture, and cut. */
function joinBlocks<Out extends Int32Array | Float32Array>(
  bytes: Uint8Array,
  width: number,
  height: number,
  bytesPerBlock: number,
  decode: BlockDecoder<Out>,
  pixels: Out,
  block: Out,
  valuesPerPixel: number,
): void {
  const words = wordsOf(bytes);
  const wordsPerBlock = bytesPerBlock / 4;
  let at = 0;
  for (let y = 0; y < height; y += 4) {
    for (let x = 0; x < width; x += 4, at += wordsPerBlock) {
      if (x + 4 <= width && y + 4 <= height) {
        decode(words, at, pixels, y * width + x, width);
        continue;
      }
      decode(words, at, block, 0, 4);
      const values = Math.min(4, width - x) * valuesPerPixel;
      for (let row = 0; row < Math.min(4, height - y); row++) {
        const from = row * 4 * valuesPerPixel;
        pixels.set(block.subarray(from, from + values), ((y + row) * width + x) * valuesPerPixel);
      }
    }
  }
}

/** A copy where the bytes do not lie on a word's border. */
function wordsOf(bytes: Uint8Array): Int32Array {
  const whole = bytes.length & ~3;
  return bytes.byteOffset % 4 === 0
    ? new Int32Array(bytes.buffer, bytes.byteOffset, whole / 4)
    : new Int32Array(new Uint8Array(bytes.subarray(0, whole)).buffer);
}
