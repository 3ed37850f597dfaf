import type { ManifoldToplevel } from 'manifold-3d';
import type { Facts, FilmFacts, Placement, SoundFacts } from '../../contract/facts.ts';
import type { PlacementRecipe } from '../../contract/recipes.ts';
import type { Mention } from './mentions.ts';
import type { ModelDocument } from './model/model-document.ts';
import type { NamedBones } from './model/pose/bone-names.ts';
import type { Picture } from './picture/picture.ts';
import type { DecodedSound } from './sound/decoded.ts';

/** A picture in memory: 8 bits a channel, RGBA, straight alpha, sRGB, rows from the top. */
export interface Raster {
  width: number;
  height: number;
  rgba: Uint8Array;
}

/** A picture of a format that the platform knows: what its header says, and its pixels when they are asked for. */
export interface PlatformPicture {
  width: number;
  height: number;
  channels: number;
  hasAlpha: boolean;
  bitsPerChannel: number;
  frames: number;
  colourSpace: string;
  encoding: string;
  /** EXIF's orientation, 1 to 8. */
  orientation: number;
  /** Its colour profile, as the file has it. */
  profile: Uint8Array | null;
  /** How long each frame is shown, in milliseconds; empty where it does not move. */
  frameMs: readonly number[];
  /**
   * All pixels of a frame, the first is 0: RGBA of 8 or 16 bits, straight alpha, rows from the top, values as they are stored. A
   * drawing of vectors comes larger than it says, so that there is something to see.
   * @throws ReadError where the bytes are damaged or cut short
   */
  decode: (frame?: number) => Promise<{ width: number; height: number; data: Uint8Array | Uint16Array }>;
}

/** A texture of Basis Universal, opened. */
export interface BasisFile {
  /** @returns null where it is damaged */
  image(
    level: number,
    layer: number,
    face: number,
  ): { width: number; height: number; data: Uint8Array } | null;
  close(): void;
}

/** What readers need of the platform that they run on. All of it. */
export interface Platform {
  /** Opens PNG, JPEG, WebP, GIF, AVIF, TIFF and SVG. @throws ReadError */
  openPicture: (bytes: Uint8Array) => Promise<PlatformPicture>;
  /** Opens a KTX2 file of ETC1S or UASTC. @throws ReadError */
  openBasis: (bytes: Uint8Array) => Promise<BasisFile>;
  /** As PNG. */
  encodePicture: (raster: Raster) => Promise<Uint8Array>;
  /** As PNG of 8 or 16 bits or WebP, both to the bit, or as JPEG. @param pixels RGBA; of 16 bits for PNG alone */
  encodeImage: (
    pixels: { width: number; height: number; data: Uint8Array | Uint16Array | Float32Array },
    settings: { as: 'png' | 'webp' | 'jpeg'; hasAlpha: boolean; quality: number },
  ) => Promise<Uint8Array>;
  /** Packs a WAV, with comments by their names. @throws an error with what the program said */
  encodeSound: (
    wave: Uint8Array,
    as: 'flac' | 'ogg' | 'opus',
    comments: Readonly<Record<string, string>>,
  ) => Promise<Uint8Array>;
  /** The decoder of Draco's meshes, as glTF-Transform wants it. */
  openDraco(): Promise<unknown>;
  /** Converts a model of a less common format to GLB; null where the library does not accept it. */
  convertModel(
    bytes: Uint8Array,
    name: string,
    resolve: ReadRequest['resolve'],
  ): Promise<{ glb: Uint8Array | null; missing: string[] }>;
  /** Whether two views hold the same bytes, as fast as the platform can tell. */
  sameBytes: (first: ArrayBufferView, second: ArrayBufferView) => boolean;
  /** Unpacks zlib's format (RFC 1950). @throws an error where the bytes are damaged */
  inflate: (bytes: Uint8Array) => Uint8Array;
  /** Tangents of triangles that share no vertices, by MikkTSpace: xyz and the side, four numbers to a vertex. */
  makeTangents: (positions: Float32Array, normals: Float32Array, uvs: Float32Array) => Float32Array;
  /** What joins, cuts and measures solids. */
  openSolids: () => Promise<ManifoldToplevel>;
  /** Sees to it that there is a global `DOMParser`, which the readers of XML models look for. */
  provideDom(): Promise<void>;
}

