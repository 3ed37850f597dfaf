import { WebIO, type Document } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { ReadRequest } from '../reading.ts';
import { openModel } from './read.ts';

const packings: ReadonlySet<string> = new Set([
  'KHR_draco_mesh_compression',
  'EXT_meshopt_compression',
  'KHR_texture_basisu',
  'EXT_texture_webp',
  'EXT_texture_avif',
]);
const shownPictures: ReadonlySet<string> = new Set(['image/png', 'image/jpeg', 'image/webp']);
const mostPixelsOfSide = 2048;

/** A model as one GLB without anything that a viewer would need a decoder for. @throws ReadError */
export async function writeShownModel(request: ReadRequest): Promise<Uint8Array> {
  const { document } = await openModel(request);
  const root = document.getRoot();
  for (const texture of root.listTextures()) {
    const image = texture.getImage();
    if (!image || shownPictures.has(texture.getMimeType())) continue;
    // One that cannot be decoded costs the model its picture and nothing more.
    const raster = await request.raster(image, mostPixelsOfSide).catch(() => null);
    if (raster) texture.setImage(await request.platform.encodePicture(raster)).setMimeType('image/png');
    else texture.dispose();
  }
  for (const extension of root.listExtensionsUsed())
    if (packings.has(extension.extensionName)) extension.dispose();
  // A picture that is missing has no place in a file that stands alone: viewers refuse the whole model for it.
  for (const texture of root.listTextures()) {
    if (texture.getImage()) texture.setURI('');
    else texture.dispose();
  }
  inOneBuffer(document);
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document);
}

/** A file that stands alone has one buffer (glTF 2.0, 4.4). */
function inOneBuffer(document: Document): void {
  const root = document.getRoot();
  const [first, ...others] = root.listBuffers();
  if (!first || others.length === 0) return;
  for (const accessor of root.listAccessors()) accessor.setBuffer(first);
  for (const buffer of others) buffer.dispose();
}
