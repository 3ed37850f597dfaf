import type { TextFacts } from '../../../contract/facts.ts';

/**
 * Text of bytes whose encoding nobody says: by byte order mark, else UTF-8 where it is valid, else
 * windows-1252, which takes any byte (WHATWG Encoding Standard).
 */
export function decodeText(bytes: Uint8Array): { text: string; encoding: TextFacts['encoding'] } {
  if (bytes[0] === 0xff && bytes[1] === 0xfe)
    return { text: decodeAs('utf-16le', bytes), encoding: 'utf-16le' };
  if (bytes[0] === 0xfe && bytes[1] === 0xff) {
    const swapped = bytes.slice(0, bytes.length & ~1);
    for (let i = 0; i < swapped.length; i += 2) {
      [swapped[i], swapped[i + 1]] = [swapped[i + 1] ?? 0, swapped[i] ?? 0];
    }
    return { text: decodeAs('utf-16le', swapped), encoding: 'utf-16be' };
  }
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'utf-8' };
  } catch {
    // Not UTF-8: that is an answer and not a failure.
    return { text: decodeAs('windows-1252', bytes), encoding: 'windows-1252' };
  }
}

function decodeAs(encoding: string, bytes: Uint8Array): string {
  return new TextDecoder(encoding).decode(bytes);
}
