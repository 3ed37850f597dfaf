import { startsWith } from '../bytes.ts';
import { containerAccess, containerOf, type ContainerFormat } from '../containers/container-format.ts';
import { extensionOf, formatByExtension, type FormatName } from './formats.ts';

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
 * containers (see `containerOf`), OpenType, WOFF2, ISO base media (ISO/IEC 14496-12), EBML (RFC 8794), MPEG (ISO/IEC 13818-1
 * 2.5.3.3 and 13818-2 6.2.2.1).
 *
 * @param head the first bytes of the file: `headLength` of them, or the whole of a shorter file
 */
export function identify(head: Uint8Array, path: string): Identity {
  const format = formatByBytes(head, path);
  if (format) return { format, byExtension: false };
  const promised = formatByExtension(path);
  if (promised && !hasSignature.has(promised) && looksLikeText(head))
    return { format: promised, byExtension: true };
  // Formats without first bytes of their own.
  if (promised && isToldByName.has(promised) && head.length > 0)
    return { format: promised, byExtension: true };
  if (promised === 'mp3' || (promised === 'tga' && mayBeTga(head)))
    return { format: promised, byExtension: true };
  if (promised === null && head.length > 0 && looksLikeText(head))
    return { format: 'plain', byExtension: true };
  return { format: 'binary', byExtension: true };
}

const hasSignature: ReadonlySet<string> = new Set<FormatName>([
  'png',
  'jpeg',
  'webp',
  'gif',
  'avif',
  'tiff',
  'bmp',
  'dds',
  'ktx2',
  'hdr',
  'exr',
  'svg',
  'glb',
  'gltf',
  'stl',
  'ply',
  '3mf',
  'dae',
  'fbx',
  'bvh',
  'wav',
  'ogg',
  'opus',
  'flac',
  'mp3',
  'aiff',
  'midi',
  'xm',
  'it',
  's3m',
  'ttf',
  'woff2',
  'mp4',
  'webm',
  'avi',
  'ogg-film',
  'mpeg',
  'tmx',
  'tileset',
  ...(Object.keys(containerAccess) as ContainerFormat[]),
]);

/** Told by their names: modules whose mark lies behind the head, and less common models. */
const isToldByName: ReadonlySet<string> = new Set<FormatName>([
  'mod',
  '3ds',
  'ac',
  'ase',
  'b3d',
  'blend',
  'cob',
  'dxf',
  'iqm',
  'lwo',
  'md2',
  'md5mesh',
  'mdc',
  'ms3d',
  'off',
  'x',
]);

function formatByBytes(head: Uint8Array, path: string): FormatName | null {
  if (startsWith(head, '\x89PNG\r\n\x1a\n')) return 'png';
  if (startsWith(head, '\xff\xd8\xff')) return 'jpeg';
  if (startsWith(head, 'RIFF') && startsWith(head, 'WEBP', 8)) return 'webp';
  if (startsWith(head, 'RIFF') && startsWith(head, 'WAVE', 8)) return 'wav';
  if (startsWith(head, 'RIFF') && startsWith(head, 'AVI ', 8)) return 'avi';
  if (startsWith(head, 'GIF87a') || startsWith(head, 'GIF89a')) return 'gif';
  const picture = pictureByBytes(head, path);
  if (picture) return picture;
  if (startsWith(head, 'glTF')) return 'glb';
  const model = modelByBytes(head, path);
  if (model) return model;
  if (startsWith(head, 'OggS')) return oggFormat(head);
  if (startsWith(head, 'FORM') && (startsWith(head, 'AIFF', 8) || startsWith(head, 'AIFC', 8))) return 'aiff';
  if (startsWith(head, 'MThd')) return 'midi';
  if (startsWith(head, 'Extended Module: ')) return 'xm';
  if (startsWith(head, 'IMPM')) return 'it';
  if (startsWith(head, 'SCRM', 44)) return 's3m';
  if (startsWith(head, 'fLaC')) return 'flac';
  if (startsWith(head, 'ID3')) return 'mp3';
  const container = containerOf((offset, length) => head.subarray(offset, offset + length), '');
  if (container) return container;
  if (startsWith(head, '\0\x01\0\0') || startsWith(head, 'OTTO') || startsWith(head, 'ttcf')) return 'ttf';
  if (startsWith(head, 'wOF2') || startsWith(head, 'wOFF')) return 'woff2';
  if (startsWith(head, 'ftyp', 4)) return 'mp4';
  if (startsWith(head, '\x1aE\xdf\xa3')) return 'webm';
  // A pack, or a sequence of pictures alone.
  if (startsWith(head, '\0\0\x01\xba') || startsWith(head, '\0\0\x01\xb3')) return 'mpeg';
  const extension = formatByExtension(path);
  if (extension === 'mp3' && head[0] === 0xff && ((head[1] ?? 0) & 0xe0) === 0xe0) return 'mp3';
  if (extension === 'json' || extension === 'gltf') return jsonFormat(head, extension);
  return tileFormat(head, extensionOf(path));
}

/**
 * What an Ogg file is of: the first page of each stream says it, before any other page (RFC 3533, section 4; RFC 7845, section
 * 5.1; the Theora specification, section 6.2).
 */
