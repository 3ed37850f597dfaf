import { Document, WebIO, type Node } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { cloneDocument, mergeDocuments, prune } from '@gltf-transform/functions';
import type { MapSettings } from '../../contract/haul-settings.ts';
import { plural } from '../figures.ts';
import { openPlacements } from './map/read.ts';
import { classEndings } from './map/write/class-endings.ts';
import { openModel } from './model/read.ts';
import { inOneBuffer, unpackPictures } from './model/write/standard-pictures.ts';
import { ReadError, type ReadRequest } from './reading.ts';
import type { MadeFile, Proof, Written } from './writing.ts';

const mostPlacements = 200_000;
/** Of all models together, as they lie; more would not fit into what a reader may take. */
const mostModelBytes = 512 * 1024 ** 2;
const mostPixelsOfSide = 4096;
const keptPictures: ReadonlySet<string> = new Set(['image/png', 'image/jpeg']);

/**
 * A map as one glTF scene, or one for each class: a node for each class, below it one for each placement, which share the meshes of their model. What the
 * build lacks is an empty node at its place.
 * @throws ReadError
 */
export async function writeMapScene(
  request: ReadRequest,
  format: string,
  { scenes }: MapSettings,
): Promise<Written> {
  if (format === 'tmx' || format === 'tileset')
    throw new ReadError('a map of tiles has no models: it can be taken out as it lay');
  const placements = await openPlacements(request);
  if (placements.length > mostPlacements)
    throw new ReadError(
      `it has ${placements.length.toLocaleString('en')} placements, and a scene is written with at most ${mostPlacements.toLocaleString('en')}`,
    );
  const document = new Document();
  const scene = document.createScene('map');
  const shapes = new Map<string, Node[] | null>();
  const problems: string[] = [];
  let left = mostModelBytes;
  for (const { model } of placements) {
    if (model === '' || shapes.has(model)) continue;
    const bytes = await request.resolve(model);
    if (bytes && bytes.length > left)
      throw new ReadError(`its models take more than ${mostModelBytes / 1024 ** 2} MiB together`);
    left -= bytes?.length ?? 0;
    shapes.set(model, bytes && (await takeIn(document, bytes, model, request, problems)));
    if (!bytes) problems.push(`${model} is not there`);
  }
  document.getRoot().setDefaultScene(scene);
  const groups = new Map<string, Node>();
  for (const { id, model, class: name, name: called, position, rotation, scale } of placements) {
    const group = groups.get(name) ?? document.createNode(name);
    if (!groups.has(name)) scene.addChild(group);
    groups.set(name, group);
    const node = document
      .createNode(called || id)
      .setTranslation(position)
      .setRotation(rotation)
      .setScale(scale);
    group.addChild(node);
    for (const part of shapes.get(model) ?? []) node.addChild(copyOf(document, part));
  }
  for (const roots of shapes.values()) for (const part of roots ?? []) disposeAll(part);
  inOneBuffer(document);
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const files =
    scenes === 'one'
      ? [{ ending: '.glb', bytes: await io.writeBinary(document) }]
      : await scenesOfClasses(document, io, [...groups.keys()]);
  let standing = 0;
  for (const { bytes } of files) standing += standingIn(await io.readBinary(bytes));
  return { files, losses: [], notes: problems, proof: proofOf(standing, placements.length) };
}

/** A scene for each class, with the shapes that it needs and no others. */
async function scenesOfClasses(
  document: Document,
  io: WebIO,
  classes: readonly string[],
): Promise<MadeFile[]> {
  const files: MadeFile[] = [];
  for (const [name, ending] of classEndings(classes)) {
    const own = cloneDocument(document);
    for (const group of own.getRoot().listScenes()[0]?.listChildren() ?? [])
      if (group.getName() !== name) disposeAll(group);
    await own.transform(
      prune({ keepLeaves: true, keepAttributes: true, keepSolidTextures: true, keepExtras: true }),
    );
    files.push({ ending, bytes: await io.writeBinary(own) });
  }
  return files;
}

/** Takes the shapes of a model into a document. @returns its outermost nodes, null where it cannot be read */
async function takeIn(
  target: Document,
  bytes: Uint8Array,
  path: string,
  request: ReadRequest,
  problems: string[],
): Promise<Node[] | null> {
  try {
    const { document } = await openModel({
      ...request,
      ...{ bytes, size: bytes.length, path, bySheet: undefined, recipe: undefined },
      part: (start, end) => bytes.subarray(start, end),
      // Pictures that it names stand beside it, which is known of the map alone.
      resolve: (reference) => request.resolve(`${path.slice(0, path.lastIndexOf('/') + 1)}${reference}`),
    });
    await unpackPictures(document, request, keptPictures, mostPixelsOfSide);
    for (const texture of document.getRoot().listTextures()) {
      if (texture.getImage()) texture.setURI('');
      else texture.dispose();
    }
    for (const animation of document.getRoot().listAnimations()) animation.dispose();
    const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
    const map = mergeDocuments(target, document);
    const roots = scene?.listChildren().flatMap((node) => (map.get(node) as Node | undefined) ?? []) ?? [];
    for (const merged of target.getRoot().listScenes())
      if (merged.getName() !== 'map' || merged.listChildren().some((child) => roots.includes(child)))
        merged.dispose();
    return roots;
  } catch (error) {
    problems.push(`${path}: ${error instanceof Error ? error.message : String(error)}`);
    return null;
  }
}

/** The same nodes with the same meshes; a skin would move every copy with the bones of the first. */
function copyOf(document: Document, node: Node): Node {
  const copy = document
    .createNode(node.getName())
    .setTranslation(node.getTranslation())
    .setRotation(node.getRotation())
    .setScale(node.getScale())
    .setMesh(node.getMesh());
  for (const child of node.listChildren()) copy.addChild(copyOf(document, child));
  return copy;
}

function disposeAll(node: Node): void {
  for (const child of node.listChildren()) disposeAll(child);
  node.getSkin()?.dispose();
  node.dispose();
}

/** Placements in a scene that was read again: what hangs on its groups. */
function standingIn(read: Document): number {
  return read
    .getRoot()
    .listScenes()
    .flatMap((scene) => scene.listChildren().flatMap((group) => group.listChildren())).length;
}

function proofOf(standing: number, placements: number): Proof {
  return standing === placements
    ? { verdict: 'the same', sentence: '' }
    : { verdict: 'differs', sentence: `${plural(standing, 'placement')} of ${placements} were read again.` };
}
