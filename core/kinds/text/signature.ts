/**
 * What a text is like, in 9 bytes: 64 bits of which each tells whether more words have it set or not in a hash of their own
 * (simhash, Charikar 2002), so that texts of nearly the same words differ in few; then the power of two of its length.
 */
export function textSignature(text: string): Uint8Array {
  const counts = new Int32Array(64);
  let words = 0;
  const piece = Math.ceil(looked / pieces);
  const step = Math.max(piece, Math.ceil(text.length / pieces));
  for (let from = 0; from < text.length; from += step) {
    const end = Math.min(text.length, from + piece);
    for (let at = from; at < end;) {
      while (at < end && !isWordCode(text.charCodeAt(at))) at++;
      let low = 0x811c9dc5;
      let high = 0x1b873593;
      const begin = at;
      for (; at < end && isWordCode(text.charCodeAt(at)); at++) {
        const code = text.charCodeAt(at);
        low = Math.imul(low ^ code, 0x01000193);
        high = Math.imul(high ^ code, 0xcc9e2d51);
        high = (high << 13) | (high >>> 19);
      }
      if (at === begin) break;
      low ^= low >>> 16;
      high ^= high >>> 15;
      for (let bit = 0; bit < 32; bit++) {
        counts[bit] = (counts[bit] ?? 0) + ((low >>> bit) & 1);
        counts[bit + 32] = (counts[bit + 32] ?? 0) + ((high >>> bit) & 1);
      }
      words++;
    }
  }
  const signature = new Uint8Array(9);
  counts.forEach((count, bit) => {
    if (count * 2 > words) signature[bit >> 3] = (signature[bit >> 3] ?? 0) | (1 << (bit & 7));
  });
  signature[8] = Math.min(255, Math.round(Math.log2(text.length / 6 + 1) * 10));
  return signature;
}

/** Of longer texts pieces that are spread evenly stand for all. */
const looked = 8_192;
const pieces = 16;

/** Letters, digits and the low line; beyond ASCII all but what parts words. */
function isWordCode(code: number): boolean {
  if (code < 128)
    return (
      (code >= 97 && code <= 122) || (code >= 65 && code <= 90) || (code >= 48 && code <= 57) || code === 95
    );
  return code !== 160 && !(code >= 0x2000 && code <= 0x206f) && !(code >= 0x3000 && code <= 0x303f);
}
