/** RGBA as one word a pixel, red in the lowest bits (little-endian machines): read in a fourth of the steps. */
export function words(rgba: Uint8Array): Uint32Array {
  const aligned = rgba.byteOffset % 4 === 0 ? rgba : new Uint8Array(rgba);
  return new Uint32Array(aligned.buffer, aligned.byteOffset, aligned.length >> 2);
}
