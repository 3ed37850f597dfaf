import { formatByExtension, type FormatName } from './formats.ts';

/** Bytes that `identify` wants to see, at the least, of a file that has as many. */
export const headLength = 1024;

export interface Identity {
  format: FormatName;
  /** True where the first bytes said nothing, and the name had to. */
  byExtension: boolean;
}

/**
 * Tells a format by its first bytes, and by its extension where these say nothing.
 * Signatures: PNG (ISO/IEC 15948 5.2), JPEG (ITU-T T.81 B.1.1.3), WebP and WAV (RIFF, 1991), GIF89a,
 * glTF 2.0 (12 byte header), Ogg (RFC 3533), FLAC (RFC 9639), ID3v2 and MPEG frame sync (ISO/IEC 11172-3),
 * ZIP (APPNOTE 4.3.7), OpenType, WOFF2, ISO base media (ISO/IEC 14496-12), EBML (RFC 8794).
 *
 * @param head the first bytes of the file: `headLength` of them, or the whole of a shorter file
 */
export function identify(head: Uint8Array, path: string): Identity {
  const format = formatByBytes(head, path);
  if (format) return { format, byExtension: false };
  const promised = formatByExtension(path);
  if (promised && !hasSignature.has(promised) && looksLikeText(head))
    return { format: promised, byExtension: true };
  if (promised === 'mp3') return { format: 'mp3', byExtension: true };
  if (promised === null && head.length > 0 && looksLikeText(head))
    return { format: 'plain', byExtension: true };
  return { format: 'binary', byExtension: true };
}

const hasSignature: ReadonlySet<string> = new Set<FormatName>([
  'png', 'jpeg', 'webp', 'gif', 'glb', 'gltf', 'wav', 'ogg', 'flac', 'mp3', 'ttf', 'woff2', 'mp4', 'webm', 'zip',
]); // prettier-ignore

function formatByBytes(head: Uint8Array, path: string): FormatName | null {
  if (starts(head, '\x89PNG\r\n\x1a\n')) return 'png';
  if (starts(head, '\xff\xd8\xff')) return 'jpeg';
  if (starts(head, 'RIFF') && starts(head, 'WEBP', 8)) return 'webp';
  if (starts(head, 'RIFF') && starts(head, 'WAVE', 8)) return 'wav';
  if (starts(head, 'GIF87a') || starts(head, 'GIF89a')) return 'gif';
  if (starts(head, 'glTF')) return 'glb';
  if (starts(head, 'OggS')) return 'ogg';
  if (starts(head, 'fLaC')) return 'flac';
  if (starts(head, 'ID3')) return 'mp3';
  if (isZip(head)) return 'zip';
  if (starts(head, '\0\x01\0\0') || starts(head, 'OTTO')) return 'ttf';
  if (starts(head, 'wOF2') || starts(head, 'wOFF')) return 'woff2';
  if (starts(head, 'ftyp', 4)) return 'mp4';
  if (starts(head, '\x1aE\xdf\xa3')) return 'webm';
  const extension = formatByExtension(path);
  if (extension === 'mp3' && head[0] === 0xff && ((head[1] ?? 0) & 0xe0) === 0xe0) return 'mp3';
  if (extension === 'json' || extension === 'gltf') return jsonFormat(head, extension);
  return null;
}

/** A ZIP with entries, or the end record of an empty one. */
export function isZip(head: Uint8Array): boolean {
  return starts(head, 'PK\x03\x04') || starts(head, 'PK\x05\x06');
}

const latin1 = new TextDecoder('latin1');

function jsonFormat(head: Uint8Array, extension: 'json' | 'gltf'): FormatName | null {
  if (!looksLikeText(head)) return null;
  const text = latin1.decode(head.subarray(0, headLength)).replace(/^ï»¿/, '');
  if (!/^\s*\{/.test(text)) return null;
  if (extension === 'gltf') return 'gltf';
  return /"placements"\s*:\s*\[/.test(text) ? 'placements' : null;
}

/** No control characters but tab, line feed, form feed, carriage return and escape; or a UTF-16 byte order mark. */
export function looksLikeText(head: Uint8Array): boolean {
  if (starts(head, '\xff\xfe') || starts(head, '\xfe\xff')) return true;
  for (const byte of head)
    if (byte < 32 && byte !== 9 && byte !== 10 && byte !== 12 && byte !== 13 && byte !== 27) return false;
  return true;
}

function starts(head: Uint8Array, signature: string, at = 0): boolean {
  if (head.length < at + signature.length) return false;
  for (let i = 0; i < signature.length; i++) if (head[at + i] !== signature.charCodeAt(i)) return false;
  return true;
}
