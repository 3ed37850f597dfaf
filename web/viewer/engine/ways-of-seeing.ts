import {
  BufferAttribute,
  BufferGeometry,
  DataTexture,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  MeshNormalMaterial,
  NearestFilter,
  RepeatWrapping,
  SRGBColorSpace,
  SkinnedMesh,
  Vector3,
  type Material,
  type Texture,
} from 'three';
import { colourOfDistance } from '../../../core/kinds/model/compare/distance-colour.ts';
import type { TextureRole } from '../../../contract/texture-sets.ts';
import { nodeName } from './node-name.ts';
import { roleTexturesOf, type RoleTextures } from './worn-textures.ts';
import { texelDensity, triangleDensity, type ShapeWithUvs } from '../../../core/kinds/model/parts/density.ts';

/** Ways of seeing a model, as the address names them. */
export const waysOfSeeing = {
  textured: 'As it looks',
  grey: 'Plain grey',
  normals: 'Normals',
  checker: 'UV checker',
  colours: 'Vertex colours',
  'base-colour': 'Base colour alone',
  'normal-map': 'Normal texture alone',
  roughness: 'Roughness alone',
  metalness: 'Metalness alone',
  occlusion: 'Occlusion alone',
  emission: 'Emission alone',
  gloss: 'Gloss alone',
  specular: 'Specular alone',
  opacity: 'Opacity alone',
  scatter: 'Scatter alone',
  'tint-mask': 'Tint mask alone',
  height: 'Height alone',
  weights: 'Weights of a bone',
  triangles: 'Density of triangles',
  texels: 'Density of textures',
} as const;
export type WayOfSeeing = keyof typeof waysOfSeeing;

export function isWayOfSeeing(name: string): name is WayOfSeeing {
  return Object.hasOwn(waysOfSeeing, name);
}

/** What the colours of a density mean: from the palest to the darkest. */
export interface Legend {
  low: number;
  high: number;
  unit: string;
}

/** Ways that show the pictures of one role, as they are. */
const roles: Partial<Record<WayOfSeeing, TextureRole>> = {
  'base-colour': 'base colour',
  'normal-map': 'normal',
  roughness: 'roughness',
  metalness: 'metalness',
  occlusion: 'occlusion',
  emission: 'emission',
  gloss: 'gloss',
  specular: 'specular',
  opacity: 'opacity',
  scatter: 'scatter',
  'tint-mask': 'tint mask',
  height: 'height',
};

/** Ways in which something of these meshes can be seen. */
export function possibleWays(meshes: readonly Mesh[]): WayOfSeeing[] {
  const has = (test: (mesh: Mesh) => boolean): boolean => meshes.some(test);
  const hasAttribute = (name: string) => has(({ geometry }) => geometry.hasAttribute(name));
  const possible: Partial<Record<WayOfSeeing, boolean>> = {
    checker: hasAttribute('uv'),
    colours: hasAttribute('color'),
    weights: has((mesh) => mesh instanceof SkinnedMesh),
    texels: hasAttribute('uv') && has((mesh) => roleOf(mesh.material, 'base colour') !== null),
  };
  return (Object.keys(waysOfSeeing) as WayOfSeeing[]).filter((way) => {
    const role = roles[way];
    if (role) return has((mesh) => roleOf(mesh.material, role) !== null);
    return possible[way] ?? true;
  });
}

function roleOf(
  worn: Material | Material[],
  role: TextureRole,
): NonNullable<RoleTextures[TextureRole]> | null {
  const [material] = [worn].flat();
  return roleTexturesOf(material)[role] ?? null;
}

interface Kept {
  material: Material | Material[];
  geometry: BufferGeometry;
}

/** Shows meshes otherwise than their materials would, and gives these back. */
export class WaysOfSeeing {
  private readonly kept = new Map<Mesh, Kept>();
  private made: { dispose(): void }[] = [];

