import {
  Color,
  LinearSRGBColorSpace,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  RepeatWrapping,
  ShaderChunk,
  SRGBColorSpace,
  TextureLoader,
  type Material,
  type Mesh,
  type MeshBasicMaterial,
  type Texture,
} from 'three';
import type { Channel, TextureRole } from '../../../contract/texture-sets.ts';
import { spaceOfRole } from '../../../core/names/texture-sets.ts';
import type { ModelPart } from './model-parts.ts';

/** A material, with the pictures that its file gives it. */
export interface MaterialEntry {
  name: string;
  /** Places of the parts that wear it. */
  parts: number[];
  /** Names of pictures by role; empty where a picture has none. */
  textures: { role: string; name: string }[];
}

/** A picture that a role of a material has instead of its own. */
export interface WornTexture {
  material: string;
  role: TextureRole;
  /** Null where the role has none. */
  address: string | null;
  /** Which channel of it is meant; null for the one that the role has by itself, or for all. */
  channel: Channel | null;
  /** What a tint mask is filled with, as a number of 24 bits. */
  tint: number | null;
}

/** The pictures of a material by role: what ways of seeing show of it. */
export type RoleTextures = Partial<Record<TextureRole, { texture: Texture; channel: Channel | null }>>;

type Slot = 'map' | 'normalMap' | 'roughnessMap' | 'metalnessMap' | 'aoMap' | 'emissiveMap' | 'alphaMap';
const slots: Partial<Record<TextureRole, { slot: Slot; channel: Channel | null }>> = {
  'base colour': { slot: 'map', channel: null },
  normal: { slot: 'normalMap', channel: null },
  roughness: { slot: 'roughnessMap', channel: 'g' },
  metalness: { slot: 'metalnessMap', channel: 'b' },
  occlusion: { slot: 'aoMap', channel: 'r' },
  emission: { slot: 'emissiveMap', channel: null },
  opacity: { slot: 'alphaMap', channel: 'g' },
};

/** Pictures of a material by role: those that it was dressed in, and its file’s own (glTF 2.0, 3.9). */
export function roleTexturesOf(material: Material | undefined): RoleTextures {
  const found: RoleTextures = {};
  for (const [role, { slot, channel }] of Object.entries(slots) as [
    TextureRole,
    { slot: Slot; channel: Channel | null },
  ][]) {
    const texture = (material as MeshStandardMaterial | undefined)?.[slot];
    if (texture) found[role] = { texture, channel };
  }
  return { ...found, ...(material?.userData.roles as RoleTextures | undefined) };
}

/** Dresses the materials of a model in other pictures than its file says, and gives back what they wore. */
export class WornTextures {
  private readonly own = new Map<Mesh, Material | Material[]>();
  private readonly loader = new TextureLoader();
  private readonly textures = new Map<string, Promise<Texture>>();
  private loaded = new Map<string, Texture>();
  private dressed: Material[] = [];
  private turn = 0;

  /** Takes note of what a model that has come wears. */
  begin(parts: readonly ModelPart[]): { materials: MaterialEntry[]; fileVariants: string[] } {
    const materials = new Map<string, MaterialEntry>();
    const variants = new Set<string>();
    for (const { mesh, entry } of parts) {
      this.own.set(mesh, mesh.material);
      for (const name of Object.keys(variantsOf(mesh))) variants.add(name);
      for (const material of [mesh.material].flat()) {
        const known = materials.get(material.name);
        if (known) {
          if (!known.parts.includes(entry.id)) known.parts.push(entry.id);
          continue;
        }
        materials.set(material.name, {
          name: material.name,
          parts: [entry.id],
          textures: Object.entries(roleTexturesOf(material)).map(([role, { texture }]) => ({
            role,
            name: texture.name,
          })),
        });
      }
    }
    return { materials: [...materials.values()], fileVariants: [...variants] };
  }

