import type { Budget } from './budget.ts';
import { SheetError } from './sheet-error.ts';

/** Encodings that a sheet can name; others of the Encoding Standard work too, by its labels. */
const widths: Readonly<Record<string, 1 | 2>> = { 'utf-16': 2, 'utf-16le': 2, 'utf-16be': 2 };

const decoders = new Map<string, TextDecoder>();

/** @throws SheetError for an encoding that nobody knows */
export function decoderOf(encoding: string): TextDecoder {
  const name = encoding.toLowerCase();
  let decoder = decoders.get(name);
  if (!decoder) {
    try {
      decoder = new TextDecoder(name === 'ascii' || name === 'latin1' ? 'windows-1252' : name, {
        ignoreBOM: true,
      });
    } catch {
      throw new SheetError(`there is no encoding ${encoding}`);
    }
    decoders.set(name, decoder);
  }
  return decoder;
}

/** Text up to the first 0, or all of it. */
export function decodeBytes(bytes: Uint8Array, encoding: string): string {
  return decoderOf(encoding).decode(bytes.subarray(0, endOfText(bytes, 0, encoding)));
}

/** Where the 0 lies that ends a text; the end of the bytes where there is none. */
export function endOfText(bytes: Uint8Array, begin: number, encoding: string): number {
  if (widthOf(encoding) === 1) {
    const end = bytes.indexOf(0, begin);
    return end < 0 ? bytes.length : end;
  }
  for (let at = begin; at + 1 < bytes.length; at += 2) if (bytes[at] === 0 && bytes[at + 1] === 0) return at;
  return bytes.length - ((bytes.length - begin) % 2);
}

/** Bytes of the 0 that ends a text. */
export function widthOf(encoding: string): 1 | 2 {
  return widths[encoding.toLowerCase()] ?? 1;
}

const longestText = 1024 * 1024;

/** The text that begins at a place. @throws SheetError where it is not there */
export function textAt(bytes: Uint8Array, at: number, encoding: string, budget: Budget): string {
  if (!(Number.isInteger(at) && at >= 0 && at <= bytes.length))
    throw new SheetError(
      `there is no byte ${at.toLocaleString('en')} in ${bytes.length.toLocaleString('en')}`,
    );
  const end = endOfText(bytes.subarray(0, Math.min(bytes.length, at + longestText)), at, encoding);
  budget.step((end - at) >> 4);
  budget.allocate((end - at) * 2);
  return decoderOf(encoding).decode(bytes.subarray(at, end));
}
