import type { Document } from '@gltf-transform/core';
import type { ClipDetail, Comparison, Figure, ModelDetail, Nature } from '../../../contract/comparisons.ts';
import { extentText, plural, secondsText } from '../../figures.ts';
import { figure, metresText, percentText, sentenceOf, type Comparer } from '../comparing.ts';
import { drawDistances } from './compare/draw-distances.ts';
import { compareBones } from './compare/skeleton.ts';
import { compareClips } from './compare/clips.ts';
import { compareParts } from './compare/parts.ts';
import { placingOf } from './compare/placing.ts';
import { surfaceDistance, type SurfaceDistance } from './compare/distance.ts';
import { surfaceOf, type Surface } from './compare/surface.ts';
import { factsOfModel, openModel } from './read.ts';
import { trianglesOf, type TriangleBatch } from './triangles.ts';

/** What is nearer than this share of the size is the same surface: numbers of 16 bits leave as much. */
const sameShare = 1 / 20_000;

interface Side {
  document: Document;
  batches: TriangleBatch[];
  surface: Surface | null;
}

/** Compares two models, or two files of clips: their surfaces, parts, bones and poses. */
export const compareModels: Comparer = async (oldRequest, newRequest) => {
  const oldModel = await openModel(oldRequest);
  const newModel = await openModel(newRequest);
  const [old, now] = [sideOf(oldModel.document), sideOf(newModel.document)];
  const facts = [factsOfModel(oldModel), factsOfModel(newModel)] as const;
  const distance = old.surface && now.surface ? surfaceDistance(old.surface, now.surface) : null;
  const diagonal = old.surface?.diagonal ?? 0;
  const isSameSurface = distance !== null && distance.greatestMetres <= sameShare * diagonal;
  const placed = distance && !isSameSurface && old.surface && now.surface ? placingOf(old.surface, now.surface) : null;
  const parts = compareParts(old, now, distance?.newBatches ?? [], distance?.oldBatches ?? [], sameShare * diagonal);
  const bones = compareBones(old.document, now.document);
  const clips = compareClips(old.document, now.document);
  const detail: ModelDetail = { kind: 'model', surface: surfaceDetail(distance, diagonal, parts), parts, bones, placed, clips };
  const figures = figuresOf(facts[0], facts[1], detail);
  const said = sayModel(detail, isSameSurface, facts, now.surface === null);
  const nature = natureOf(detail, isSameSurface, said.others.length);
  const comparison: Comparison = {
    kind: now.surface === null ? 'clip' : 'model',
    nature,
    extent: extentOf(detail, isSameSurface, nature),
    sentence: sentenceOf([...said.shape, ...said.others]),
    figures,
    detail,
  };
  const picture = distance && !placed && old.surface && now.surface ? drawDistances(now.batches, old.surface, distance.greatestMetres) : null;
  return { comparison, picture };
}; // prettier-ignore

function sideOf(document: Document): Side {
  const batches = trianglesOf(document);
  return { document, batches, surface: surfaceOf(batches) };
}

function surfaceDetail(distance: SurfaceDistance | null, diagonal: number, parts: ModelDetail['parts']): ModelDetail['surface'] {
  if (!distance) return null;
  const [farthest] = [...parts].filter(({ greatestMetres }) => greatestMetres !== null).sort((a, b) => (b.greatestMetres ?? 0) - (a.greatestMetres ?? 0));
  const newcomer = parts.find(({ status }) => status === 'added' || status === 'gone');
  const isThere = Math.abs((farthest?.greatestMetres ?? -1) - distance.greatestMetres) < 1e-9;
  return {
    meanMetres: distance.meanMetres,
    greatestMetres: distance.greatestMetres,
    share: diagonal > 0 ? distance.greatestMetres / diagonal : 0,
    at: distance.at,
    part: (isThere ? farthest : newcomer)?.name ?? '',
  };
} // prettier-ignore

type ModelFacts = ReturnType<typeof factsOfModel>;

function figuresOf(old: ModelFacts, now: ModelFacts, { surface }: ModelDetail): Figure[] {
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
    ...figure('extent', extentText(old.boundsMetres), extentText(now.boundsMetres)),
    ...(surface
      ? [
          { name: 'between the surfaces, mean', old: '', new: metresText(surface.meanMetres) },
          { name: 'between the surfaces, greatest', old: '', new: `${metresText(surface.greatestMetres)}, ${percentText(surface.share)} of its size` },
        ]
      : []),
  ];
} // prettier-ignore

