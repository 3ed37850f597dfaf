import type { Document } from '@gltf-transform/core';
import type { Comparison, Figure, ModelDetail, Nature } from '../../../contract/comparisons.ts';
import { extentText } from '../../figures.ts';
import { figure, lengthText, percentText, sentenceOf, type Comparer } from '../comparing.ts';
import { drawDistances } from './compare/draw-distances.ts';
import { compareClips } from './compare/clips.ts';
import { surfaceDistance, type SurfaceDistance } from './compare/distance.ts';
import { dataChanges } from '../data/data-changes.ts';
import { describeChanges } from '../data/describe-values.ts';
import { lengthUnitOf, unitSymbol, type ModelDocument } from './model-document.ts';
import { describeWorn } from './compare/worn.ts';
import { compareLooks, describeLook, type LookDifference } from './compare/looks.ts';
import { compareMaterials } from './compare/materials.ts';
import { compareParts } from './compare/parts.ts';
import { placingOf } from './compare/placing.ts';
import { comparePoints, pointsOf } from './compare/points.ts';
import { describeMove } from './compare/describe-pose.ts';
import { describeModel, type Changes, type ModelFacts } from './compare/describe.ts';
import { sharedTriangles } from './compare/shared-triangles.ts';
import { compareBones, compareEmptyNodes } from './compare/skeleton.ts';
import { areaOf, countUnplaced, surfaceOf, type Surface } from './compare/surface.ts';
import { factsOfModel, openModel } from './read.ts';
import { trianglesOf, type TriangleBatch } from './triangles.ts';
import { aspectOfLook, compareUnsaid } from './compare/unsaid.ts';
import { identify } from '../identify.ts';
import type { ReadRequest } from '../reading.ts';

/** What is nearer than this share of the size is the same surface: numbers of 16 bits leave as much. */
const sameShare = 1 / 20_000;
/** Areas that are nearer than this are the same: what rounding leaves is far less. */
const sameArea = 0.005;

interface Side {
  document: Document;
  batches: TriangleBatch[];
  surface: Surface | null;
  unplaced: number;
  points: Float32Array;
}

/** Compares two models, or two files of clips: their surfaces, what lies on them, parts, materials, bones and poses. */
export const compareModels: Comparer = async (oldRequest, newRequest, others) => {
  const oldModel = await openModel(oldRequest);
  const newModel = await openModel(newRequest);
  const [old, now] = [sideOf(oldModel.document), sideOf(newModel.document)];
  const facts = [factsOfModel(oldModel), factsOfModel(newModel)] as const;
  const { skipped, sentences: unsaid } = compareUnsaid(
    { format: formatOf(oldRequest), document: old.document, facts: facts[0] },
    { format: formatOf(newRequest), document: now.document, facts: facts[1] },
  );
  const bones = skipped.has('bones') ? noChanges : compareBones(old.document, now.document);
  const oldBones = new Map(bones.renamed.map(({ from, to }) => [to, from]));
  const shape = compareShapes(old, now, (bone) => oldBones.get(bone) ?? bone);
  const diagonal = old.surface?.diagonal ?? 0;
  const { distance, isSameSurface } = shape;
  const parts = skipped.has('parts')
    ? []
    : compareParts(old, now, distance?.newBatches ?? [], distance?.oldBatches ?? [], sameShare * diagonal);
  const nodes = skipped.has('nodes') ? noChanges : compareEmptyNodes(old.document, now.document);
  const renamedNodes = new Map([
    ...[...bones.renamed, ...nodes.renamed].map(({ from, to }): [string, string] => [to, from]),
    ...parts.flatMap(({ name }): [string, string][] => {
      const [from, to] = name.split(' → ');
      return from !== undefined && to !== undefined ? [[to, from]] : [];
    }),
  ]);
  const oldNodeOf = (node: string): string => renamedNodes.get(node) ?? node;
  const clips = skipped.has('clips') ? [] : compareClips(old.document, now.document, oldNodeOf);
  const detail: ModelDetail = {
    kind: 'model',
    lengths: lengthUnitOf(oldModel, newModel),
    surface: surfaceDetail(distance, diagonal, parts),
    parts,
    bones,
    nodes,
    placed: shape.placed,
    clips,
  };
  const materials = skipped.has('materials')
    ? { sentences: [], figures: [], renamed: new Map<string, string>() }
    : await compareMaterials(old.document, now.document, others);
  const worn =
    skipped.has('materials') || skipped.has('parts')
      ? []
      : describeWorn(old.document, now.document, oldNodeOf, materials.renamed);
  // On which parts says more.
  const ofMaterials = materials.sentences.filter(
    (sentence) => !worn.some((other) => other.startsWith(`${sentence} on `)),
  );
  const isClip = !hasShape(old) && !hasShape(now);
  const changes: Changes = {
    detail,
    isSameSurface,
    isClip,
    looks: shape.looks.filter(({ name }) => {
      const aspect = aspectOfLook(name);
      return aspect === null || !skipped.has(aspect);
    }),
    skipped,
    unsaid,
    materials: ofMaterials,
    worn,
    overlap: describeOverlap(shape),
    said: describeSaid(oldModel, newModel, areNodesTold(parts, bones, nodes)),
    unplaced: [old.unplaced, now.unplaced],
    points: comparePoints(old.points, now.points),
  };
  const said = describeModel(changes, facts);
  const nature = natureOf(
    detail,
    isSameSurface || (old.surface === null && now.surface === null),
    said.others.length,
  );
  const comparison: Comparison = {
    kind: isClip ? 'clip' : 'model',
    nature,
    extent: extentOf(detail, isSameSurface, nature, shape.looks),
    sentence: sentenceOf([...said.shape, ...said.others.slice(0, 6)]),
    figures: [...figuresOf(facts[0], facts[1], changes), ...materials.figures],
    detail,
  };
  const picture =
    distance && !isSameSurface && !shape.placed && old.surface && now.surface
      ? drawDistances(now.batches, old.surface, distance.greatestMetres)
      : null;
  return { comparison, picture };
};

