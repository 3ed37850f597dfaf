import type { Kind } from '../../contract/kinds.ts';

export interface Format {
  name: string;
  kind: Kind;
  extensions: readonly string[];
  mediaType: string;
}

/**
 * The table of formats. Adding a format means one line here, its first bytes in `identify.ts` where it has
 * any, and a file in its kind's folder. `other` formats have no reader: they are told apart, not read.
 */
export const formats = [
  { name: 'png', kind: 'picture', extensions: ['png'], mediaType: 'image/png' },
  { name: 'jpeg', kind: 'picture', extensions: ['jpg', 'jpeg'], mediaType: 'image/jpeg' },
  { name: 'webp', kind: 'picture', extensions: ['webp'], mediaType: 'image/webp' },
  { name: 'gif', kind: 'picture', extensions: ['gif'], mediaType: 'image/gif' },
  { name: 'avif', kind: 'picture', extensions: ['avif'], mediaType: 'image/avif' },
  { name: 'tiff', kind: 'picture', extensions: ['tif', 'tiff'], mediaType: 'image/tiff' },
  { name: 'bmp', kind: 'picture', extensions: ['bmp', 'dib'], mediaType: 'image/bmp' },
  { name: 'tga', kind: 'picture', extensions: ['tga'], mediaType: 'image/x-tga' },
  { name: 'dds', kind: 'picture', extensions: ['dds'], mediaType: 'image/vnd-ms.dds' },
  { name: 'ktx2', kind: 'picture', extensions: ['ktx2'], mediaType: 'image/ktx2' },
  { name: 'hdr', kind: 'picture', extensions: ['hdr', 'rgbe'], mediaType: 'image/vnd.radiance' },
  { name: 'exr', kind: 'picture', extensions: ['exr'], mediaType: 'image/x-exr' },
  { name: 'svg', kind: 'picture', extensions: ['svg'], mediaType: 'image/svg+xml' },
  { name: 'glb', kind: 'model', extensions: ['glb'], mediaType: 'model/gltf-binary' },
  { name: 'gltf', kind: 'model', extensions: ['gltf'], mediaType: 'model/gltf+json' },
  { name: 'obj', kind: 'model', extensions: ['obj'], mediaType: 'model/obj' },
  { name: 'stl', kind: 'model', extensions: ['stl'], mediaType: 'model/stl' },
  { name: 'ply', kind: 'model', extensions: ['ply'], mediaType: 'application/octet-stream' },
  { name: '3mf', kind: 'model', extensions: ['model'], mediaType: 'model/3mf' },
  { name: 'dae', kind: 'model', extensions: ['dae'], mediaType: 'model/vnd.collada+xml' },
  { name: 'fbx', kind: 'model', extensions: ['fbx'], mediaType: 'application/octet-stream' },
  { name: '3ds', kind: 'model', extensions: ['3ds'], mediaType: 'application/octet-stream' },
  { name: 'ac', kind: 'model', extensions: ['ac'], mediaType: 'application/octet-stream' },
  { name: 'ase', kind: 'model', extensions: ['ase'], mediaType: 'application/octet-stream' },
  { name: 'b3d', kind: 'model', extensions: ['b3d'], mediaType: 'application/octet-stream' },
  { name: 'blend', kind: 'model', extensions: ['blend'], mediaType: 'application/octet-stream' },
  { name: 'cob', kind: 'model', extensions: ['cob'], mediaType: 'application/octet-stream' },
  { name: 'dxf', kind: 'model', extensions: ['dxf'], mediaType: 'application/octet-stream' },
  { name: 'iqm', kind: 'model', extensions: ['iqm'], mediaType: 'application/octet-stream' },
  { name: 'lwo', kind: 'model', extensions: ['lwo'], mediaType: 'application/octet-stream' },
  { name: 'md2', kind: 'model', extensions: ['md2'], mediaType: 'application/octet-stream' },
  { name: 'md5mesh', kind: 'model', extensions: ['md5mesh'], mediaType: 'application/octet-stream' },
  { name: 'mdc', kind: 'model', extensions: ['mdc'], mediaType: 'application/octet-stream' },
  { name: 'ms3d', kind: 'model', extensions: ['ms3d'], mediaType: 'application/octet-stream' },
  { name: 'off', kind: 'model', extensions: ['off'], mediaType: 'application/octet-stream' },
  { name: 'x', kind: 'model', extensions: ['x'], mediaType: 'application/octet-stream' },
  { name: 'bvh', kind: 'clip', extensions: ['bvh'], mediaType: 'text/plain' },
  { name: 'wav', kind: 'sound', extensions: ['wav'], mediaType: 'audio/wav' },
  { name: 'ogg', kind: 'sound', extensions: ['ogg', 'oga'], mediaType: 'audio/ogg' },
  { name: 'flac', kind: 'sound', extensions: ['flac'], mediaType: 'audio/flac' },
  { name: 'mp3', kind: 'sound', extensions: ['mp3'], mediaType: 'audio/mpeg' },
  { name: 'aiff', kind: 'sound', extensions: ['aiff', 'aif', 'aifc'], mediaType: 'audio/aiff' },
  { name: 'opus', kind: 'sound', extensions: ['opus'], mediaType: 'audio/ogg' },
  { name: 'mod', kind: 'sound', extensions: ['mod'], mediaType: 'application/octet-stream' },
  { name: 'xm', kind: 'sound', extensions: ['xm'], mediaType: 'application/octet-stream' },
  { name: 's3m', kind: 'sound', extensions: ['s3m'], mediaType: 'application/octet-stream' },
  { name: 'it', kind: 'sound', extensions: ['it'], mediaType: 'application/octet-stream' },
  { name: 'midi', kind: 'sound', extensions: ['mid', 'midi'], mediaType: 'audio/midi' },
  { name: 'placements', kind: 'map', extensions: [], mediaType: 'application/json' },
  { name: 'recipe', kind: 'map', extensions: [], mediaType: 'application/octet-stream' },
  { name: 'tmx', kind: 'map', extensions: ['tmx', 'tmj'], mediaType: 'application/xml' },
  { name: 'tileset', kind: 'map', extensions: ['tsx', 'tsj'], mediaType: 'application/xml' },
  { name: 'json', kind: 'text', extensions: ['json'], mediaType: 'application/json' },
  { name: 'csv', kind: 'text', extensions: ['csv', 'tsv'], mediaType: 'text/csv' },
  { name: 'xml', kind: 'text', extensions: ['xml'], mediaType: 'application/xml' },
  { name: 'ini', kind: 'text', extensions: ['ini', 'cfg', 'conf'], mediaType: 'text/plain' },
  { name: 'yaml', kind: 'text', extensions: ['yaml', 'yml'], mediaType: 'application/yaml' },
  { name: 'po', kind: 'text', extensions: ['po', 'pot'], mediaType: 'text/plain' },
  { name: 'strings', kind: 'text', extensions: ['strings', 'properties', 'lang'], mediaType: 'text/plain' },
  { name: 'mtl', kind: 'text', extensions: ['mtl'], mediaType: 'model/mtl' },
  { name: 'plain', kind: 'text', extensions: ['txt', 'md', 'log'], mediaType: 'text/plain' },
  { name: 'ttf', kind: 'font', extensions: ['ttf', 'otf', 'ttc'], mediaType: 'font/ttf' },
  { name: 'woff2', kind: 'font', extensions: ['woff2', 'woff'], mediaType: 'font/woff2' },
  { name: 'mp4', kind: 'film', extensions: ['mp4', 'm4v', 'mov'], mediaType: 'video/mp4' },
  { name: 'webm', kind: 'film', extensions: ['webm', 'mkv'], mediaType: 'video/webm' },
  { name: 'zip', kind: 'other', extensions: ['zip'], mediaType: 'application/zip' },
  { name: 'tar', kind: 'other', extensions: ['tar'], mediaType: 'application/x-tar' },
  { name: '7z', kind: 'other', extensions: ['7z'], mediaType: 'application/x-7z-compressed' },
  { name: 'iso', kind: 'other', extensions: ['iso'], mediaType: 'application/x-iso9660-image' },
  { name: 'udf', kind: 'other', extensions: ['udf'], mediaType: 'application/octet-stream' },
  { name: 'cab', kind: 'other', extensions: ['cab'], mediaType: 'application/vnd.ms-cab-compressed' },
  { name: 'ar', kind: 'other', extensions: ['ar', 'deb'], mediaType: 'application/x-archive' },
  { name: 'cpio', kind: 'other', extensions: ['cpio'], mediaType: 'application/x-cpio' },
  { name: 'gzip', kind: 'other', extensions: ['gz', 'tgz'], mediaType: 'application/gzip' },
  { name: 'bzip2', kind: 'other', extensions: ['bz2', 'tbz2'], mediaType: 'application/x-bzip2' },
  { name: 'xz', kind: 'other', extensions: ['xz', 'txz'], mediaType: 'application/x-xz' },
  { name: 'zstd', kind: 'other', extensions: ['zst', 'tzst'], mediaType: 'application/zstd' },
  { name: 'lz4', kind: 'other', extensions: ['lz4'], mediaType: 'application/x-lz4' },
  { name: 'brotli', kind: 'other', extensions: ['br'], mediaType: 'application/x-brotli' },
  { name: 'binary', kind: 'other', extensions: [], mediaType: 'application/octet-stream' },
] as const satisfies readonly Format[];

