import { Inflate } from 'pako';
import { SheetError } from '../language/sheet-error.ts';
import { Output } from './output.ts';
import type { Parameters } from './packings.ts';

/** Pieces in which bytes go in: each stops early where too much comes out. */
const pieceBytes = 65_536;

/**
 * DEFLATE (RFC 1951), bare or within zlib (RFC 1950) or gzip (RFC 1952), whose check sums are held. What comes after its end is not
 * looked at.
 * @throws SheetError
 */
export function inflated(
  bytes: Uint8Array,
  form: 'deflate' | 'zlib' | 'gzip',
  parameters: Parameters,
): Uint8Array {
  const output = new Output(parameters, bytes.length * 3);
  const windowBits = { deflate: -15, zlib: 15, gzip: 31 }[form];
  const inflate = new Inflate({ windowBits, chunkSize: pieceBytes });
  inflate.onData = (piece) => output.append(piece);
  let hasEnded = false;
  inflate.onEnd = (status) => {
    hasEnded = status === 0;
  };
  for (let at = 0; at < bytes.length && !inflate.ended; at += pieceBytes) {
    parameters.budget.step(1024);
    inflate.push(bytes.subarray(at, at + pieceBytes), false);
    if (inflate.err) throw new SheetError(`the packed bytes are damaged: ${inflate.msg || inflate.err}`);
  }
  if (!inflate.ended || !hasEnded) throw new SheetError('the packed bytes are cut short');
  return output.finish();
}
