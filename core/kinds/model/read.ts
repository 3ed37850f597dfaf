import { getBounds, type Document } from '@gltf-transform/core';
import type { Bounds, ModelFacts } from '../../../contract/facts.ts';
import { readingOf, type Reader } from '../reading.ts';
import { readDocument } from './document.ts';
import { renderPreview } from './render.ts';
import { triangleCount } from './triangles.ts';

export const readModel: Reader = async (request) => {
  const { document, missing } = await readDocument(request);
  return readingOf(factsOf(document, missing), { preview: await renderPreview(document, request.raster) });
};

function factsOf(document: Document, missing: string[]): ModelFacts {
  const root = document.getRoot();
  const primitives = root.listMeshes().flatMap((mesh) => mesh.listPrimitives());
  const positions = new Set(primitives.map((primitive) => primitive.getAttribute('POSITION')));
  return {
    kind: 'model',
    triangles: primitives.reduce((sum, primitive) => sum + triangleCount(primitive), 0),
    vertices: [...positions].reduce((sum, accessor) => sum + (accessor?.getCount() ?? 0), 0),
    parts: root.listMeshes().length,
    materials: root.listMaterials().length,
    textures: root.listTextures().length,
    bones: new Set(root.listSkins().flatMap((skin) => skin.listJoints())).size,
    clips: root.listAnimations().map((animation, index) => ({
      name: animation.getName() || `clip ${index + 1}`,
      // A clip ends where its last key is (common practice, no published source).
      seconds: Math.max(
        0,
        ...animation.listSamplers().map((sampler) => sampler.getInput()?.getMax([])[0] ?? 0),
      ),
    })),
    boundsMetres: boundsOf(document),
    missing,
  };
}

function boundsOf(document: Document): Bounds | null {
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  if (!scene) return null;
  const { min, max } = getBounds(scene);
  return [...min, ...max].every(Number.isFinite) ? { min, max } : null;
}