/**
 * Bytes of a format that the product does not know, as a team’s sheet reads them: one of these, by the kind that comes out.
 * All throw ReadError where the bytes do not fit the sheet.
 */
export interface BySheet {
  /** What the sheet is called, and which of its versions fits the bytes: empty where it has none, or nothing was read yet. */
  mark: () => { name: string; version: string };
  picture: () => Promise<Picture>;
  model: () => Promise<ModelDocument>;
  sound: () => Promise<{ sound: DecodedSound; loops: SoundFacts['loops'] }>;
  placements: () => Promise<Placement[]>;
  /** As CSV. */
  table: () => Promise<Uint8Array>;
  /** Paths of other files that it says something of. */
  mentions: () => Promise<readonly string[]>;
}

/** A film, as programs of the platform take it apart. All throw what says why they cannot. */
export interface FilmSource {
  /** What its container says. */
  facts: () => Promise<FilmFacts>;
  /** What each track is coded as: the same for the same packets in the same format. */
  tracks: () => Promise<Uint8Array[]>;
  /** A picture that stands for what follows a moment, as a file of a picture that is no wider than is said. */
  picture: (seconds: number, width: number) => Promise<Uint8Array>;
}

export interface ReadRequest {
  /** All of the content; nothing of a film, which is read in parts: it may be larger than memory. */
  bytes: Uint8Array;
  size: number;
  /** Bytes from `start` up to `end`, which is not part of it. */
  part: (start: number, end: number) => Uint8Array;
  /** Where the asset lies in its build; readers use it in messages and to find sister files. */
  path: string;
  platform: Platform;
  /** How a placement table is written, where it is one by a recipe. */
  recipe?: PlacementRecipe | undefined;
  /** How its bytes are to be understood, where a sheet says it. */
  bySheet?: BySheet | undefined;
  /** What takes it apart where it is a film, on platforms that have that. */
  film?: FilmSource | undefined;
  /** Bytes of a file that the asset names, relative to it; null where the build lacks it. */
  resolve: (reference: string) => Promise<Uint8Array | null>;
  /** A picture of any format that is read, within a square of so many pixels. @throws ReadError */
  raster: (bytes: Uint8Array, maximumSize: number) => Promise<Raster>;
}

export interface Reading {
  facts: Facts;
  /** A small picture of the content, null where the facts are what is shown. */
  preview: Raster | null;
  /** The decoded content, in an order of its own: what is equal for a person is equal here, whatever its bytes were. */
  decoded: readonly Uint8Array[] | null;
  /** What it is like, in few bytes that lie near each other for contents that are alike. */
  signature: Uint8Array | null;
  /** What it says of other files. */
  mentions: readonly Mention[];
  /** Its own bones, and those that its clips move. */
  bones: readonly NamedBones[];
  /** Why reading stopped, where the facts are those that came before. */
  damage: string | null;
}

/** A reading, with nothing where nothing is said. */
export function readingOf(facts: Facts, more: Partial<Omit<Reading, 'facts'>> = {}): Reading {
  return {
    ...{ facts, preview: null, decoded: null, signature: null, mentions: [], bones: [], damage: null },
    ...more,
  };
}

export type Reader = (request: ReadRequest) => Promise<Reading>;

/** The longer side of a preview in pixels. */
export const previewSize = 320;

/** Why a content could not be read: a sentence for a person, with what was expected and where. */
export class ReadError extends Error {
  override readonly name = 'ReadError';
}

/** By its name: what is loaded when it is first needed may have a class of its own. */
export function isReadError(error: unknown): error is ReadError {
  return error instanceof Error && error.name === 'ReadError';
}
