import chardet from 'chardet';

/** Single bytes of Western Europe, which take any byte (WHATWG Encoding Standard). */
const fallback = 'windows-1252';
const sampleBytes = 256 * 1024;

/**
 * Text of bytes whose encoding nobody says: by byte order mark; UTF-16 without one by where its zeros stand; UTF-8 where
 * it is valid; else what its bytes are most like, as far as the platform decodes it.
 * @returns the encoding by its name in the WHATWG Encoding Standard
 */
export function decodeText(bytes: Uint8Array): { text: string; encoding: string } {
  const wide = wideEncoding(bytes);
  if (wide) return { text: new TextDecoder(wide).decode(bytes), encoding: wide };
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'utf-8' };
  } catch {
    // Not UTF-8: that is an answer and not a failure.
    const encoding = likeliest(bytes);
    return { text: new TextDecoder(encoding).decode(bytes), encoding };
  }
}

function wideEncoding(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | null {
  const [first, second] = bytes;
  if (first === 0xff && second === 0xfe) return 'utf-16le';
  if (first === 0xfe && second === 0xff) return 'utf-16be';
  if (bytes.length < 8 || bytes.length % 2 === 1) return null;
  const zeros = [0, 0];
  const length = Math.min(bytes.length, 4096);
  for (let at = 0; at < length; at++) if (bytes[at] === 0) zeros[at % 2] = (zeros[at % 2] ?? 0) + 1;
  // Text of Latin letters: every other byte is zero, and hardly one of the rest.
  const [even = 0, odd = 0] = zeros;
  if (odd > length * 0.35 && even < length * 0.02) return 'utf-16le';
  return even > length * 0.35 && odd < length * 0.02 ? 'utf-16be' : null;
}

/** By the letters' frequencies; what is short says too little to tell more than Western Europe. */
function likeliest(bytes: Uint8Array): string {
  const sample = bytes.subarray(0, sampleBytes);
  const [best] = chardet.analyse(sample);
  if (!best || best.confidence < 30) return fallback;
  const name = best.name.toLowerCase().replace('iso-8859-1', fallback);
  try {
    return new TextDecoder(name, { fatal: true }).decode(bytes) === ''
      ? fallback
      : new TextDecoder(name).encoding;
  } catch {
    // The platform does not know it, or it does not fit all of the text.
    return fallback;
  }
}
