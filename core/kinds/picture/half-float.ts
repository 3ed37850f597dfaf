/** All values of IEEE 754 binary16, by their bits. */
const table = Float32Array.from({ length: 65_536 }, (_, bits) => {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction > 0 ? NaN : sign * Infinity;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
});

/** @param bits of IEEE 754 binary16 */
export function floatOfHalf(bits: number): number {
  return table[bits & 0xffff] ?? 0;
}
