import type { Document } from '@gltf-transform/core';
import type { ReadRequest } from '../../reading.ts';

/** Extensions of glTF that pack meshes, or hold pictures that it does not have by itself. */
const packings: ReadonlySet<string> = new Set([
  'KHR_draco_mesh_compression',
  'EXT_meshopt_compression',
  'KHR_texture_basisu',
  'EXT_texture_webp',
  'EXT_texture_avif',
]);

/**
 * Leaves nothing in a model that a reader would need a decoder for: its pictures become PNG where they are none of `kept`.
 * @param kept media types of pictures that stay as they are
 * @param mostPixelsOfSide larger ones become smaller
 * @param isStrict whether a PNG that says how its colours are meant is packed anew: glTF has textures without that (2.0, 3.8.3)
 * @returns what could not be decoded, in words; its texture is gone
 */
export async function unpackPictures(
  document: Document,
  request: Pick<ReadRequest, 'raster' | 'platform'>,
  kept: ReadonlySet<string>,
  mostPixelsOfSide: number,
  isStrict = false,
): Promise<string[]> {
  const problems: string[] = [];
  const root = document.getRoot();
  for (const texture of root.listTextures()) {
    const image = texture.getImage();
    if (!image || (kept.has(texture.getMimeType()) && !(isStrict && hasColourNotes(image)))) continue;
    // One that cannot be decoded costs the model its picture and nothing more.
    try {
      const raster = await request.raster(image, mostPixelsOfSide);
      texture.setImage(new Uint8Array(await request.platform.encodePicture(raster))).setMimeType('image/png');
    } catch (error) {
      problems.push(
        `the picture ${texture.getURI() || texture.getName() || 'without a name'}: ${error instanceof Error ? error.message : String(error)}`,
      );
      texture.dispose();
    }
  }
  for (const extension of root.listExtensionsUsed())
    if (packings.has(extension.extensionName)) extension.dispose();
  return problems;
}

/** A file that stands alone has one buffer (glTF 2.0, 4.4). */
export function inOneBuffer(document: Document): void {
  const root = document.getRoot();
  const [first, ...others] = root.listBuffers();
  if (root.listAccessors().length === 0) {
    for (const empty of root.listBuffers()) empty.dispose();
    return;
  }
  const buffer = first ?? document.createBuffer();
  for (const accessor of root.listAccessors()) accessor.setBuffer(buffer);
  for (const other of others) other.dispose();
}

const colourChunks: ReadonlySet<string> = new Set(['gAMA', 'cHRM', 'iCCP', 'pHYs', 'acTL']);

/** Whether a PNG has chunks before its pixels that say how it is to be shown. */
export function hasColourNotes(image: Uint8Array): boolean {
  if (image[0] !== 0x89 || image[1] !== 0x50) return false;
  const view = new DataView(image.buffer, image.byteOffset, image.byteLength);
  for (let at = 8; at + 12 <= image.length; at += 12 + view.getUint32(at)) {
    const name = String.fromCharCode(...image.subarray(at + 4, at + 8));
    if (name === 'IDAT') return false;
    if (colourChunks.has(name)) return true;
  }
  return false;
}
