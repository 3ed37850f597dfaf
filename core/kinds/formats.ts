import type { Kind } from '../../contract/kinds.ts';

export interface Format {
  /** Stands for the format in tables that outlast the program, in 16 bits: once given, it is never another one’s. */
  id: number;
  name: string;
  kind: Kind;
  extensions: readonly string[];
  mediaType: string;
}

/**
 * The table of formats. Adding a format means one line here with an id that none had, its first bytes in `identify.ts` where it has
 * any, and a file in its kind's folder. `other` formats have no reader: they are told apart, not read.
 */
export const formats = [
  { id: 1, name: 'png', kind: 'picture', extensions: ['png'], mediaType: 'image/png' },
  { id: 2, name: 'jpeg', kind: 'picture', extensions: ['jpg', 'jpeg'], mediaType: 'image/jpeg' },
  { id: 3, name: 'webp', kind: 'picture', extensions: ['webp'], mediaType: 'image/webp' },
  { id: 4, name: 'gif', kind: 'picture', extensions: ['gif'], mediaType: 'image/gif' },
  { id: 5, name: 'avif', kind: 'picture', extensions: ['avif'], mediaType: 'image/avif' },
  { id: 6, name: 'tiff', kind: 'picture', extensions: ['tif', 'tiff'], mediaType: 'image/tiff' },
  { id: 7, name: 'bmp', kind: 'picture', extensions: ['bmp', 'dib'], mediaType: 'image/bmp' },
  { id: 8, name: 'tga', kind: 'picture', extensions: ['tga'], mediaType: 'image/x-tga' },
  { id: 9, name: 'dds', kind: 'picture', extensions: ['dds'], mediaType: 'image/vnd-ms.dds' },
  { id: 10, name: 'ktx2', kind: 'picture', extensions: ['ktx2'], mediaType: 'image/ktx2' },
  { id: 11, name: 'hdr', kind: 'picture', extensions: ['hdr', 'rgbe'], mediaType: 'image/vnd.radiance' },
  { id: 12, name: 'exr', kind: 'picture', extensions: ['exr'], mediaType: 'image/x-exr' },
  { id: 13, name: 'svg', kind: 'picture', extensions: ['svg'], mediaType: 'image/svg+xml' },
  { id: 14, name: 'glb', kind: 'model', extensions: ['glb'], mediaType: 'model/gltf-binary' },
  { id: 15, name: 'gltf', kind: 'model', extensions: ['gltf'], mediaType: 'model/gltf+json' },
  { id: 16, name: 'obj', kind: 'model', extensions: ['obj'], mediaType: 'model/obj' },
  { id: 17, name: 'stl', kind: 'model', extensions: ['stl'], mediaType: 'model/stl' },
  { id: 18, name: 'ply', kind: 'model', extensions: ['ply'], mediaType: 'application/octet-stream' },
  { id: 19, name: '3mf', kind: 'model', extensions: ['model'], mediaType: 'model/3mf' },
  { id: 20, name: 'dae', kind: 'model', extensions: ['dae'], mediaType: 'model/vnd.collada+xml' },
  { id: 21, name: 'fbx', kind: 'model', extensions: ['fbx'], mediaType: 'application/octet-stream' },
  { id: 22, name: '3ds', kind: 'model', extensions: ['3ds'], mediaType: 'application/octet-stream' },
  { id: 23, name: 'ac', kind: 'model', extensions: ['ac'], mediaType: 'application/octet-stream' },
  { id: 24, name: 'ase', kind: 'model', extensions: ['ase'], mediaType: 'application/octet-stream' },
  { id: 25, name: 'b3d', kind: 'model', extensions: ['b3d'], mediaType: 'application/octet-stream' },
  { id: 26, name: 'blend', kind: 'model', extensions: ['blend'], mediaType: 'application/octet-stream' },
  { id: 27, name: 'cob', kind: 'model', extensions: ['cob'], mediaType: 'application/octet-stream' },
  { id: 28, name: 'dxf', kind: 'model', extensions: ['dxf'], mediaType: 'application/octet-stream' },
  { id: 29, name: 'iqm', kind: 'model', extensions: ['iqm'], mediaType: 'application/octet-stream' },
  { id: 30, name: 'lwo', kind: 'model', extensions: ['lwo'], mediaType: 'application/octet-stream' },
  { id: 31, name: 'md2', kind: 'model', extensions: ['md2'], mediaType: 'application/octet-stream' },
  { id: 32, name: 'md5mesh', kind: 'model', extensions: ['md5mesh'], mediaType: 'application/octet-stream' },
  { id: 33, name: 'mdc', kind: 'model', extensions: ['mdc'], mediaType: 'application/octet-stream' },
  { id: 34, name: 'ms3d', kind: 'model', extensions: ['ms3d'], mediaType: 'application/octet-stream' },
  { id: 35, name: 'off', kind: 'model', extensions: ['off'], mediaType: 'application/octet-stream' },
  { id: 36, name: 'x', kind: 'model', extensions: ['x'], mediaType: 'application/octet-stream' },
  { id: 37, name: 'bvh', kind: 'clip', extensions: ['bvh'], mediaType: 'text/plain' },
  { id: 38, name: 'wav', kind: 'sound', extensions: ['wav'], mediaType: 'audio/wav' },
  { id: 39, name: 'ogg', kind: 'sound', extensions: ['ogg', 'oga'], mediaType: 'audio/ogg' },
  { id: 40, name: 'flac', kind: 'sound', extensions: ['flac'], mediaType: 'audio/flac' },
  { id: 41, name: 'mp3', kind: 'sound', extensions: ['mp3'], mediaType: 'audio/mpeg' },
  { id: 42, name: 'aiff', kind: 'sound', extensions: ['aiff', 'aif', 'aifc'], mediaType: 'audio/aiff' },
  { id: 43, name: 'opus', kind: 'sound', extensions: ['opus'], mediaType: 'audio/ogg' },
  { id: 44, name: 'mod', kind: 'sound', extensions: ['mod'], mediaType: 'application/octet-stream' },
  { id: 45, name: 'xm', kind: 'sound', extensions: ['xm'], mediaType: 'application/octet-stream' },
  { id: 46, name: 's3m', kind: 'sound', extensions: ['s3m'], mediaType: 'application/octet-stream' },
  { id: 47, name: 'it', kind: 'sound', extensions: ['it'], mediaType: 'application/octet-stream' },
  { id: 48, name: 'midi', kind: 'sound', extensions: ['mid', 'midi'], mediaType: 'audio/midi' },
  { id: 49, name: 'placements', kind: 'map', extensions: [], mediaType: 'application/json' },
  { id: 50, name: 'recipe', kind: 'map', extensions: [], mediaType: 'application/octet-stream' },
  { id: 51, name: 'tmx', kind: 'map', extensions: ['tmx', 'tmj'], mediaType: 'application/xml' },
  { id: 52, name: 'tileset', kind: 'map', extensions: ['tsx', 'tsj'], mediaType: 'application/xml' },
  { id: 53, name: 'json', kind: 'text', extensions: ['json'], mediaType: 'application/json' },
  { id: 54, name: 'csv', kind: 'text', extensions: ['csv', 'tsv'], mediaType: 'text/csv' },
  { id: 55, name: 'xml', kind: 'text', extensions: ['xml'], mediaType: 'application/xml' },
  { id: 56, name: 'ini', kind: 'text', extensions: ['ini', 'cfg', 'conf'], mediaType: 'text/plain' },
  { id: 57, name: 'yaml', kind: 'text', extensions: ['yaml', 'yml'], mediaType: 'application/yaml' },
  { id: 58, name: 'po', kind: 'text', extensions: ['po', 'pot'], mediaType: 'text/plain' },
  {
    id: 59,
    name: 'strings',
    kind: 'text',
    extensions: ['strings', 'properties', 'lang'],
    mediaType: 'text/plain',
  },
  { id: 60, name: 'mtl', kind: 'text', extensions: ['mtl'], mediaType: 'model/mtl' },
  { id: 61, name: 'plain', kind: 'text', extensions: ['txt', 'md', 'log'], mediaType: 'text/plain' },
  { id: 62, name: 'ttf', kind: 'font', extensions: ['ttf', 'otf', 'ttc'], mediaType: 'font/ttf' },
  { id: 63, name: 'woff2', kind: 'font', extensions: ['woff2', 'woff'], mediaType: 'font/woff2' },
  { id: 64, name: 'mp4', kind: 'film', extensions: ['mp4', 'm4v', 'mov'], mediaType: 'video/mp4' },
  { id: 65, name: 'webm', kind: 'film', extensions: ['webm', 'mkv'], mediaType: 'video/webm' },
  { id: 87, name: 'avi', kind: 'film', extensions: ['avi'], mediaType: 'video/x-msvideo' },
  { id: 88, name: 'ogg-film', kind: 'film', extensions: ['ogv', 'ogm'], mediaType: 'video/ogg' },
  { id: 89, name: 'mpeg', kind: 'film', extensions: ['mpg', 'mpeg', 'm1v', 'm2v'], mediaType: 'video/mpeg' },
  { id: 66, name: 'zip', kind: 'other', extensions: ['zip'], mediaType: 'application/zip' },
  { id: 67, name: 'tar', kind: 'other', extensions: ['tar'], mediaType: 'application/x-tar' },
  { id: 68, name: '7z', kind: 'other', extensions: ['7z'], mediaType: 'application/x-7z-compressed' },
  { id: 69, name: 'iso', kind: 'other', extensions: ['iso'], mediaType: 'application/x-iso9660-image' },
  { id: 70, name: 'udf', kind: 'other', extensions: ['udf'], mediaType: 'application/octet-stream' },
  { id: 71, name: 'cab', kind: 'other', extensions: ['cab'], mediaType: 'application/vnd.ms-cab-compressed' },
  { id: 72, name: 'ar', kind: 'other', extensions: ['ar', 'deb'], mediaType: 'application/x-archive' },
  { id: 73, name: 'cpio', kind: 'other', extensions: ['cpio'], mediaType: 'application/x-cpio' },
  { id: 74, name: 'gzip', kind: 'other', extensions: ['gz', 'tgz'], mediaType: 'application/gzip' },
  { id: 75, name: 'bzip2', kind: 'other', extensions: ['bz2', 'tbz2'], mediaType: 'application/x-bzip2' },
  { id: 76, name: 'xz', kind: 'other', extensions: ['xz', 'txz'], mediaType: 'application/x-xz' },
  { id: 77, name: 'zstd', kind: 'other', extensions: ['zst', 'tzst'], mediaType: 'application/zstd' },
  { id: 78, name: 'lz4', kind: 'other', extensions: ['lz4'], mediaType: 'application/x-lz4' },
  { id: 79, name: 'brotli', kind: 'other', extensions: ['br'], mediaType: 'application/x-brotli' },
  // What sheets of a title read, by the kind that comes out.
  { id: 81, name: 'sheet-picture', kind: 'picture', extensions: [], mediaType: 'application/octet-stream' },
  { id: 82, name: 'sheet-model', kind: 'model', extensions: [], mediaType: 'application/octet-stream' },
  { id: 83, name: 'sheet-sound', kind: 'sound', extensions: [], mediaType: 'application/octet-stream' },
  { id: 84, name: 'sheet-map', kind: 'map', extensions: [], mediaType: 'application/octet-stream' },
  { id: 85, name: 'sheet-table', kind: 'text', extensions: [], mediaType: 'application/octet-stream' },
  { id: 86, name: 'sheet-container', kind: 'other', extensions: [], mediaType: 'application/octet-stream' },
  { id: 80, name: 'binary', kind: 'other', extensions: [], mediaType: 'application/octet-stream' },
] as const satisfies readonly Format[];

export type FormatName = (typeof formats)[number]['name'];

const byId: ReadonlyMap<number, Format> = new Map(formats.map((format) => [format.id, format]));
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

/** The format of an id; bytes of no format where none has it. */
export function formatWithId(id: number): Format {
  return byId.get(id) ?? formatOf('binary');
}

/** Something of each format, to be looked up by its id. */
export function byFormatId<Value>(valueOf: (format: Format) => Value): readonly (Value | undefined)[] {
  const values: Value[] = [];
  for (const format of formats) values[format.id] = valueOf(format);
  return values;
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
  ...['sheet-picture', 'sheet-model', 'sheet-sound', 'sheet-map', 'sheet-table'],
  ...['3ds', 'ac', 'ase', 'b3d', 'cob', 'lwo', 'md2', 'md5mesh', 'mdc', 'ms3d', 'x'],
]);

/** Whether facts of a content hang on other files too, so that they are looked at again when these may have changed. */
export function hangsOnFiles(format: string): boolean {
  return formatsWithFiles.has(format);
}
