import type { Document } from '@gltf-transform/core';
import type { ModelFacts } from './describe.ts';

/** What a format may have no place for. */
const aspects = [
  'parts',
  'materials',
  'UVs',
  'normals',
  'vertex colours',
  'bones',
  'clips',
  'nodes',
] as const;
export type Aspect = (typeof aspects)[number];

const shapeOnly: readonly Aspect[] = aspects;
const without = (...kept: readonly Aspect[]): readonly Aspect[] =>
  aspects.filter((aspect) => !kept.includes(aspect));

/**
 * What models of a format say nothing of: STL (3D Systems, 1989) and DXF have faces alone, OFF (Geomview's manual) may colour
 * them, PLY (Turk, 1994) has one list of vertices, Wavefront's OBJ and 3D Studio's files have parts that wear materials and nothing
 * that moves, 3MF's core has meshes with materials. Others hold all.
 */
const unsaidBy: Readonly<Record<string, readonly Aspect[]>> = {
  stl: shapeOnly,
  dxf: shapeOnly,
  off: without('vertex colours'),
  ply: without('UVs', 'normals', 'vertex colours'),
  obj: without('parts', 'materials', 'UVs', 'normals', 'vertex colours'),
  '3ds': without('parts', 'materials', 'UVs'),
  '3mf': without('parts', 'materials', 'vertex colours'),
};

export interface Unsaid {
  /** What only one of the two formats can say, and so cannot be compared. */
  skipped: ReadonlySet<Aspect>;
  /** What there is in the one of which the other's format says nothing, in words. */
  sentences: string[];
}

interface Side {
  format: string;
  document: Document;
  facts: ModelFacts;
}

/** Of two files of one format nothing: what one of them lacks is gone. */
export function compareUnsaid(old: Side, now: Side): Unsaid {
  if (old.format === now.format) return { skipped: new Set(), sentences: [] };
  const [before, after] = [unsaidBy[old.format] ?? [], unsaidBy[now.format] ?? []];
  return {
    skipped: new Set([...before, ...after]),
    sentences: [
      ...describe(now.format, 'says', aspectsIn(old, after, before)),
      ...describe(old.format, 'said', aspectsIn(now, before, after)),
    ],
  };
}

function describe(format: string, verb: 'says' | 'said', found: readonly Aspect[]): string[] {
  if (found.length === 0) return [];
  const list =
    found.length === 1 ? found.join('') : `${found.slice(0, -1).join(', ')} and ${found.at(-1) ?? ''}`;
  return [`${format.toUpperCase()} ${verb} nothing of ${list}`];
}

/** Which of some aspects a model has. @param unsaid by its own format: what there is of it the reader made up */
function aspectsIn(
  { document, facts }: Side,
  wanted: readonly Aspect[],
  unsaid: readonly Aspect[],
): Aspect[] {
  const primitives = document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives());
  const has: Readonly<Record<Aspect, boolean>> = {
    parts: facts.parts > 1,
    materials: facts.materials > 0,
    UVs: facts.uvSets > 0,
    normals: primitives.some((primitive) => primitive.getAttribute('NORMAL')),
    'vertex colours': facts.hasColours,
    bones: facts.bones > 0,
    clips: facts.clips.length > 0,
    nodes: false,
  };
  return wanted.filter((aspect) => has[aspect] && !unsaid.includes(aspect));
}

/** Which aspect a difference of vertices is of. */
export function aspectOfLook(name: string): Aspect | null {
  if (name.startsWith('UV')) return 'UVs';
  if (name === 'normals') return 'normals';
  if (name.startsWith('vertex')) return 'vertex colours';
  if (name.startsWith('weights')) return 'bones';
  return name.startsWith('morph') ? 'clips' : null;
}