  /** @returns what the colours mean, where they mean numbers */
  show(meshes: readonly Mesh[], way: WayOfSeeing, bone: string | null): Legend | null {
    this.restore();
    if (way === 'textured') return null;
    for (const mesh of meshes) this.kept.set(mesh, { material: mesh.material, geometry: mesh.geometry });
    const legend = way === 'triangles' || way === 'texels' ? this.paintDensity(meshes, way) : null;
    for (const mesh of meshes) {
      if (way === 'weights') this.paint(mesh, weightsOf(mesh, bone));
      const material = this.materialFor(mesh, way);
      this.made.push(material);
      mesh.material = material;
    }
    return legend;
  }

  /** What meshes wear by themselves. */
  ownMaterial(mesh: Mesh): Material | Material[] {
    return this.kept.get(mesh)?.material ?? mesh.material;
  }

  restore(): void {
    for (const [mesh, { material, geometry }] of this.kept) {
      mesh.material = material;
      mesh.geometry = geometry;
    }
    this.kept.clear();
    for (const one of this.made) one.dispose();
    this.made = [];
  }

  private materialFor(mesh: Mesh, way: WayOfSeeing): Material {
    const [own] = [this.ownMaterial(mesh)].flat();
    const side = { side: own?.side ?? 0 } as const;
    const role = roles[way];
    switch (way) {
      case 'grey':
        return new MeshLambertMaterial({ color: 0xb9b8ae, ...side });
      case 'normals':
        return new MeshNormalMaterial(side);
      case 'checker':
        return new MeshBasicMaterial({ map: this.keep(checker()), ...side });
      case 'colours':
        return new MeshBasicMaterial({ vertexColors: mesh.geometry.hasAttribute('color'), ...side });
      case 'weights':
      case 'triangles':
      case 'texels':
        return new MeshBasicMaterial({ vertexColors: true, ...side });
      default: {
        const found = role ? roleOf(this.ownMaterial(mesh), role) : null;
        // Without one of this role: the middle of nothing.
        if (!found) return new MeshBasicMaterial({ color: 0x8d8d86, ...side });
        return this.rawTexture(found.texture, found.channel, side);
      }
    }
  }

  /** A picture, or one of its channels, with the values that it has: in and out by one curve. */
  private rawTexture(texture: Texture, channel: string | null, side: { side: Material['side'] }): Material {
    const raw = this.keep(texture.clone());
    raw.colorSpace = SRGBColorSpace;
    raw.needsUpdate = true;
    const material = new MeshBasicMaterial({ map: raw, ...side });
    if (channel !== null) {
      material.onBeforeCompile = (shader) => {
        shader.fragmentShader = shader.fragmentShader.replace(
          '#include <map_fragment>',
          `#include <map_fragment>\ndiffuseColor.rgb = vec3(diffuseColor.${channel});`,
        );
      };
      material.customProgramCacheKey = () => `channel ${channel}`;
    }
    return material;
  }

  private paintDensity(meshes: readonly Mesh[], way: 'triangles' | 'texels'): Legend {
    const densities = meshes.map((mesh) => {
      const shape = shapeInMetres(mesh);
      if (way === 'triangles') return triangleDensity(shape);
      const image = roleOf(this.ownMaterial(mesh), 'base colour')?.texture.image as
        { width?: number; height?: number } | undefined;
      return texelDensity(image ? shape : { ...shape, uvs: null }, image?.width ?? 0, image?.height ?? 0);
    });
    let [low, high] = [Infinity, 0];
    for (const values of densities)
      for (const value of values) {
        if (!(value > 0)) continue;
        low = Math.min(low, value);
        high = Math.max(high, value);
      }
    if (high === 0) low = high = 1;
    const span = Math.log(high / low) || 1;
    meshes.forEach((mesh, at) => {
      const shares = densities[at]?.map((value) => (value > 0 ? Math.log(value / low) / span : -1));
      this.paint(mesh, shares ?? new Float32Array());
    });
    return { low, high, unit: way === 'triangles' ? 'triangles to a square metre' : 'texels to a metre' };
  }

