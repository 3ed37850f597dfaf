import { ZSTDDecoder } from 'zstddec';
import { Waiting } from '../language/waiting.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Parameters } from './packings.ts';

let ready: ZSTDDecoder | null = null;

async function prepare(): Promise<void> {
  const decoder = new ZSTDDecoder();
  await decoder.init();
  ready = decoder;
}

/** Zstandard (RFC 8878). How much comes out stands in the sheet or in its frame. @throws SheetError, Waiting */
export function zstd(bytes: Uint8Array, parameters: Parameters): Uint8Array {
  if (!ready) throw new Waiting(prepare);
  const size = parameters.has('size') ? parameters.whole('size') : contentSize(bytes);
  if (size === null)
    throw new SheetError('its frame does not say how much comes out: the sheet must, by “size”');
  // The packed bytes and what comes of them lie in the decoder’s memory too.
  parameters.budget.allocate(2 * size + bytes.length);
  if (size === 0) return new Uint8Array(0);
  const unpacked = ready.decode(bytes, size);
  if (unpacked.length !== size)
    throw new SheetError(
      `the packed bytes are damaged, or not ${size.toLocaleString('en')} bytes come out of them`,
    );
  return unpacked;
}

/** Of the first frame (RFC 8878, section 3.1.1.1); null where it is not said. @throws SheetError where there is no frame */
function contentSize(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 6 || view.getUint32(0, true) !== 0xfd2fb528)
    throw new SheetError('it does not begin as a Zstandard frame does');
  const descriptor = bytes[4] as number;
  const isSingle = (descriptor & 32) !== 0;
  const at = 5 + (isSingle ? 0 : 1) + ([0, 1, 2, 4][descriptor & 3] as number);
  const width = descriptor >> 6 === 0 ? (isSingle ? 1 : 0) : 2 ** (descriptor >> 6);
  if (width === 0) return null;
  if (at + width > bytes.length) throw new SheetError('the packed bytes are cut short');
  if (width === 1) return bytes[at] as number;
  if (width === 2) return view.getUint16(at, true) + 256;
  return width === 4 ? view.getUint32(at, true) : Number(view.getBigUint64(at, true));
}