  /**
   * Loads what is to be worn. @returns why pictures cannot be worn, each once; null where something else is asked for by now
   */
  async load(textures: readonly WornTexture[]): Promise<string[] | null> {
    const turn = ++this.turn;
    const failures = new Set<string>();
    const loaded = new Map<string, Texture>();
    await Promise.all(
      textures.map(async ({ address, role }) => {
        if (address === null) return;
        const key = keyOf(address, role);
        try {
          loaded.set(key, await this.texture(key, address, role));
        } catch {
          this.textures.delete(key);
          failures.add(
            `${decodeURIComponent(address.slice(address.lastIndexOf('/') + 1))} could not be loaded`,
          );
        }
      }),
    );
    if (turn !== this.turn) return null;
    this.loaded = loaded;
    return [...failures];
  }

  /** Dresses all parts anew; what was loaded before is there. */
  dress(parts: readonly ModelPart[], textures: readonly WornTexture[], fileVariant: string | null): void {
    this.undress();
    const byMaterial = new Map<string, WornTexture[]>();
    for (const one of textures) byMaterial.set(one.material, [...(byMaterial.get(one.material) ?? []), one]);
    const made = new Map<Material, Material>();
    const dress = (material: Material): Material => {
      const worn = byMaterial.get(material.name);
      if (!worn) return material;
      const known = made.get(material) ?? this.dressedIn(material, worn);
      made.set(material, known);
      return known;
    };
    for (const { mesh } of parts) {
      const own = this.own.get(mesh) ?? mesh.material;
      const chosen = fileVariant === null ? own : (variantsOf(mesh)[fileVariant] ?? own);
      mesh.material = Array.isArray(chosen) ? chosen.map(dress) : dress(chosen);
    }
  }

  /** Gives back what was loaded: another model comes. */
  clear(): void {
    this.turn++;
    this.undress();
    for (const mesh of this.own.keys())
      for (const material of Object.values(variantsOf(mesh))) {
        for (const { texture } of Object.values(roleTexturesOf(material))) texture.dispose();
        material.dispose();
      }
    this.own.clear();
    for (const texture of this.textures.values())
      void texture.then((one) => one.dispose()).catch(() => undefined);
    this.textures.clear();
    this.loaded.clear();
  }

  private undress(): void {
    for (const [mesh, material] of this.own) mesh.material = material;
    for (const material of this.dressed) material.dispose();
    this.dressed = [];
  }

  private texture(key: string, address: string, role: TextureRole): Promise<Texture> {
    const known = this.textures.get(key);
    if (known) return known;
    const loading = this.loader.loadAsync(address).then((texture) => {
      // As glTF has them: the first row is the upper one.
      texture.flipY = false;
      texture.wrapS = texture.wrapT = RepeatWrapping;
      texture.colorSpace = spaceOfRole(role) === 'sRGB' ? SRGBColorSpace : LinearSRGBColorSpace;
      texture.needsUpdate = true;
      return texture;
    });
    this.textures.set(key, loading);
    return loading;
  }

  private dressedIn(own: Material, worn: readonly WornTexture[]): Material {
    const material = copyOf(own, worn);
    const roles: RoleTextures = {};
    const fromChannels: Fragment[] = [];
    for (const { role, address, channel, tint } of worn) {
      const texture = address === null ? null : (this.loaded.get(keyOf(address, role)) ?? null);
      if (texture) roles[role] = { texture, channel };
      // What could not be loaded leaves what was there.
      if (address !== null && !texture) continue;
      put(material, role, texture);
      if (texture) fromChannels.push(...fragmentsFor(role, channel, texture, tint));
    }
    material.userData = { ...own.userData, roles };
    applyFragments(material, fromChannels);
    this.dressed.push(material);
    return material;
  }
}

function keyOf(address: string, role: TextureRole): string {
  return `${spaceOfRole(role)} ${address}`;
}

function variantsOf(mesh: Mesh): Record<string, Material> {
  return (mesh.userData.variantMaterials as Record<string, Material> | undefined) ?? {};
}

/** Only one sort of material has colours of reflection. */
function copyOf(own: Material, worn: readonly WornTexture[]): Material {
  const hasSpecular = worn.some(({ role, address }) => role === 'specular' && address !== null);
  if (!hasSpecular || !(own instanceof MeshStandardMaterial) || own instanceof MeshPhysicalMaterial)
    return own.clone();
  const physical = new MeshPhysicalMaterial();
  MeshStandardMaterial.prototype.copy.call(physical, own);
  physical.defines = { STANDARD: '', PHYSICAL: '' };
  return physical;
}