const noChanges: ModelDetail['bones'] = { added: [], gone: [], reparented: [], moved: [], renamed: [] };

function formatOf({ bytes, path }: ReadRequest): string {
  return identify(bytes.subarray(0, 1024), path).format;
}

/** Whether names of nodes that came, went or changed are told with parts and bones. */
function areNodesTold(parts: ModelDetail['parts'], ...all: readonly ModelDetail['bones'][]): boolean {
  return (
    parts.some(({ status, name }) => status === 'added' || status === 'gone' || name.includes(' → ')) ||
    all.some(({ added, gone, renamed }) => added.length + gone.length + renamed.length > 0)
  );
}

/** What the files say beside what is drawn; of two formats nothing, since the one cannot hold what the other does. */
function describeSaid(old: ModelDocument, now: ModelDocument, areNodesTold: boolean): string[] {
  if (!old.said || !now.said) return [];
  const changes = dataChanges(old.said, now.said).filter(
    ({ key }) => !areNodesTold || !key.startsWith('nodes.'),
  );
  return describeChanges(changes, { item: 'thing', key: 'name' });
}

function sideOf(document: Document): Side {
  const batches = trianglesOf(document);
  return {
    document,
    batches,
    surface: surfaceOf(batches),
    unplaced: countUnplaced(batches),
    points: pointsOf(document),
  };
}

function hasShape({ surface, unplaced, points }: Side): boolean {
  return surface !== null || unplaced + points.length > 0;
}

interface ShapeDifference {
  distance: SurfaceDistance | null;
  isSameSurface: boolean;
  placed: ModelDetail['placed'];
  looks: LookDifference[];
  /** Of triangles that only one has, where both are the same surface: square metres, older and newer. */
  ownArea: readonly [number, number];
}

function compareShapes(old: Side, now: Side, oldNameOf: (bone: string) => string): ShapeDifference {
  if (!old.surface || !now.surface)
    return { distance: null, isSameSurface: false, placed: null, looks: [], ownArea: [0, 0] };
  const shared = sharedTriangles(old.surface, now.surface);
  const distance = surfaceDistance(old.surface, now.surface, shared);
  const isSameSurface = distance.greatestMetres <= sameShare * old.surface.diagonal;
  const looks = compareLooks(
    { surface: old.surface, batches: old.batches },
    { surface: now.surface, batches: now.batches },
    shared,
    isSameSurface,
    oldNameOf,
  );
  return {
    distance,
    isSameSurface,
    placed: isSameSurface ? null : placingOf(old.surface, now.surface),
    looks,
    ownArea: [areaWithout(old.surface, shared.oldShared), areaWithout(now.surface, shared.newShared)],
  };
}

