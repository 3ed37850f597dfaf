import type { Animation, Document } from '@gltf-transform/core';
import { boundsOf } from './bounds.ts';
import type { Clip, ModelFacts } from '../../../contract/facts.ts';
import { identify } from '../identify.ts';
import { Mentions, type Mention } from '../mentions.ts';
import { isReadError, readingOf, type ReadRequest, type Reader } from '../reading.ts';
import { decodedModel } from './fingerprint.ts';
import type { ModelDocument } from './model-document.ts';
import { hashOfData } from '../data/data-hash.ts';
import { drawPoses } from './pose/draw-poses.ts';
import { spanOfClip } from './pose/pose-at.ts';
import { namedBonesOf } from './pose/bone-names.ts';
import { seenBatches } from './parts/seen-batches.ts';
import { propertyText } from './property-text.ts';
import { readGltf } from './read/gltf.ts';
import { renderPreview } from './render.ts';
import { modelSignature } from './signature.ts';
import { instancesOf, triangleCount, trianglesOf } from './triangles.ts';

export const readModel: Reader = async (request) => {
  const { document, missing, units, said } = await openModel(request);
  const clips = document.getRoot().listAnimations().map(clipOf);
  const batches = trianglesOf(document);
  const decoded = [...decodedModel(document), ...decodedSaid(document, said)];
  const bones = namedBonesOf(document);
  if (batches.length === 0 && clips.length > 0)
    return readingOf(
      { kind: 'clip', bones: bonesOf(document), clips, units },
      { preview: drawPoses(document, longestOf(document)), decoded, bones },
    );
  return readingOf(factsOf(document, missing, units, clips), {
    preview: await renderPreview(seenBatches(batches), request.raster),
    decoded,
    signature: modelSignature(batches, namesOf(document)),
    mentions: mentionsOf(document),
    bones,
  });
};

/** What it says beside its shape, and its materials: also those that nothing wears. */
function decodedSaid(document: Document, said: ModelDocument['said']): Uint8Array[] {
  const materials = document
    .getRoot()
    .listMaterials()
    .map((material) => `${material.getName()}\t${propertyText(material)}`)
    .sort();
  const hash = said && Object.keys(said).length > 0 ? hashOfData(said) : null;
  return [new TextEncoder().encode(materials.join('\n')), ...(hash ? [hash] : [])];
}

/** What it is made of, by name. */
export function namesOf(document: Document): string[] {
  const root = document.getRoot();
  const named = [root.listMaterials(), root.listTextures(), root.listMeshes(), root.listNodes()].flat();
  return named.flatMap((property) => property.getName() || []);
}

/** Materials and pictures inside are named as files are named that they were made of. */
function mentionsOf(document: Document): Mention[] {
  const mentions = new Mentions();
  for (const material of document.getRoot().listMaterials()) mentions.addName(material.getName(), 'material');
  for (const texture of document.getRoot().listTextures()) mentions.addName(texture.getName(), 'texture');
  return mentions.list();
}

/** Opens a model of any format that is read: all in it has a name, which may be empty. @throws ReadError */
export async function openModel(request: ReadRequest): Promise<ModelDocument> {
  const model = await openAsItIs(request);
  const root = model.document.getRoot();
  const named = [root.listScenes(), root.listNodes(), root.listMeshes(), root.listSkins()].flat();
  const worn = [root.listMaterials(), root.listTextures(), root.listAnimations()].flat();
  // Files, and the libraries that read them, say null or a number for a name.
  for (const property of [...named, ...worn]) property.setName(textOf(property.getName()));
  return model;
}

function textOf(name: unknown): string {
  return typeof name === 'string' || typeof name === 'number' ? String(name) : '';
}

async function openAsItIs(request: ReadRequest): Promise<ModelDocument> {
  if (request.bySheet) return request.bySheet.model();
  const { format } = identify(request.bytes.subarray(0, 1024), request.path);
  if (format === 'glb' || format === 'gltf') return readGltf(request);
  if (format === '3mf') return (await import('./read/package-3mf.ts')).read3mf(request);
  const { readThreeModel, threeLoaders } = await import('./read/three-models.ts');
  const { readAssimpModel } = await import('./read/assimp-models.ts');
  if (!(format in threeLoaders)) return readAssimpModel(format, request);
  try {
    const model = await readThreeModel(format, request);
    const root = model.document.getRoot();
    if (!hasSecondReader.has(format) || root.listMeshes().length + root.listAnimations().length > 0)
      return model;
    // What one library passes over the other may know.
    return await readAssimpModel(format, request).catch(() => model);
  } catch (error) {
    if (!isReadError(error) || !hasSecondReader.has(format)) throw error;
    return readAssimpModel(format, request).catch(() => Promise.reject(error));
  }
}

