import type { HaulSettings } from '../../contract/haul-settings.ts';
import type { Choice } from './settings-choices.ts';

const isOf = ({ models }: HaulSettings): boolean => models.as !== 'as it lay';

/** What is mended in models, each step by itself. */
export const mendingChoices: readonly Choice[] = [
  {
    ...{ group: 'mend', name: 'skeletons', label: 'Skeletons', isOf },
    options: [
      ['kept', 'As they are'],
      ['joined', 'One, with one root'],
    ],
  },
  {
    ...{ group: 'mend', name: 'boneParents', label: 'Bones that hang on none', options: [] },
    isOf: (settings) => isOf(settings) && settings.mend.skeletons === 'joined',
    hint: 'bone = its parent; … Empty: as proposed.',
  },
  {
    ...{ group: 'mend', name: 'influences', label: 'Bones to a vertex', isOf },
    options: [
      ['kept', 'As they are'],
      ['4', 'At most 4'],
      ['8', 'At most 8'],
    ],
  },
  {
    ...{ group: 'mend', name: 'normals', label: 'Normals', isOf },
    options: [
      ['kept', 'As they are'],
      ['made where missing', 'Made where missing'],
      ['made anew', 'Made anew'],
    ],
  },
  {
    ...{ group: 'mend', name: 'facing', label: 'Facing', isOf },
    options: [
      ['kept', 'As it is'],
      ['turned outwards', 'Turned outwards'],
    ],
  },
  {
    ...{ group: 'mend', name: 'vertices', label: 'Duplicate vertices', isOf },
    options: [
      ['kept', 'Kept'],
      ['joined', 'Joined'],
    ],
  },
  {
    ...{ group: 'mend', name: 'triangles', label: 'Triangles without area', isOf },
    options: [
      ['kept', 'Kept'],
      ['those without area left out', 'Left out'],
    ],
  },
  {
    ...{ group: 'mend', name: 'unused', label: 'Unused materials', isOf },
    options: [
      ['left out', 'Left out'],
      ['kept', 'Kept'],
    ],
  },
  {
    ...{ group: 'mend', name: 'mostTriangles', label: 'Triangles at most', options: [], isOf },
    hint: '0: all of them.',
  },
  {
    ...{ group: 'mend', name: 'attributesFrom', label: 'Attributes of', options: [], isOf },
    hint: 'A file beside, * for the own name: *.fbx',
  },
];
