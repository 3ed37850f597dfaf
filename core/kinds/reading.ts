import type { Facts } from '../../contract/facts.ts';

/** A picture in memory: 8 bits a channel, RGBA, straight alpha, sRGB, rows from the top. */
export interface Raster {
  width: number;
  height: number;
  rgba: Uint8Array;
}

export interface DecodedPicture extends Raster {
  channels: number;
  hasAlpha: boolean;
  bitsPerChannel: number;
  frames: number;
  colourSpace: string;
  /** Size of the picture as stored; `width` and `height` are smaller where it was decoded for a preview. */
  storedWidth: number;
  storedHeight: number;
}

/** What readers need of the platform that they run on. All of it. */
export interface Platform {
  /**
   * Decodes PNG, JPEG, WebP and GIF (its first frame), to fit into a square of `maximumSize` pixels.
   * @throws ReadError where the bytes are damaged or cut short
   */
  decodePicture(bytes: Uint8Array, maximumSize: number): Promise<DecodedPicture>;
}

export interface ReadRequest {
  bytes: Uint8Array;
  /** Where the asset lies in its build; readers use it in messages and to find sister files. */
  path: string;
  platform: Platform;
  /** Bytes of a file that the asset names, relative to it; null where the build lacks it. */
  resolve(reference: string): Promise<Uint8Array | null>;
}

export interface Reading {
  facts: Facts;
  /** A small picture of the content, null where the facts are what is shown. */
  preview: Raster | null;
}

export type Reader = (request: ReadRequest) => Promise<Reading>;

/** The longer side of a preview in pixels. */
export const previewSize = 320;

/** Why a content could not be read: a sentence for a person, with what was expected and where. */
export class ReadError extends Error {
  override readonly name = 'ReadError';
}