function oggFormat(head: Uint8Array): FormatName {
  let isOpus = false;
  for (let at = 0; startsWith(head, 'OggS', at) && ((head[at + 5] ?? 0) & 2) !== 0;) {
    const segments = head[at + 26] ?? 0;
    const content = at + 27 + segments;
    if (startsWith(head, '\x80theora', content)) return 'ogg-film';
    if (startsWith(head, 'OpusHead', content)) isOpus = true;
    at = content + head.subarray(at + 27, content).reduce((sum, length) => sum + length, 0);
  }
  return isOpus ? 'opus' : 'ogg';
}

/** Tile maps and sets of tiles, by their first element, or by keys that only they have. */
function tileFormat(head: Uint8Array, extension: string): FormatName | null {
  if (!['tmx', 'tsx', 'tmj', 'tsj', 'xml', 'json'].includes(extension) || !looksLikeText(head)) return null;
  const text = latin1.decode(head);
  if (/<map\s[^>]*\btilewidth=/.test(text)) return 'tmx';
  if (/<tileset\s[^>]*\btilewidth=/.test(text)) return 'tileset';
  if (!/^\s*(ï»¿)?\{/.test(text)) return null;
  if (extension === 'tmj' || /"infinite"\s*:\s*(true|false)/.test(text)) return 'tmx';
  return extension === 'tsj' || (/"columns"\s*:\s*\d/.test(text) && /"image(width)?"\s*:/.test(text))
    ? 'tileset'
    : null;
}

/**
 * AVIF (its brand among those of ISO base media), TIFF 6.0, Windows bitmaps, DDS, KTX2, Radiance, OpenEXR; SVG where the
 * text says so.
 */
function pictureByBytes(head: Uint8Array, path: string): FormatName | null {
  if (startsWith(head, 'ftypavif', 4) || startsWith(head, 'ftypavis', 4)) return 'avif';
  if (startsWith(head, 'II*\0') || startsWith(head, 'MM\0*')) return 'tiff';
  // The letters alone may begin any text: the reserved bytes are zero, and the header has a length that is known.
  if (
    startsWith(head, 'BM') &&
    startsWith(head, '\0\0\0\0', 6) &&
    [12, 40, 52, 56, 64, 108, 124].includes(head[14] ?? 0)
  )
    return 'bmp';
  if (startsWith(head, 'DDS |\0\0\0')) return 'dds';
  if (startsWith(head, '\xabKTX 20\xbb\r\n\x1a\n')) return 'ktx2';
  if (startsWith(head, '#?RADIANCE') || startsWith(head, '#?RGBE')) return 'hdr';
  if (startsWith(head, 'v/1\x01')) return 'exr';
  const extension = extensionOf(path);
  if (
    (extension === 'svg' || extension === 'xml') &&
    looksLikeText(head) &&
    /<svg[\s>]/.test(latin1.decode(head))
  )
    return 'svg';
  return null;
}

/** PLY and binary FBX by their first words; what is text by a word of it; a binary STL has none, and goes by its name. */
function modelByBytes(head: Uint8Array, path: string): FormatName | null {
  if (startsWith(head, 'ply\n') || startsWith(head, 'ply\r')) return 'ply';
  if (startsWith(head, 'Kaydara FBX Binary')) return 'fbx';
  const extension = extensionOf(path);
  if (extension === 'stl') return startsWith(head, 'solid') || head.length >= 84 ? 'stl' : null;
  const isWide = startsWith(head, '\xff\xfe') || startsWith(head, '\xfe\xff');
  if (!['fbx', 'dae', 'model', 'bvh', 'xml'].includes(extension) || !looksLikeText(head)) return null;
  const text = isWide ? latin1.decode(head).replaceAll('\0', '') : latin1.decode(head);
  if (extension === 'fbx') return /FBX|FBXHeaderExtension/.test(text) ? 'fbx' : null;
  if (text.includes('<COLLADA')) return 'dae';
  if (extension === 'model' && text.includes('<model')) return '3mf';
  return extension === 'bvh' && /^\s*HIERARCHY/.test(text) ? 'bvh' : null;
}

/** A type, a colour map and a depth that the format has. */
function mayBeTga(head: Uint8Array): boolean {
  const [, mapType = 9, type = 0] = head;
  return mapType <= 1 && [1, 2, 3, 9, 10, 11].includes(type) && [8, 15, 16, 24, 32].includes(head[16] ?? 0);
}

const latin1 = new TextDecoder('latin1');

function jsonFormat(head: Uint8Array, extension: 'json' | 'gltf'): FormatName | null {
  if (!looksLikeText(head)) return null;
  const text = latin1.decode(head.subarray(0, headLength)).replace(/^ï»¿/, '');
  if (!/^\s*\{/.test(text)) return null;
  if (extension === 'gltf') return 'gltf';
  return /"placements"\s*:\s*\[/.test(text) ? 'placements' : tileFormat(head, extension);
}

/** No control characters but tab, line feed, form feed, carriage return and escape; or a UTF-16 byte order mark. */
export function looksLikeText(head: Uint8Array): boolean {
  if (startsWith(head, '\xff\xfe') || startsWith(head, '\xfe\xff')) return true;
  for (const byte of head)
    if (byte < 32 && byte !== 9 && byte !== 10 && byte !== 12 && byte !== 13 && byte !== 27) return false;
  return true;
}
