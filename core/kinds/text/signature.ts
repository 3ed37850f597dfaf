/**
 * What a text is like, in 9 bytes: 64 bits of which each tells whether more words have it set or not in a hash of their own
 * (simhash, Charikar 2002), so that texts of nearly the same words differ in few; then the power of two of its length.
 */
export function textSignature(text: string): Uint8Array {
  const counts = new Int32Array(64);
  let words = 0;
  for (const [word] of text.slice(0, 4_000_000).matchAll(/[\p{L}\p{N}_]+/gu)) {
    const [low, high] = hashOf(word);
    for (let bit = 0; bit < 32; bit++) {
      counts[bit] = (counts[bit] ?? 0) + ((low >>> bit) & 1 ? 1 : -1);
      counts[bit + 32] = (counts[bit + 32] ?? 0) + ((high >>> bit) & 1 ? 1 : -1);
    }
    words++;
  }
  const signature = new Uint8Array(9);
  counts.forEach((count, bit) => {
    if (count > 0) signature[bit >> 3] = (signature[bit >> 3] ?? 0) | (1 << (bit & 7));
  });
  signature[8] = Math.min(255, Math.round(Math.log2(words + 1) * 10));
  return signature;
}

function hashOf(word: string): [number, number] {
  let low = 0x811c9dc5;
  let high = 0x1b873593;
  for (let at = 0; at < word.length; at++) {
    const code = word.charCodeAt(at);
    low = Math.imul(low ^ code, 0x01000193);
    high = Math.imul(high ^ code, 0xcc9e2d51);
    high = (high << 13) | (high >>> 19);
  }
  return [low ^ (low >>> 16), high ^ (high >>> 15)];
}
