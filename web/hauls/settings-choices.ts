import { writtenFormats, type HaulSettings } from '../../contract/hauls.ts';

type Group = 'pictures' | 'models' | 'clips' | 'sounds' | 'maps' | 'texts' | 'along';

/** A setting that is one of a few values. */
export interface Choice {
  group: Group;
  name: string;
  label: string;
  options: readonly (readonly [value: string, label: string])[];
  /** Whether it says anything with these settings. */
  isOf?: (settings: HaulSettings) => boolean;
}

const formatNames: Readonly<Record<string, string>> = {
  'as it lay': 'As it lay',
  jpeg: 'JPEG',
  exr: 'OpenEXR',
  webp: 'WebP',
  gltf: 'glTF with files',
  obj: 'OBJ with MTL',
  ogg: 'Ogg Vorbis',
  opus: 'Opus',
};

function formatsOf(kind: keyof typeof writtenFormats): Choice['options'] {
  return writtenFormats[kind].map((format) => [format, formatNames[format] ?? format.toUpperCase()]);
}

const isWritten = (as: string): boolean => as !== 'as it lay';

/** The settings of a haul, as they stand on the page. */
export const groups: readonly { title: string; choices: readonly Choice[] }[] = [
  {
    title: 'Models',
    choices: [
      { group: 'models', name: 'as', label: 'Models as', options: formatsOf('model') },
      {
        ...{ group: 'models', name: 'unit', label: 'Unit', isOf: ({ models }) => isWritten(models.as) },
        options: [
          ['metres', 'Metres'],
          ['centimetres', 'Centimetres'],
          ['millimetres', 'Millimetres'],
        ],
      },
      {
        ...{ group: 'models', name: 'up', label: 'Up' },
        isOf: ({ models }) => isWritten(models.as) && models.as !== '3mf',
        options: [
          ['Y', 'Y'],
          ['Z', 'Z'],
        ],
      },
      {
        ...{ group: 'models', name: 'placed', label: 'Unit and axis' },
        isOf: ({ models }) =>
          (models.as === 'glb' || models.as === 'gltf') && (models.unit !== 'metres' || models.up !== 'Y'),
        options: [
          ['in the data', 'In the data'],
          ['in a root node', 'In a root node'],
        ],
      },
      {
        ...{ group: 'models', name: 'textures', label: 'Pictures of models' },
        isOf: ({ models }) => ['glb', 'gltf', 'obj'].includes(models.as),
        options: [
          ['by role', 'Found by role'],
          ['as the file says', 'As the file says'],
          ['none', 'None'],
        ],
      },
      {
        ...{
          group: 'models',
          name: 'helpers',
          label: 'Helper shapes',
          isOf: ({ models }) => isWritten(models.as),
        },
        options: [
          ['left out', 'Left out'],
          ['kept', 'Kept'],
        ],
      },
      { group: 'clips', name: 'as', label: 'Clips as', options: formatsOf('clip') },
    ],
  },
  {
    title: 'Pictures',
    choices: [
      { group: 'pictures', name: 'as', label: 'Pictures as', options: formatsOf('picture') },
      {
        ...{
          group: 'pictures',
          name: 'levels',
          label: 'Mip levels',
          isOf: ({ pictures }) => isWritten(pictures.as),
        },
        options: [
          ['finest', 'The finest'],
          ['all', 'All'],
        ],
      },
      {
        ...{ group: 'pictures', name: 'crop', label: 'Borders' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: [
          ['none', 'Kept'],
          ['alpha', 'Cut where clear'],
          ['colour', 'Cut by colour'],
        ],
      },
      {
        ...{ group: 'pictures', name: 'scale', label: 'Scaled' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: ['0.5', '1', '1.5', '1.75', '2', '3', '4'].map((factor) => [
          factor,
          factor === '1' ? 'Own size' : `× ${factor}`,
        ]),
      },
      {
        ...{ group: 'pictures', name: 'green', label: 'Green of normal maps' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: [
          ['kept', 'Kept'],
          ['turned', 'Turned round'],
        ],
      },
    ],
  },
  {
    title: 'Sounds, maps, texts',
    choices: [
      { group: 'sounds', name: 'as', label: 'Sounds as', options: formatsOf('sound') },
      {
        ...{ group: 'sounds', name: 'bits', label: 'Bits to a sample' },
        isOf: ({ sounds }) => sounds.as === 'wav' || sounds.as === 'flac',
        options: [
          ['as decoded', 'As decoded'],
          ['16', '16'],
          ['24', '24'],
        ],
      },
      { group: 'maps', name: 'as', label: 'Maps as', options: formatsOf('map') },
      { group: 'texts', name: 'as', label: 'Texts as', options: formatsOf('text') },
    ],
  },
  {
    title: 'What comes along',
    choices: [
      {
        ...{ group: 'along', name: 'needs', label: 'What they need' },
        options: [
          ['true', 'Comes along'],
          ['false', 'Stays'],
        ],
      },
      {
        ...{ group: 'along', name: 'family', label: 'Their families' },
        options: [
          ['true', 'Come along'],
          ['false', 'Stay'],
        ],
      },
      {
        ...{ group: 'along', name: 'levels', label: 'Levels of detail' },
        options: [
          ['finest', 'The finest'],
          ['all', 'All'],
        ],
      },
    ],
  },
];