  /** Colours of numbers from 0 to 1, and of nothing below 0, on a geometry that shares everything else with the mesh's own. */
  private paint(mesh: Mesh, shares: Float32Array): void {
    const own = mesh.geometry;
    const painted = new BufferGeometry();
    for (const [name, attribute] of Object.entries(own.attributes)) painted.setAttribute(name, attribute);
    painted.setIndex(own.getIndex());
    painted.morphAttributes = own.morphAttributes;
    painted.morphTargetsRelative = own.morphTargetsRelative;
    for (const { start, count, materialIndex } of own.groups) painted.addGroup(start, count, materialIndex);
    const colours = new Float32Array(shares.length * 3);
    shares.forEach((share, at) => colours.set(share < 0 ? ofNothing : colourOfDistance(share, 1), at * 3));
    painted.setAttribute('color', new BufferAttribute(colours, 3));
    mesh.geometry = painted;
    this.made.push({ dispose: () => painted.deleteAttribute('color') });
  }

  private keep<Made extends { dispose(): void }>(one: Made): Made {
    this.made.push(one);
    return one;
  }
}

/** How much each vertex follows a bone, 0 to 1; nothing where none is chosen. */
function weightsOf(mesh: Mesh, bone: string | null): Float32Array {
  const { geometry } = mesh;
  const shares = new Float32Array(geometry.getAttribute('position').count);
  const [joints, weights] = [geometry.getAttribute('skinIndex'), geometry.getAttribute('skinWeight')];
  if (!(mesh instanceof SkinnedMesh) || bone === null) return shares;
  const wanted = mesh.skeleton.bones.findIndex((one) => nodeName(one) === bone);
  for (let vertex = 0; vertex < shares.length; vertex++)
    for (let at = 0; at < 4; at++)
      if (joints.getComponent(vertex, at) === wanted)
        shares[vertex] = (shares[vertex] ?? 0) + weights.getComponent(vertex, at);
  return shares;
}

/** Corners where they stand, at rest. */
function shapeInMetres(mesh: Mesh): ShapeWithUvs {
  const { geometry } = mesh;
  const position = geometry.getAttribute('position');
  const [uv, index] = [geometry.getAttribute('uv'), geometry.getIndex()];
  const positions = new Float32Array(position.count * 3);
  const corner = new Vector3();
  mesh.updateWorldMatrix(true, false);
  for (let at = 0; at < position.count; at++)
    corner
      .fromBufferAttribute(position, at)
      .applyMatrix4(mesh.matrixWorld)
      .toArray(positions, at * 3);
  const uvs = (uv as typeof uv | undefined) ? new Float32Array(position.count * 2) : null;
  if (uvs) for (let at = 0; at < position.count; at++) uvs.set([uv.getX(at), uv.getY(at)], at * 2);
  return { positions, uvs, indices: index ? index.array : null };
}

/** Of what has no density, in linear light. */
const ofNothing = [0.2, 0.21, 0.21];

const squares = 16;

/** Squares in two papers and two inks, so that turned and mirrored UVs show. */
function checker(): DataTexture {
  const pixels = new Uint8Array(squares * squares * 4);
  for (let y = 0; y < squares; y++)
    for (let x = 0; x < squares; x++) {
      const isDark = (x + y) % 2 === 1;
      const across = Math.round((x / (squares - 1)) * 110);
      const down = Math.round((y / (squares - 1)) * 110);
      const colour = isDark ? [40 + across, 70, 60 + down] : [145 + across, 225, 145 + down];
      pixels.set([...colour, 255], (y * squares + x) * 4);
    }
  const texture = new DataTexture(pixels, squares, squares);
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.magFilter = NearestFilter;
  texture.colorSpace = SRGBColorSpace;
  texture.needsUpdate = true;
  return texture;
}
