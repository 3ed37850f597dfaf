import type { Document } from '@gltf-transform/core';
import { mergeDocuments, unpartition } from '@gltf-transform/functions';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { ModelDocument } from '../model-document.ts';
import { openModel } from '../read.ts';

/** Opens a model beside one that is written, by the path that it is named with. @throws ReadError where it is not there */
export async function openBeside(request: ReadRequest, path: string): Promise<ModelDocument> {
  const bytes = await request.resolve(path);
  if (!bytes) throw new ReadError(`${path} is not there`);
  return openModel({
    ...request,
    ...{ bytes, path, size: bytes.length, bySheet: undefined },
    part: (start, end) => bytes.subarray(start, end),
  });
}

/** Puts other models into a document, into one scene. @returns whether a picture of theirs is missing */
export async function mergeModels(
  document: Document,
  request: ReadRequest,
  paths: readonly string[],
): Promise<boolean> {
  let isMissing = false;
  for (const path of paths) {
    const other = await openBeside(request, path);
    isMissing ||= other.missing.length > 0;
    const root = document.getRoot();
    const before = new Set(root.listScenes());
    const scene = root.getDefaultScene() ?? root.listScenes()[0] ?? document.createScene();
    mergeDocuments(document, other.document);
    for (const added of root.listScenes()) {
      if (before.has(added) || added === scene) continue;
      for (const node of added.listChildren()) scene.addChild(node);
      added.dispose();
    }
    root.setDefaultScene(scene);
  }
  if (paths.length > 0) await document.transform(unpartition());
  return isMissing;
}
