import { riffChunks } from './riff.ts';

/**
 * How many sample frames a file's own header promises, so that a decoder which stops early is found out.
 * Null where the format does not say.
 *
 * WAV: size of the data chunk by the block size of `fmt `, for plain PCM and floats. FLAC: total samples of
 * STREAMINFO (RFC 9639 8.2). Ogg Vorbis: granule position of the page that is marked as the last (RFC 3533
 * section 6, Vorbis I specification A.2); a stream without such a page was cut short.
 */
export function promisedFrames(bytes: Uint8Array, format: string): number | null {
  switch (format) {
    case 'wav':
      return wavFrames(bytes);
    case 'flac':
      return flacFrames(bytes);
    case 'ogg':
      return oggFrames(bytes);
    default:
      return null;
  }
}

function wavFrames(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks = riffChunks(bytes);
  const format = chunks.find((chunk) => chunk.id === 'fmt ');
  const data = chunks.find((chunk) => chunk.id === 'data');
  if (!format || !data || format.start + 16 > bytes.length) return null;
  const coding = view.getUint16(format.start, true);
  const blockBytes = view.getUint16(format.start + 12, true);
  const isPlain = coding === 1 || coding === 3 || coding === 0xfffe;
  return isPlain && blockBytes > 0 ? Math.floor(data.length / blockBytes) : null;
}

function flacFrames(bytes: Uint8Array): number | null {
  if (bytes.length < 42) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const total = (view.getUint8(21) & 0x0f) * 2 ** 32 + view.getUint32(22);
  return total === 0 ? null : total;
}

/** Infinity where the last page is missing. */
function oggFrames(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 0; at + 27 <= bytes.length;) {
    if (view.getUint32(at) !== 0x4f676753) return Infinity;
    const segments = view.getUint8(at + 26);
    if (at + 27 + segments > bytes.length) return Infinity;
    let bodyBytes = 0;
    for (let i = 0; i < segments; i++) bodyBytes += view.getUint8(at + 27 + i);
    if (view.getUint8(at + 5) & 4) return Number(view.getBigInt64(at + 6, true));
    at += 27 + segments + bodyBytes;
  }
  return Infinity;
}