/** Puts a picture where a material has its role; factors that stood for it no longer count. */
function put(material: Material, role: TextureRole, texture: Texture | null): void {
  const target = material as MeshStandardMaterial;
  const slot = role === 'gloss' ? 'roughnessMap' : slots[role]?.slot;
  if (role === 'specular' && material instanceof MeshPhysicalMaterial) material.specularColorMap = texture;
  if (slot === undefined || (!(slot in target) && slot !== 'map')) return;
  target[slot] = texture;
  if (!texture) return;
  if (role === 'base colour') (material as MeshBasicMaterial).color.set(0xffffff);
  if (role === 'roughness' || role === 'gloss') target.roughness = 1;
  if (role === 'metalness') target.metalness = 1;
  if (role === 'emission') target.emissive.set(0xffffff);
  if (role === 'opacity') Object.assign(target, { transparent: true, alphaTest: 0.02 });
}

/** A change of what is drawn: a piece of the library’s programme, and what it is instead. */
interface Fragment {
  include: string;
  text: string;
  uniforms: Record<string, { value: unknown }>;
}

const read: Partial<Record<TextureRole, { include: keyof typeof ShaderChunk; from: string; name: string }>> =
  {
    roughness: { include: 'roughnessmap_fragment', from: 'texelRoughness.g', name: 'texelRoughness' },
    gloss: { include: 'roughnessmap_fragment', from: 'texelRoughness.g', name: 'texelRoughness' },
    metalness: { include: 'metalnessmap_fragment', from: 'texelMetalness.b', name: 'texelMetalness' },
    occlusion: {
      ...{
        include: 'aomap_fragment',
        from: 'texture2D( aoMap, vAoMapUv ).r',
        name: 'texture2D( aoMap, vAoMapUv )',
      },
    },
    opacity: {
      include: 'alphamap_fragment',
      ...{ from: 'texture2D( alphaMap, vAlphaMapUv ).g', name: 'texture2D( alphaMap, vAlphaMapUv )' },
    },
  };

function fragmentsFor(
  role: TextureRole,
  channel: Channel | null,
  texture: Texture,
  tint: number | null,
): Fragment[] {
  if (role === 'tint mask') {
    if (tint === null) return [];
    const share = `texture2D( tintMask, vUv ).${channel ?? 'r'}`;
    return [
      {
        include: 'map_fragment',
        text: `${ShaderChunk.map_fragment}\ndiffuseColor.rgb = mix(diffuseColor.rgb, diffuseColor.rgb * tintColour, ${share});`,
        uniforms: { tintMask: { value: texture }, tintColour: { value: new Color(tint) } },
      },
    ];
  }
  const known = read[role];
  if (!known) return [];
  const value = `${known.name}.${channel ?? slots[role]?.channel ?? 'g'}`;
  // Gloss is how smooth a thing is, roughness how rough.
  const text = ShaderChunk[known.include].replace(
    known.from,
    role === 'gloss' ? `( 1.0 - ${value} )` : value,
  );
  return [{ include: known.include, text, uniforms: {} }];
}

function applyFragments(material: Material, fragments: readonly Fragment[]): void {
  if (fragments.length === 0) return;
  const isTinted = fragments.some(({ uniforms }) => 'tintMask' in uniforms);
  if (isTinted) material.defines = { ...material.defines, USE_UV: '' };
  material.onBeforeCompile = (shader) => {
    for (const { include, text, uniforms } of fragments) {
      shader.fragmentShader = shader.fragmentShader.replace(`#include <${include}>`, text);
      Object.assign(shader.uniforms, uniforms);
    }
    if (isTinted)
      shader.fragmentShader = `uniform sampler2D tintMask;\nuniform vec3 tintColour;\n${shader.fragmentShader}`;
  };
  const key = fragments.map(({ text }) => text).join('\n');
  material.customProgramCacheKey = () => key;
}
