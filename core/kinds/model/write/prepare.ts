import type { Document } from '@gltf-transform/core';
import { prune } from '@gltf-transform/functions';
import { sameBytes } from '../../../bytes.ts';
import { plural } from '../../../figures.ts';
import type { ModelSettings, WornPicture } from '../../../../contract/hauls.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import { mendLooks } from '../mend/looks.ts';
import { mendShapes } from '../mend/shapes.ts';
import { mendTree } from '../mend/tree.ts';
import type { ModelDocument } from '../model-document.ts';
import { helpersAmong } from '../parts/seen-batches.ts';
import { greyPicture } from '../read/gltf.ts';
import { trianglesOf } from '../triangles.ts';
import { mostPixelsOfSide } from './channel-pictures.ts';
import { inOneBuffer, unpackPictures } from './standard-pictures.ts';
import { wearPictures } from './wear-pictures.ts';

const keptPictures: ReadonlySet<string> = new Set(['image/png', 'image/jpeg']);

/**
 * Makes of an opened model what is to be written, still in metres and Y up: with the pictures that it wears, without helper shapes
 * and parts that were left out.
 * @param leftOut names of nodes whose shapes stay out
 * @returns what was done and what could not be done, in words
 */
export async function prepareModel(
  { document, missing }: ModelDocument,
  settings: ModelSettings,
  worn: readonly WornPicture[],
  leftOut: readonly string[],
  request: Pick<ReadRequest, 'raster' | 'platform' | 'resolve'>,
): Promise<string[]> {
  const words: string[] = [];
  if (missing.length > 0) dropStandIns(document);
  if (settings.textures === 'none')
    for (const texture of document.getRoot().listTextures()) texture.dispose();
  words.push(...(await unpackPictures(document, request, keptPictures, mostPixelsOfSide, true)));
  if (settings.textures === 'by role' && worn.length > 0)
    words.push(...(await wearPictures(document, worn, request)));
  const count = leaveOut(document, settings.helpers === 'left out', new Set(leftOut));
  if (count > 0) words.push(`${plural(count, 'shape')} left out`);
  words.push(
    ...mendTree(document),
    ...mendShapes(document),
    ...(await mendLooks(document, request.platform, settings.as === 'glb' || settings.as === 'gltf')),
  );
  const root = document.getRoot();
  for (const mesh of root.listMeshes())
    for (const primitive of mesh.listPrimitives())
      if ((primitive.getIndices()?.getCount() ?? primitive.getAttribute('POSITION')?.getCount() ?? 0) === 0)
        primitive.dispose();
  await document.transform(
    prune({ keepLeaves: true, keepAttributes: true, keepSolidTextures: true, keepExtras: true }),
  );
  if (root.listNodes().length === 0)
    throw new ReadError('it has no shape, no bones and no clips: nothing is left to write');
  inOneBuffer(document);
  return words;
}

/** Pictures that are not there were stood in for by a grey pixel. */
function dropStandIns(document: Document): void {
  const grey = Uint8Array.from(atob(greyPicture.slice(greyPicture.indexOf(',') + 1)), (letter) =>
    letter.charCodeAt(0),
  );
  for (const texture of document.getRoot().listTextures()) {
    const image = texture.getImage();
    if (!image || sameBytes(image, grey)) texture.dispose();
  }
}

/** Takes the shapes of helpers, and of nodes by name, out of their nodes. @returns how many places lost theirs */
function leaveOut(document: Document, areHelpersOut: boolean, names: ReadonlySet<string>): number {
  if (!areHelpersOut && names.size === 0) return 0;
  const batches = trianglesOf(document);
  const helpers = areHelpersOut ? helpersAmong(batches) : [];
  const out = batches.filter(({ node }, at) => helpers[at] || names.has(node.getName()));
  let count = 0;
  for (const { node, primitive } of out) {
    const mesh = node.getMesh();
    if (!mesh?.listPrimitives().includes(primitive)) continue;
    count++;
    // Other nodes may show the same mesh, and keep it whole.
    const own = mesh.listParents().length > 2 ? mesh.clone() : mesh;
    own.removePrimitive(primitive);
    node.setMesh(own.listPrimitives().length > 0 ? own : null);
    if (!node.getMesh()) node.setSkin(null);
  }
  return count;
}
