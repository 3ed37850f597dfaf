import { Minhash, minhashBytes } from '../minhash.ts';
import { Simhash } from '../simhash.ts';

/** Where each part of the signature begins, in bytes. */
export const textSignatureParts = { words: 0, length: 8, pairs: 9, end: 9 + minhashBytes } as const;

/**
 * What a text is like, in 41 bytes: 64 bits of its words (simhash), the power of two of its length, and the
 * least hashes of its pairs of neighbouring words, of which two texts share as many as they share pairs.
 */
export function textSignature(text: string): Uint8Array {
  const simhash = new Simhash();
  const pairs = new Minhash();
  const piece = Math.ceil(looked / pieces);
  const step = Math.max(piece, Math.ceil(text.length / pieces));
  let before = 0;
  for (let from = 0; from < text.length; from += step) {
    const end = Math.min(text.length, from + piece);
    for (let at = from; at < end;) {
      while (at < end && !isWordCode(text.charCodeAt(at))) at++;
      const begin = at;
      while (at < end && isWordCode(text.charCodeAt(at))) at++;
      if (at === begin) break;
      const word = simhash.add(text, begin, at);
      pairs.add(Math.imul(before, 31) ^ word);
      before = word;
    }
  }
  const parts = textSignatureParts;
  const signature = new Uint8Array(parts.end);
  signature.set(simhash.bits(), parts.words);
  signature[parts.length] = Math.min(255, Math.round(Math.log2(text.length / 6 + 1) * 10));
  signature.set(pairs.bytes(), parts.pairs);
  return signature;
}

/** Of longer texts pieces that are spread evenly stand for all. */
const looked = 65_536;
const pieces = 16;

/** Letters, digits and the low line; beyond ASCII all but what parts words. */
function isWordCode(code: number): boolean {
  if (code < 128)
    return (
      (code >= 97 && code <= 122) || (code >= 65 && code <= 90) || (code >= 48 && code <= 57) || code === 95
    );
  return code !== 160 && !(code >= 0x2000 && code <= 0x206f) && !(code >= 0x3000 && code <= 0x303f);
}
