/**
 * Decodes a block to sixteen pixels, row by row.
 * @param words the compressed data as little-endian 32-bit words, with a sign: others would be doubles, and three times as slow
 * @param at the block's first word
 */
export type BlockDecoder<Out> = (words: Int32Array, at: number, out: Out) => void;

/** How many bytes a picture of blocks of 4 x 4 pixels takes; blocks at the edges are whole. */
export function blockBytes(width: number, height: number, bytesPerBlock: number): number {
  return Math.ceil(width / 4) * Math.ceil(height / 4) * bytesPerBlock;
}

/**
 * Puts blocks of 4 x 4 pixels together.
 * @param decode fills sixteen pixels, each a 32-bit word with red in its lowest byte
 * @returns RGBA, 8 bits a channel, rows from the top
 */
export function joinBlocks8(
  bytes: Uint8Array,
  width: number,
  height: number,
  bytesPerBlock: number,
  decode: BlockDecoder<Int32Array>,
): Uint8Array {
  const words = wordsOf(bytes);
  const block = new Int32Array(16);
  const pixels = new Int32Array(width * height);
  const wordsPerBlock = bytesPerBlock / 4;
  let at = 0;
  for (let y = 0; y < height; y += 4) {
    const rows = Math.min(4, height - y);
    for (let x = 0; x < width; x += 4, at += wordsPerBlock) {
      decode(words, at, block);
      const columns = Math.min(4, width - x);
      for (let row = 0; row < rows; row++) {
        const to = (y + row) * width + x;
        for (let column = 0; column < columns; column++) pixels[to + column] = block[row * 4 + column] ?? 0;
      }
    }
  }
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
  const words = wordsOf(bytes);
  const block = new Float32Array(64);
  const pixels = new Float32Array(width * height * 4);
  const wordsPerBlock = bytesPerBlock / 4;
  let at = 0;
  for (let y = 0; y < height; y += 4) {
    const rows = Math.min(4, height - y);
    for (let x = 0; x < width; x += 4, at += wordsPerBlock) {
      decode(words, at, block);
      const values = Math.min(4, width - x) * 4;
      for (let row = 0; row < rows; row++) {
        const to = ((y + row) * width + x) * 4;
        for (let value = 0; value < values; value++) pixels[to + value] = block[row * 16 + value] ?? 0;
      }
    }
  }
  return pixels;
}

/** A copy where the bytes do not lie on a word's border. */
function wordsOf(bytes: Uint8Array): Int32Array {
  const whole = bytes.length & ~3;
  return bytes.byteOffset % 4 === 0
    ? new Int32Array(bytes.buffer, bytes.byteOffset, whole / 4)
    : new Int32Array(new Uint8Array(bytes.subarray(0, whole)).buffer);
}
