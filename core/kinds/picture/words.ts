/** RGBA as one word a pixel, red in the lowest bits (little-endian machines): with a sign, which engines keep as whole numbers. */
export function words(rgba: Uint8Array): Int32Array {
  const aligned = rgba.byteOffset % 4 === 0 ? rgba : new Uint8Array(rgba);
  return new Int32Array(aligned.buffer, aligned.byteOffset, aligned.length >> 2);
}