export type FormatName = (typeof formats)[number]['name'];

const byName: ReadonlyMap<string, Format> = new Map(formats.map((format) => [format.name, format]));
const byExtension: ReadonlyMap<string, FormatName> = new Map(
  formats.flatMap((format) => format.extensions.map((extension) => [extension, format.name] as const)),
);

/** @throws RangeError for a name that the table lacks */
export function formatOf(name: string): Format {
  const format = byName.get(name);
  if (!format) throw new RangeError(`formatOf: no format is named ${name}`);
  return format;
}

/** The format that a file name's extension promises, or null. */
export function formatByExtension(path: string): FormatName | null {
  return byExtension.get(extensionOf(path)) ?? null;
}

/** Lower case, without the dot; empty where there is none. */
export function extensionOf(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** Formats that browsers show by themselves. */
const shownAsTheyAre: ReadonlySet<string> = new Set([
  'png',
  'jpeg',
  'webp',
  'gif',
  'avif',
  'bmp',
  'svg',
  'wav',
  'ogg',
  'opus',
  'mp3',
  'flac',
  'glb',
  'gltf',
]);

export function isShownAsItIs(format: string): boolean {
  return shownAsTheyAre.has(format);
}

/** Formats of models, maps and sets of tiles that name other files, without which they are not whole. */
const formatsWithFiles: ReadonlySet<string> = new Set([
  ...['gltf', 'obj', 'fbx', 'dae', 'tmx', 'tileset'],
  ...['3ds', 'ac', 'ase', 'b3d', 'cob', 'lwo', 'md2', 'md5mesh', 'mdc', 'ms3d', 'x'],
]);

/** Whether facts of a content hang on other files too, so that they are looked at again when these may have changed. */
export function hangsOnFiles(format: string): boolean {
  return formatsWithFiles.has(format);
}
