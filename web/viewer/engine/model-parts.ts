import { Mesh, type BufferGeometry, type MeshStandardMaterial, type Object3D } from 'three';
import { isClosed } from '../../../core/kinds/model/parts/closed.ts';
import { canBeMoved } from './moved-parts.ts';
import { nodeName } from './node-name.ts';
import { helperShapes, type Helper } from '../../../core/kinds/model/parts/helper-shapes.ts';

/** A part of a model, as lists show it. */
export interface PartEntry {
  /** Place in the order of the file: the same each time it is opened. */
  id: number;
  name: string;
  /** Names of the nodes that it hangs on, from the outermost, without those that say nothing. */
  above: readonly string[];
  material: string;
  triangles: number;
  vertices: number;
  /** Whether it can be moved by itself: what is skinned follows its bones. */
  isMovable: boolean;
  /** What it is, where it is no part that players see. */
  helper: Helper | null;
}

export interface ModelPart {
  entry: PartEntry;
  mesh: Mesh;
}

/** The parts of a model, each mesh one. */
export function partsOf(model: Object3D): ModelPart[] {
  const meshes: Mesh<BufferGeometry>[] = [];
  model.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object as Mesh<BufferGeometry>);
  });
  const known = meshes.map((mesh, id) => {
    const { geometry } = mesh;
    const [material] = [mesh.material].flat();
    const vertices = geometry.getAttribute('position').count;
    const triangles = Math.floor((geometry.getIndex()?.count ?? vertices) / 3);
    const above = namesAbove(mesh, model);
    const name = nodeName(mesh) || above[above.length - 1] || `part ${id + 1}`;
    return {
      ...{ id, mesh, name, above, material: material?.name ?? '', vertices, triangles },
      isMovable: canBeMoved(mesh),
    };
  });
  const helpers = helperShapes(
    known.map(({ mesh: { geometry, material: worn }, ...part }) => {
      const [material] = [worn].flat();
      return {
        ...part,
        hasUvs: geometry.hasAttribute('uv'),
        hasTexture: Boolean((material as MeshStandardMaterial | undefined)?.map),
        isClosed: () => isClosed(geometry.getAttribute('position').array, geometry.getIndex()?.array ?? null),
      };
    }),
  );
  return known.map(({ mesh, ...entry }, at) => ({ mesh, entry: { ...entry, helper: helpers[at] ?? null } }));
}

function namesAbove(mesh: Object3D, root: Object3D): string[] {
  const names: string[] = [];
  for (let node = mesh.parent; node && node !== root.parent; node = node.parent)
    if (nodeName(node) !== '' && nodeName(node) !== nodeName(mesh)) names.unshift(nodeName(node));
  return names;
}