function sayModel(
  { surface, parts, bones, placed, clips }: ModelDetail,
  isSameSurface: boolean,
  [old, now]: readonly [ModelFacts, ModelFacts],
  isClip: boolean,
): { shape: string[]; others: string[] } {
  const shape: string[] = [];
  if (placed) shape.push(sayPlaced(placed));
  else if (isSameSurface)
    shape.push(old.triangles === now.triangles ? 'the same shape' : `the same shape in ${now.triangles.toLocaleString('en')} triangles instead of ${old.triangles.toLocaleString('en')}`);
  else if (surface) shape.push(`the surface is up to ${metresText(surface.greatestMetres)} off (${percentText(surface.share)} of its size)${surface.part === '' ? '' : `, at ${surface.part}`}`);
  else if (!isClip) shape.push(now.triangles === old.triangles ? 'nothing is drawn of either' : 'only one of them has a surface');
  const others: string[] = [];
  const names = (status: 'added' | 'gone'): string[] => parts.filter((part) => part.status === status).map(({ name }) => name);
  others.push(...sayList(names('added'), 'part', 'new'), ...sayList(names('gone'), 'part', 'gone'));
  others.push(...sayList(bones.added, 'bone', 'new'), ...sayList(bones.gone, 'bone', 'gone'));
  const [first] = bones.reparented;
  if (first) others.push(bones.reparented.length === 1 ? `bone ${first.bone} hangs on ${first.to || 'nothing'} instead of ${first.from || 'nothing'}` : `${bones.reparented.length} bones hang on others`);
  const [far] = bones.moved;
  if (far && !placed) others.push(`${plural(bones.moved.length, 'bone')} moved, ${far.bone} by ${metresText(far.metres)}`);
  others.push(...clips.flatMap(sayClip));
  for (const [noun, before, after] of [['material', old.materials, now.materials], ['UV set', old.uvSets, now.uvSets], ['morph target', old.morphTargets, now.morphTargets]] as const)
    if (before !== after) others.push(`${plural(Math.abs(after - before), noun)} ${after > before ? 'more' : 'fewer'}`);
  if (old.hasColours !== now.hasColours) others.push(now.hasColours ? 'with vertex colours now' : 'without vertex colours now');
  if (shape.length + others.length === 0) shape.push('the same poses');
  return { shape, others: others.slice(0, 6) };
} // prettier-ignore

function sayPlaced({ scale, offsetMetres, isTurned }: NonNullable<ModelDetail['placed']>): string {
  const parts: string[] = [];
  if (Math.abs(scale - 1) > 0.002) parts.push(`${Number(scale.toPrecision(3))} times as large`);
  if (isTurned) parts.push('turned by quarters');
  const far = Math.hypot(...offsetMetres);
  if (parts.length === 0 || (far > 0.001 && !isTurned))
    parts.push(`${metresText(far)} away from where it was`);
  return `the same shape, ${parts.join(' and ')}`;
}

function sayList(names: readonly string[], noun: string, what: string): string[] {
  if (names.length === 0) return [];
  return [names.length <= 2 ? `${noun}${names.length === 1 ? '' : 's'} ${names.join(' and ')} ${what}` : `${names.length} ${noun}s ${what}`];
} // prettier-ignore

function sayClip(clip: ClipDetail): string[] {
  const { name, status, oldSeconds, newSeconds, greatestMetres, bone, atSeconds } = clip;
  if (status === 'same') return [];
  if (status !== 'changed') return [`clip ${name} ${status === 'added' ? 'new' : 'gone'}`];
  const length = Math.abs((oldSeconds ?? 0) - (newSeconds ?? 0)) > 1e-3 ? `clip ${name} ${secondsText(oldSeconds ?? 0)} → ${secondsText(newSeconds ?? 0)}` : '';
  const pose = greatestMetres >= 1e-4 ? `${length === '' ? `clip ${name}: ` : ''}${bone} up to ${metresText(greatestMetres)} elsewhere, at ${secondsText(atSeconds)}` : '';
  return [[length, pose].filter(Boolean).join(', ')];
} // prettier-ignore

function natureOf({ placed, clips }: ModelDetail, isSameSurface: boolean, others: number): Nature {
  const hasClips = clips.some(({ status }) => status !== 'same');
  if (others > 0 || hasClips) return 'other';
  if (placed) return 'placed otherwise';
  return isSameSurface ? 'rewritten' : 'other';
}

function extentOf({ surface, parts, bones, clips, placed }: ModelDetail, isSameSurface: boolean, nature: Nature): number {
  if (nature === 'rewritten') return 0;
  const touched = parts.filter(({ status }) => status !== 'same').length / Math.max(1, parts.length);
  const shape = placed ? 0.1 : isSameSurface ? 0 : Math.min(1, (surface?.share ?? 1) * 4 + touched / 4);
  const counted = bones.added.length + bones.gone.length + bones.reparented.length + clips.filter(({ status }) => status !== 'same').length;
  return Math.max(0.01, Math.min(1, shape + Math.min(0.5, counted * 0.05)));
} // prettier-ignore
