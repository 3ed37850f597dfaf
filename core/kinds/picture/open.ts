import { startsWith } from '../../bytes.ts';
import { identify } from '../identify.ts';
import type { Platform, Raster, ReadRequest } from '../reading.ts';
import type { Picture } from './picture.ts';
import { gammaOfPng, nameOfProfile } from './display.ts';
import { readBmp } from './read/bmp.ts';
import { readDds } from './read/dds.ts';
import { readKtx2 } from './read/ktx2.ts';
import { readTga } from './read/tga.ts';
import { shrink } from './shrink.ts';

type Opener = (bytes: Uint8Array, platform: Platform) => Picture | Promise<Picture>;

/** Formats that are read here; the platform's library opens the others. */
const openers: Readonly<Record<string, Opener>> = {
  tga: readTga,
  bmp: readBmp,
  dds: readDds,
  ktx2: readKtx2,
  hdr: async (bytes) => (await import('./read/floating.ts')).readRadiance(bytes),
  exr: async (bytes) => (await import('./read/floating.ts')).readExr(bytes),
};

/** The picture of a request, by a sheet where one says how. @throws ReadError */
export async function pictureOf({ bytes, path, platform, bySheet }: ReadRequest): Promise<Picture> {
  return bySheet ? bySheet.picture() : openPicture(bytes, path, platform);
}

/** Opens a picture of any format that is read. @throws ReadError */
export async function openPicture(bytes: Uint8Array, path: string, platform: Platform): Promise<Picture> {
  const { format } = identify(bytes.subarray(0, 1024), path);
  const opener = openers[format];
  if (opener) return opener(bytes, platform);
  const { decode, orientation, profile, frameMs, ...facts } = await platform.openPicture(bytes);
  const display = {
    orientation,
    frameMs,
    profile: profile ? nameOfProfile(profile) : '',
    gamma: gammaOfPng(bytes),
  };
  return {
    ...facts,
    display,
    depth: 1,
    levels: 1,
    layers: 1,
    faces: 1,
    image: (place) => decode(place?.frame),
  };
}

/** For materials: a picture that a model holds. Its name says nothing, so a TGA among them is not known. */
export async function rasterOf(bytes: Uint8Array, platform: Platform, maximumSize: number): Promise<Raster> {
  const picture = await openPicture(bytes, startsWith(bytes, '<') ? 'x.svg' : 'x.tga', platform);
  return shrink(await picture.image(), maximumSize);
}
