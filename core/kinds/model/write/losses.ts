import type { ModelFacts } from '../../../../contract/facts.ts';
import { asItLay, type ModelSettings } from '../../../../contract/haul-settings.ts';

export const modelEndings = {
  glb: '.glb',
  gltf: '.gltf',
  obj: '.obj',
  stl: '.stl',
  ply: '.ply',
  '3mf': '.3mf',
} as const;

/** Of the picture of poses beside a clip. */
export const poseEnding = '.pose.png';
/** Of the picture of a solid's pieces with their numbers. */
export const piecesEnding = '.pieces.png';

/** What a format cannot hold of a model. @param isSolid whether it is made a solid for printing */
export function lossesOfModel(
  facts: Pick<
    ModelFacts,
    'bones' | 'clips' | 'morphTargets' | 'uvSets' | 'hasColours' | 'materials' | 'textures' | 'variants'
  >,
  { as: format }: ModelSettings,
  isSolid = false,
): string[] {
  // A solid to be printed is a shape and nothing else, whatever it is written as.
  const as = isSolid && format !== asItLay ? 'stl' : format;
  if (as === asItLay || as === 'glb' || as === 'gltf') return [];
  const holdsUvs = as === 'obj' || as === 'ply';
  return [
    ...(facts.bones > 0 ? ['bones and weights'] : []),
    ...(facts.clips.length > 0 ? ['clips'] : []),
    ...(facts.morphTargets > 0 ? ['morph targets'] : []),
    ...(facts.uvSets > (holdsUvs ? 1 : 0) ? [holdsUvs ? 'UV sets beside the first' : 'UVs'] : []),
    ...(facts.hasColours && as !== 'obj' && as !== 'ply' ? ['vertex colours'] : []),
    ...(facts.materials > 0 && (as === 'stl' || as === 'ply') ? ['materials'] : []),
    ...(facts.textures > 0 && as !== 'obj' ? ['pictures'] : []),
    ...(facts.variants.length > 0 ? ['variants'] : []),
  ];
}
