import type { Document, Material, Primitive, vec3, vec4 } from '@gltf-transform/core';
import { listTextureInfoByMaterial, tangents, unweld, weld } from '@gltf-transform/functions';
import { plural } from '../../../figures.ts';
import type { Platform } from '../../reading.ts';

/**
 * Leaves in materials only what their format allows (glTF 2.0, 3.9): factors from 0 to 1, pictures that there are UVs for, and
 * tangents (MikkTSpace) where normal maps need them.
 * @param hasTangents whether the format that it goes into holds tangents
 * @returns what was done, in words
 */
export async function mendLooks(
  document: Document,
  platform: Pick<Platform, 'makeTangents'>,
  hasTangents = true,
): Promise<string[]> {
  const notes: string[] = [];
  const root = document.getRoot();
  for (const material of root.listMaterials()) keepInRange(material);
  let bare = 0;
  const shifted = new Map<Material, Material>();
  const bared = new Map<Material, Material>();
  for (const primitive of root.listMeshes().flatMap((mesh) => mesh.listPrimitives())) {
    shiftUvs(primitive, shifted);
    if (takeOffPictures(primitive, bared)) bare++;
  }
  if (bare > 0) notes.push(`pictures of ${plural(bare, 'part')} without UVs left out`);
  const count = root
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives())
    .filter(needsTangents).length;
  if (hasTangents && count > 0) {
    await document.transform(
      unweld(),
      tangents({ generateTangents: (...values) => platform.makeTangents(...values) }),
      weld(),
    );
    notes.push(`tangents made for ${plural(count, 'part')}`);
  }
  return notes;
}

function needsTangents(primitive: Primitive): boolean {
  return (
    Boolean(primitive.getMaterial()?.getNormalTexture()) &&
    !primitive.getAttribute('TANGENT') &&
    Boolean(primitive.getAttribute('NORMAL') && primitive.getAttribute('TEXCOORD_0'))
  );
}

function keepInRange(material: Material): void {
  const within = (value: number): number => Math.max(0, Math.min(1, value));
  material
    .setBaseColorFactor(material.getBaseColorFactor().map(within) as vec4)
    .setEmissiveFactor(material.getEmissiveFactor().map(within) as vec3)
    .setRoughnessFactor(within(material.getRoughnessFactor()))
    .setMetallicFactor(within(material.getMetallicFactor()));
}

/** Sets of UVs are counted from 0: where the first is missing, the others move up. */
function shiftUvs(primitive: Primitive, shifted: Map<Material, Material>): void {
  if (primitive.getAttribute('TEXCOORD_0') || !primitive.getAttribute('TEXCOORD_1')) return;
  for (let set = 1; primitive.getAttribute(`TEXCOORD_${set}`); set++) {
    primitive.setAttribute(`TEXCOORD_${set - 1}`, primitive.getAttribute(`TEXCOORD_${set}`));
    primitive.setAttribute(`TEXCOORD_${set}`, null);
  }
  const material = primitive.getMaterial();
  if (!material) return;
  const other = shifted.get(material) ?? material.clone();
  if (!shifted.has(material))
    for (const info of listTextureInfoByMaterial(other))
      info.setTexCoord(Math.max(0, info.getTexCoord() - 1));
  shifted.set(material, other);
  primitive.setMaterial(other);
}

/** @returns whether it wears less now */
function takeOffPictures(primitive: Primitive, bared: Map<Material, Material>): boolean {
  const material = primitive.getMaterial();
  if (!material || primitive.getAttribute('TEXCOORD_0')) return false;
  const hasPictures = listTextureInfoByMaterial(material).length > 0;
  if (!hasPictures) return false;
  const bare = bared.get(material) ?? withoutPictures(material.clone());
  bared.set(material, bare);
  primitive.setMaterial(bare);
  return true;
}

function withoutPictures(material: Material): Material {
  return material
    .setBaseColorTexture(null)
    .setNormalTexture(null)
    .setOcclusionTexture(null)
    .setEmissiveTexture(null)
    .setMetallicRoughnessTexture(null);
}