function areaWithout(surface: Surface, isShared: Uint8Array): number {
  let sum = 0;
  for (let triangle = 0; triangle < isShared.length; triangle++)
    if (isShared[triangle] === 0) sum += areaOf(surface, triangle);
  return sum;
}

/** Cut into other triangles a surface has the same area; where it lies on itself, it may change and stay the same surface. */
function describeOverlap({ isSameSurface, ownArea: [before, after] }: ShapeDifference): string[] {
  if (!isSameSurface || Math.abs(after - before) <= Math.max(before, after) * sameArea) return [];
  return [`${after > before ? 'more' : 'less'} of it lies on itself`];
}

function surfaceDetail(
  distance: SurfaceDistance | null,
  diagonal: number,
  parts: ModelDetail['parts'],
): ModelDetail['surface'] {
  if (!distance) return null;
  const [farthest] = [...parts]
    .filter(({ greatestMetres }) => greatestMetres !== null)
    .sort((a, b) => (b.greatestMetres ?? 0) - (a.greatestMetres ?? 0));
  const newcomer = parts.find(({ status }) => status === 'added' || status === 'gone');
  const isThere = Math.abs((farthest?.greatestMetres ?? -1) - distance.greatestMetres) < 1e-9;
  return {
    meanMetres: distance.meanMetres,
    greatestMetres: distance.greatestMetres,
    share: diagonal > 0 ? distance.greatestMetres / diagonal : 0,
    at: distance.at,
    part: (isThere ? farthest : newcomer)?.name ?? '',
  };
}

function figuresOf(
  old: ModelFacts,
  now: ModelFacts,
  { detail: { surface, nodes, lengths }, looks, unplaced, points }: Changes,
): Figure[] {
  return [
    ...figure('triangles', old.triangles, now.triangles),
    ...figure('vertices', old.vertices, now.vertices),
    ...figure('parts', old.parts, now.parts),
    ...figure('materials', old.materials, now.materials),
    ...figure('textures', old.textures, now.textures),
    ...figure('UV sets', old.uvSets, now.uvSets),
    ...figure('vertex colours', old.hasColours ? 'yes' : 'no', now.hasColours ? 'yes' : 'no'),
    ...figure('bones', old.bones, now.bones),
    ...figure('weights to a vertex', old.weights, now.weights),
    ...figure('morph targets', old.morphTargets, now.morphTargets),
    ...figure('clips', old.clips.length, now.clips.length),
    ...(points ? figure('points', points.old, points.new) : []),
    ...figure('triangles that are nowhere', unplaced[0], unplaced[1]),
    ...looks
      .filter(({ status }) => status === 'changed')
      .map((look) => ({ name: look.name, old: '', new: describeLook(look, lengths) })),
    ...nodes.moved.map(({ bone, metres, degrees }) => ({
      name: bone,
      old: '',
      new: describeMove(metres, degrees, lengths),
    })),
    ...figure(
      'extent',
      extentText(old.boundsMetres, unitSymbol(old.units)),
      extentText(now.boundsMetres, unitSymbol(now.units)),
    ),
    ...(surface
      ? [
          { name: 'between the surfaces, mean', old: '', new: lengthText(surface.meanMetres, lengths) },
          {
            name: 'between the surfaces, greatest',
            old: '',
            new: `${lengthText(surface.greatestMetres, lengths)}, ${percentText(surface.share)} of its size`,
          },
        ]
      : []),
  ];
}

function natureOf({ placed, clips }: ModelDetail, isSameShape: boolean, others: number): Nature {
  const hasClips = clips.some(({ status }) => status !== 'same');
  if (others > 0 || hasClips) return 'other';
  if (placed) return 'placed otherwise';
  return isSameShape ? 'rewritten' : 'other';
}

function extentOf(
  { surface, parts, bones, clips, placed }: ModelDetail,
  isSameSurface: boolean,
  nature: Nature,
  looks: readonly LookDifference[],
): number {
  if (nature === 'rewritten') return 0;
  const touched = parts.filter(({ status }) => status !== 'same').length / Math.max(1, parts.length);
  const shape = placed ? 0.1 : isSameSurface ? 0 : Math.min(1, (surface?.share ?? 1) * 4 + touched / 4);
  const look = Math.max(0, ...looks.map(({ share }) => share)) / 4;
  const counted =
    bones.added.length +
    bones.gone.length +
    bones.reparented.length +
    clips.filter(({ status }) => status !== 'same').length;
  return Math.max(0.01, Math.min(1, shape + look + Math.min(0.5, counted * 0.05)));
}