const hasSecondReader: ReadonlySet<string> = new Set(['fbx', 'dae']);

/** Facts of an opened model, with how many bones move a vertex at most. */
export function factsOfModel({ document, missing, units }: ModelDocument): ModelFacts & { weights: number } {
  const semantics = new Set(
    document
      .getRoot()
      .listMeshes()
      .flatMap((mesh) => mesh.listPrimitives().flatMap((primitive) => primitive.listSemantics())),
  );
  const weights = [...semantics].filter((name) => name.startsWith('WEIGHTS_')).length * 4;
  return { ...factsOf(document, missing, units, document.getRoot().listAnimations().map(clipOf)), weights };
}

function factsOf(document: Document, missing: string[], units: string, clips: Clip[]): ModelFacts {
  const root = document.getRoot();
  const primitives = root.listMeshes().flatMap((mesh) => mesh.listPrimitives());
  const positions = new Set(primitives.map((primitive) => primitive.getAttribute('POSITION')));
  const attributes = new Set(primitives.flatMap((primitive) => primitive.listSemantics()));
  const variants = root
    .listExtensionsUsed()
    .some(({ extensionName }) => extensionName === 'KHR_materials_variants')
    ? [...new Set(primitives.flatMap(variantNames))].sort()
    : [];
  return {
    kind: 'model',
    triangles: primitives.reduce((sum, primitive) => sum + triangleCount(primitive), 0),
    vertices: [...positions].reduce((sum, accessor) => sum + (accessor?.getCount() ?? 0), 0),
    parts: root.listMeshes().length,
    materials: root.listMaterials().length,
    textures: root.listTextures().length,
    bones: bonesOf(document),
    clips,
    boundsMetres: boundsOf(document),
    missing,
    uvSets: [...attributes].filter((name) => name.startsWith('TEXCOORD_')).length,
    hasColours: attributes.has('COLOR_0'),
    morphTargets: Math.max(0, ...primitives.map((primitive) => primitive.listTargets().length)),
    variants,
    instances: root
      .listNodes()
      .reduce((sum, node) => sum + Math.max(0, (instancesOf(node)?.length ?? 1) - 1), 0),
    units,
  };
}

function variantNames(primitive: { getExtension: (name: string) => unknown }): string[] {
  const list = primitive.getExtension('KHR_materials_variants') as {
    listMappings(): { listVariants(): { getName(): string }[] }[];
  } | null;
  return (
    list?.listMappings().flatMap((mapping) => mapping.listVariants().map((variant) => variant.getName())) ??
    []
  );
}

/** The clip that stands for all of a file. */
function longestOf(document: Document): Animation {
  const lengthOf = (animation: Animation): number => {
    const { first, last } = spanOfClip(animation);
    return last - first;
  };
  return document
    .getRoot()
    .listAnimations()
    .reduce((longest, one) => (lengthOf(one) > lengthOf(longest) ? one : longest));
}

function bonesOf(document: Document): number {
  return new Set(
    document
      .getRoot()
      .listSkins()
      .flatMap((skin) => skin.listJoints()),
  ).size;
}

function clipOf(animation: Animation, index: number): Clip {
  const { first, last } = spanOfClip(animation);
  const keys = Math.max(0, ...animation.listSamplers().map((sampler) => sampler.getInput()?.getCount() ?? 0));
  const seconds = last > first ? last - first : 0;
  const moved = new Set(animation.listChannels().map((channel) => channel.getTargetNode()));
  return {
    name: animation.getName() || `clip ${index + 1}`,
    seconds,
    rate: seconds > 0 && keys > 2 && isEven(animation) ? Math.round((keys - 1) / seconds) : null,
    bones: moved.size,
  };
}

/** Whether the keys of all its samplers lie on one even grid. */
function isEven(animation: Animation): boolean {
  return animation.listSamplers().every((sampler) => {
    const times = (sampler.getInput()?.getArray() ?? []) as ArrayLike<number>;
    const step = ((times[times.length - 1] ?? 0) - (times[0] ?? 0)) / Math.max(1, times.length - 1);
    for (let at = 1; at < times.length; at++)
      if (Math.abs((times[at] ?? 0) - (times[at - 1] ?? 0) - step) > step * 0.05) return false;
    return true;
  });
}
