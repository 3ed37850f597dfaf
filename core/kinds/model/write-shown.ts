import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { ReadRequest } from '../reading.ts';
import { openModel } from './read.ts';
import { inOneBuffer, unpackPictures } from './write/standard-pictures.ts';

const shownPictures: ReadonlySet<string> = new Set(['image/png', 'image/jpeg', 'image/webp']);
const mostPixelsOfSide = 2048;

/** A model as one GLB without anything that a viewer would need a decoder for. @throws ReadError */
export async function writeShownModel(request: ReadRequest): Promise<Uint8Array> {
  const { document } = await openModel(request);
  await unpackPictures(document, request, shownPictures, mostPixelsOfSide);
  // A picture that is missing has no place in a file that stands alone: viewers refuse the whole model for it.
  for (const texture of document.getRoot().listTextures()) {
    if (texture.getImage()) texture.setURI('');
    else texture.dispose();
  }
  inOneBuffer(document);
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document);
}
