import { PropertyType, type Document } from '@gltf-transform/core';
import { prune } from '@gltf-transform/functions';
import { sameBytes } from '../../../bytes.ts';
import { plural } from '../../../figures.ts';
import { pairsOf, type ModelSettings } from '../../../../contract/haul-settings.ts';
import { ReadError, type Raster, type ReadRequest } from '../../reading.ts';
import { applySetUp } from '../arrange/set-up.ts';
import { carryAttributes } from '../mend/carry-attributes.ts';
import { joinSkeletons } from '../mend/join-skeletons.ts';
import { mendLooks } from '../mend/looks.ts';
import { mergeModels, openBeside } from '../mend/merge-models.ts';
import { mendShapes } from '../mend/shapes.ts';
import { mendSurface } from '../mend/surface.ts';
import { mendTree } from '../mend/tree.ts';
import type { ModelDocument } from '../model-document.ts';
import { helpersAmong } from '../parts/seen-batches.ts';
import { greyPicture } from '../read/gltf.ts';
import { trianglesOf } from '../triangles.ts';
import { mostPixelsOfSide } from './channel-pictures.ts';
import { inOneBuffer, unpackPictures } from './standard-pictures.ts';
import { wearPictures } from './wear-pictures.ts';
import type { ModelWriting } from './write-model.ts';

const keptPictures: ReadonlySet<string> = new Set(['image/png', 'image/jpeg']);

/**
 * Makes of an opened model what is to be written, still in metres and Y up: with the pictures that it wears, without helper shapes
 * and parts that were left out.
 * @returns what was done and what could not be done, in words, and a picture of what found no partner where attributes were carried over
 */
export async function prepareModel(
  { document, missing }: ModelDocument,
  settings: ModelSettings,
  { worn, leftOut, together, mend, arrangement }: Omit<ModelWriting, 'print' | 'clips'>,
  request: ReadRequest,
): Promise<{ notes: string[]; unmatched: Raster | null }> {
  const words: string[] = [];
  let unmatched: Raster | null = null;
  const isMissing = await mergeModels(document, request, together);
  if (together.length > 0) words.push(`${plural(together.length + 1, 'model')} put together`);
  if (missing.length > 0 || isMissing) dropStandIns(document);
  if (arrangement) words.push(...(await applySetUp(document, arrangement.name, arrangement.setUp, request)));
  if (settings.textures === 'none')
    for (const texture of document.getRoot().listTextures()) texture.dispose();
  words.push(...(await unpackPictures(document, request, keptPictures, mostPixelsOfSide, true)));
  if (settings.textures === 'by role' && worn.length > 0)
    words.push(...(await wearPictures(document, worn, request)));
  const count = leaveOut(document, settings.helpers === 'left out', new Set(leftOut));
  if (count > 0) words.push(`${plural(count, 'shape')} left out`);
  words.push(...mendTree(document), ...mendShapes(document));
  if (mend.attributesFrom !== '') {
    const other = await openBeside(request, besideBy(request.path, mend.attributesFrom));
    const carried = await carryAttributes(document, other.document, mend.attributesWithin / 100);
    unmatched = carried.picture;
    words.push(...carried.notes);
  }
  if (mend.skeletons === 'joined') words.push(...joinSkeletons(document, pairsOf(mend.boneParents)));
  words.push(
    ...(await mendSurface(document, mend)),
    ...(await mendLooks(document, request.platform, settings.as === 'glb' || settings.as === 'gltf')),
  );
  const root = document.getRoot();
  for (const mesh of root.listMeshes())
    for (const primitive of mesh.listPrimitives())
      if ((primitive.getIndices()?.getCount() ?? primitive.getAttribute('POSITION')?.getCount() ?? 0) === 0)
        primitive.dispose();
  await document.transform(
    prune({
      ...{ keepLeaves: true, keepAttributes: true, keepSolidTextures: true, keepExtras: true },
      ...(mend.unused === 'kept' ? { propertyTypes: shapesAlone } : {}),
    }),
  );
  if (root.listNodes().length === 0)
    throw new ReadError('it has no shape, no bones and no clips: nothing is left to write');
  inOneBuffer(document);
  return { notes: words, unmatched };
}

/** What is pruned where unused materials and pictures stay. */
const shapesAlone = [
  ...[PropertyType.NODE, PropertyType.MESH, PropertyType.PRIMITIVE, PropertyType.PRIMITIVE_TARGET],
  ...[PropertyType.ACCESSOR, PropertyType.BUFFER, PropertyType.SKIN, PropertyType.CAMERA],
];

/** The name of a file beside, by a pattern with the own name. */
function besideBy(path: string, pattern: string): string {
  const own = path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '');
  return pattern.replaceAll('*', own);
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
