import * as THREE from 'three';
import { documentFromThree } from '../../kinds/model/from-three.ts';
import { unitsNotSaid, type ModelDocument } from '../../kinds/model/model-document.ts';
import type { Part } from './model-parts.ts';
import type { SheetBone, SheetMaterial, SheetModel } from './model.ts';

/** A model that a sheet made, in the canonical form, with the pictures that it names. */
export async function sheetDocument(
  model: SheetModel,
  resolve: (name: string) => Promise<Uint8Array | null>,
): Promise<ModelDocument> {
  const names = new Set(model.materials.flatMap(({ textures }) => Object.values(textures)));
  const pictures = new Map<string, Uint8Array>();
  const missing: string[] = [];
  for (const name of names) {
    const bytes = await resolve(name);
    if (bytes) pictures.set(name, bytes);
    else missing.push(name);
  }
  const { metresPerUnit, up } = model;
  const bones = model.bones?.length ? bonesOf(model.bones, model.isInModelSpace) : null;
  return {
    document: documentFromThree(rootOf(model, bones), clipsOf(model, bones ?? []), pictures),
    missing,
    units: metresPerUnit === null ? unitsNotSaid : `${metresPerUnit} m to a unit, ${up} up`,
  };
}

function rootOf(model: SheetModel, bones: readonly THREE.Bone[] | null): THREE.Object3D {
  const { parts, metresPerUnit, up } = model;
  const materials = model.materials.map((material) => ({ ...material, made: materialOf(material) }));
  const holder = new THREE.Group();
  if (up === 'Z') holder.rotation.x = -Math.PI / 2;
  if (up === '-Z') holder.rotation.x = Math.PI / 2;
  if (metresPerUnit !== null) holder.scale.setScalar(metresPerUnit);
  for (const bone of bones ?? []) if (!bone.parent) holder.add(bone);
  holder.updateMatrixWorld(true);
  const skeleton = bones && new THREE.Skeleton([...bones]);
  for (const part of parts) {
    const { material } = part;
    const worn =
      typeof material === 'string' ? materials.find(({ name }) => name === material) : materials[material];
    const name = typeof material === 'string' ? material : '';
    // Points that wear nothing have what readers of point clouds give them.
    const plain = part.indices || name !== '' ? plainMaterial(name) : new THREE.PointsMaterial();
    holder.add(meshOf(part, worn?.made ?? plain, skeleton));
  }
  const [only] = holder.children;
  // One part alone is the model itself, as readers of single meshes have it.
  return only && holder.children.length === 1 && up === 'Y' && metresPerUnit === null && !bones
    ? only
    : holder;
}

function plainMaterial(name: string): THREE.MeshStandardMaterial {
  const material = new THREE.MeshStandardMaterial({ color: 0xcccccc });
  material.name = name;
  return material;
}

function materialOf({ name, colour, textures }: SheetMaterial): THREE.MeshStandardMaterial {
  const material = plainMaterial(name);
  if (colour) {
    material.color.setRGB(colour[0] ?? 0, colour[1] ?? 0, colour[2] ?? 0);
    material.opacity = colour[3] ?? 1;
  }
  for (const role of ['map', 'normalMap', 'emissiveMap'] as const) {
    const file = textures[role];
    if (file === undefined) continue;
    const texture = new THREE.Texture();
    texture.userData = { file };
    material[role] = texture;
  }
  return material;
}

function bonesOf(bones: readonly SheetBone[], isInModelSpace: boolean): THREE.Bone[] {
  const made = bones.map(({ name }) => {
    const bone = new THREE.Bone();
    bone.name = name;
    return bone;
  });
  const places = bones.map(({ place }) =>
    'matrix' in place
      ? new THREE.Matrix4().fromArray(place.matrix)
      : new THREE.Matrix4().compose(
          new THREE.Vector3().fromArray(place.position),
          new THREE.Quaternion().fromArray(place.rotation).normalize(),
          new THREE.Vector3().fromArray(place.scale),
        ),
  );
  bones.forEach(({ parent }, at) => {
    const [bone, place, above] = [made[at], places[at], places[parent]];
    if (!bone || !place) return;
    const local = isInModelSpace && above ? above.clone().invert().multiply(place) : place;
    local.decompose(bone.position, bone.quaternion, bone.scale);
    made[parent]?.add(bone);
  });
  return made;
}

function meshOf(
  { attributes, indices, name }: Part,
  material: THREE.MeshStandardMaterial | THREE.PointsMaterial,
  skeleton: THREE.Skeleton | null,
): THREE.Object3D {
  const geometry = new THREE.BufferGeometry();
  for (const { name: key, size, values } of attributes)
    geometry.setAttribute(key, new THREE.BufferAttribute(values, size));
  let object: THREE.Object3D;
  if (!indices) object = new THREE.Points(geometry, material);
  else {
    geometry.setIndex(new THREE.BufferAttribute(indices, 1));
    if (skeleton && geometry.hasAttribute('skinIndex')) {
      const skinned = new THREE.SkinnedMesh(geometry, material);
      skinned.bind(skeleton, new THREE.Matrix4());
      object = skinned;
    } else object = new THREE.Mesh(geometry, material);
  }
  object.name = name;
  return object;
}

function clipsOf({ clips }: SheetModel, bones: readonly THREE.Bone[]): THREE.AnimationClip[] {
  return clips.map(({ name, tracks }) => {
    const made = tracks.map(({ bone, property, times, values }) => {
      const Track = property === 'quaternion' ? THREE.QuaternionKeyframeTrack : THREE.VectorKeyframeTrack;
      return new Track(`${bones[bone]?.uuid ?? ''}.${property}`, times, values);
    });
    return new THREE.AnimationClip(name, -1, made);
  });
}
