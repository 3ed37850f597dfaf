import {
  Document,
  type Accessor,
  type Material,
  type Mesh,
  type Node,
  type Primitive,
  type Texture,
} from '@gltf-transform/core';
import * as THREE from 'three';
import { weld, type Attribute } from './weld.ts';

/** Bytes of the pictures that materials name, by name. */
export type Pictures = ReadonlyMap<string, Uint8Array>;

/**
 * The canonical form of what three's loaders give: nodes, meshes with all their attributes, materials, skins, morph
 * targets and clips. Their meshes have three corners of their own for each triangle; equal ones become one vertex.
 * @param pictures of the textures that were loaded by name, see `withoutLoading`
 */
export function documentFromThree(
  root: THREE.Object3D,
  clips: readonly THREE.AnimationClip[],
  pictures: Pictures,
): Document {
  return new Conversion(pictures).convert(root, clips);
}

/** Whether a texture's file is inside the model itself. */
export function isEmbedded(file: string): boolean {
  return file.startsWith('blob:') || file.startsWith('data:');
}

/**
 * Runs a loader, which must not wait for anything, so that the textures that it asks for are named and not loaded, and
 * what it has to say goes nowhere.
 */
export function withoutLoading<Result>(work: () => Result): Result {
  const prototypes = [THREE.TextureLoader.prototype, THREE.DataTextureLoader.prototype];
  // eslint-disable-next-line @typescript-eslint/unbound-method
  const loads = prototypes.map(({ load }) => load);
  const say = THREE.getConsoleFunction();
  for (const prototype of prototypes)
    prototype.load = ((url: string) => {
      const texture = new THREE.Texture();
      texture.userData = {
        file: isEmbedded(url) ? url : url.replaceAll('\\', '/').replace(/^file:\/\/|^\.\//, ''),
      };
      return texture;
    }) as never;
  THREE.setConsoleFunction(() => undefined);
  try {
    return work();
  } finally {
    prototypes.forEach((prototype, at) => (prototype.load = loads[at] as never));
    THREE.setConsoleFunction(say);
  }
}

class Conversion {
  private readonly document = new Document();
  private readonly buffer = this.document.createBuffer();
  private readonly nodes = new Map<THREE.Object3D, Node>();
  private readonly materials = new Map<THREE.Material, Material>();
  private readonly textures = new Map<string, Texture>();
  private readonly meshes = new Map<string, Mesh>();
  private readonly pictures: Pictures;

  constructor(pictures: Pictures) {
    this.pictures = pictures;
  }

  convert(root: THREE.Object3D, clips: readonly THREE.AnimationClip[]): Document {
    root.updateMatrixWorld(true);
    this.document.createScene(root.name).addChild(this.node(root));
    root.traverse((object) => {
      if (object instanceof THREE.SkinnedMesh) this.skin(object as THREE.SkinnedMesh);
    });
    for (const clip of clips) this.clip(root, clip);
    return this.document;
  }

  private node(object: THREE.Object3D): Node {
    if (!object.matrixAutoUpdate) object.matrix.decompose(object.position, object.quaternion, object.scale);
    const { position, quaternion, scale } = object;
    const node = this.document
      .createNode(object.name)
      .setTranslation([position.x, position.y, position.z])
      .setRotation([quaternion.x, quaternion.y, quaternion.z, quaternion.w])
      .setScale([scale.x, scale.y, scale.z]);
    this.nodes.set(object, node);
    if (object instanceof THREE.Mesh || object instanceof THREE.Points || object instanceof THREE.Line)
      node.setMesh(this.mesh(object as THREE.Mesh));
    for (const child of object.children) node.addChild(this.node(child));
    return node;
  }

  private mesh(object: THREE.Mesh): Mesh {
    const materials = ([] as THREE.Material[]).concat(object.material);
    const key = `${object.geometry.uuid} ${materials.map(({ uuid }) => uuid).join()}`;
    const known = this.meshes.get(key);
    if (known) return known;
    const mesh = this.document.createMesh(object.name || object.geometry.name);
    this.meshes.set(key, mesh);
    const { geometry } = object;
    const count = geometry.getIndex()?.count ?? geometry.getAttribute('position')?.count ?? 0;
    // Several materials cut the geometry into groups.
    const groups =
      materials.length > 1 && geometry.groups.length > 0
        ? geometry.groups
        : [{ start: 0, count, materialIndex: 0 }];
    for (const group of groups) {
      const primitive = this.primitive(object, group.start, Math.min(group.count, count - group.start));
      const material = materials[group.materialIndex ?? 0];
      if (primitive) mesh.addPrimitive(primitive.setMaterial(material ? this.material(material) : null));
    }
    return mesh;
  }

  private primitive(object: THREE.Mesh, start: number, count: number): Primitive | null {
    if (count <= 0) return null;
    const { geometry } = object;
    const corners = new Uint32Array(count);
    const index = geometry.getIndex();
    for (let corner = 0; corner < count; corner++)
      corners[corner] = index ? index.getX(start + corner) : start + corner;
    const attributes = attributesOf(geometry);
    if (!attributes.some(({ name }) => name === 'POSITION')) return null;
    const { indices, kept } = weld(attributes, corners);
    const primitive = this.document.createPrimitive().setMode(modeOf(object));
    primitive.setIndices(this.accessor('SCALAR', indices));
    for (const { name, size, values, isInteger } of attributes) {
      const picked = isInteger ? new Uint16Array(kept.length * size) : new Float32Array(kept.length * size);
      kept.forEach((from, to) => {
        for (let part = 0; part < size; part++) picked[to * size + part] = values[from * size + part] ?? 0;
      });
      primitive.setAttribute(name, this.accessor(size === 2 ? 'VEC2' : size === 3 ? 'VEC3' : 'VEC4', picked));
    }
    const base = geometry.getAttribute('position');
    for (const [at, target] of (geometry.morphAttributes.position ?? []).entries()) {
      const moved = new Float32Array(kept.length * 3);
      kept.forEach((from, to) => {
        for (const [axis, read] of axes.entries())
          moved[to * 3 + axis] = read(target, from) - (geometry.morphTargetsRelative ? 0 : read(base, from));
      });
      const name = target.name || `morph ${at + 1}`;
      primitive.addTarget(
        this.document.createPrimitiveTarget(name).setAttribute('POSITION', this.accessor('VEC3', moved)),
      );
    }
    return primitive;
  }

  private accessor(
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
    array: Float32Array | Uint16Array | Uint32Array,
  ): Accessor {
    return this.document.createAccessor().setType(type).setArray(array).setBuffer(this.buffer);
  }

  private material(material: THREE.Material): Material {
    const known = this.materials.get(material);
    if (known) return known;
    const made = this.document.createMaterial(material.name);
    this.materials.set(material, made);
    const { color, map, normalMap, emissive, emissiveMap, roughness, metalness, opacity, side } =
      material as Partial<THREE.MeshStandardMaterial>;
    if (color) made.setBaseColorFactor([color.r, color.g, color.b, opacity ?? 1]);
    if (emissive) made.setEmissiveFactor([emissive.r, emissive.g, emissive.b]);
    made.setRoughnessFactor(roughness ?? 0.8).setMetallicFactor(metalness ?? 0);
    made.setDoubleSided(side === THREE.DoubleSide);
    made
      .setBaseColorTexture(this.texture(map))
      .setNormalTexture(this.texture(normalMap))
      .setEmissiveTexture(this.texture(emissiveMap));
    return made;
  }

  private texture(texture: THREE.Texture | null | undefined): Texture | null {
    const file: unknown = texture?.userData.file;
    if (typeof file !== 'string') return null;
    const known = this.textures.get(file);
    if (known) return known;
    const made = this.document
      .createTexture(texture?.name || (isEmbedded(file) ? '' : file))
      .setURI(isEmbedded(file) ? '' : file);
    const bytes = this.pictures.get(file);
    if (bytes) made.setImage(bytes).setMimeType(mimeTypeOf(bytes));
    this.textures.set(file, made);
    return made;
  }

  private skin({ skeleton, bindMatrix }: THREE.SkinnedMesh): void {
    const owners = [...this.nodes].filter(
      ([object]) => object instanceof THREE.SkinnedMesh && object.skeleton === skeleton,
    );
    if (owners.some(([, node]) => node.getSkin())) return;
    const skin = this.document.createSkin();
    const matrices = new Float32Array(skeleton.bones.length * 16);
    skeleton.bones.forEach((bone, at) => {
      const joint = this.nodes.get(bone);
      if (joint) skin.addJoint(joint);
      new THREE.Matrix4()
        .multiplyMatrices(skeleton.boneInverses[at] ?? new THREE.Matrix4(), bindMatrix)
        .toArray(matrices, at * 16);
    });
    if (skin.listJoints().length !== skeleton.bones.length) {
      skin.dispose();
      return;
    }
    skin.setInverseBindMatrices(this.accessor('MAT4', matrices));
    for (const [, node] of owners) node.setSkin(skin);
  }

  private clip(root: THREE.Object3D, { name, tracks }: THREE.AnimationClip): void {
    const animation = this.document.createAnimation(name);
    for (const track of tracks) {
      const { nodeName, propertyName } = THREE.PropertyBinding.parseTrackName(track.name);
      const object = THREE.PropertyBinding.findNode(root, nodeName) as THREE.Object3D | undefined;
      const target = object && this.nodes.get(object);
      const path = paths[propertyName];
      if (!target || !path || track.times.length === 0) continue;
      const sampler = this.document
        .createAnimationSampler()
        .setInput(this.accessor('SCALAR', Float32Array.from(track.times)))
        .setOutput(this.accessor(path === 'rotation' ? 'VEC4' : 'VEC3', Float32Array.from(track.values)));
      animation.addSampler(sampler);
      animation.addChannel(
        this.document.createAnimationChannel().setTargetNode(target).setTargetPath(path).setSampler(sampler),
      );
    }
  }
}

const paths: Readonly<Record<string, 'translation' | 'rotation' | 'scale'>> = {
  position: 'translation',
  quaternion: 'rotation',
  scale: 'scale',
};

type Values = THREE.BufferAttribute | THREE.InterleavedBufferAttribute;
const axes: readonly ((values: Values, at: number) => number)[] = [
  (values, at) => values.getX(at),
  (values, at) => values.getY(at),
  (values, at) => values.getZ(at),
  (values, at) => values.getW(at),
];

const names: Readonly<Record<string, readonly [name: string, size: number]>> = {
  position: ['POSITION', 3],
  normal: ['NORMAL', 3],
  uv: ['TEXCOORD_0', 2],
  uv1: ['TEXCOORD_1', 2],
  uv2: ['TEXCOORD_2', 2],
  color: ['COLOR_0', 4],
  skinIndex: ['JOINTS_0', 4],
  skinWeight: ['WEIGHTS_0', 4],
};

function attributesOf(geometry: THREE.BufferGeometry): Attribute[] {
  return Object.entries(geometry.attributes).flatMap(([key, attribute]) => {
    const [name, size] = names[key] ?? [];
    if (name === undefined || size === undefined) return [];
    const values = new Float32Array(attribute.count * size);
    for (let at = 0; at < attribute.count; at++)
      for (let part = 0; part < size; part++) {
        const value = part < attribute.itemSize ? (axes[part]?.(attribute, at) ?? 0) : 1;
        // These loaders count v from the bottom, glTF from the top.
        values[at * size + part] = key.startsWith('uv') && part === 1 ? 1 - value : value;
      }
    return [{ name, size, values, isInteger: key === 'skinIndex' }];
  });
}

/** Numbers of glTF 2.0, section 3.7.2.1. */
function modeOf(object: THREE.Object3D): 0 | 1 | 3 | 4 {
  if (object instanceof THREE.Points) return 0;
  if (object instanceof THREE.LineSegments) return 1;
  return object instanceof THREE.Line ? 3 : 4;
}

function mimeTypeOf(bytes: Uint8Array): string {
  return bytes[0] === 0xff ? 'image/jpeg' : bytes[0] === 0x89 ? 'image/png' : 'application/octet-stream';
}
