import { writtenFormats, type HaulSettings } from '../../contract/haul-settings.ts';
import { mendingChoices } from './mending-choices.ts';

type Group = 'pictures' | 'models' | 'mend' | 'print' | 'clips' | 'sounds' | 'maps' | 'texts' | 'along';

/** A setting that is one of a few values, or that is typed. */
export interface Choice {
  group: Group;
  name: string;
  label: string;
  /** None where it is typed. */
  options: readonly (readonly [value: string, label: string])[];
  /** What may be typed. */
  hint?: string;
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

const isPrinted = ({ models, print }: HaulSettings): boolean => isWritten(models.as) && print.solid !== 'no';

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
      {
        ...{ group: 'mend', name: 'together', label: 'Models of a family' },
        isOf: ({ models }) => isWritten(models.as),
        options: [
          ['apart', 'A file each'],
          ['families in one', 'One file'],
        ],
      },
    ],
  },
  {
    title: 'Clips',
    choices: [
      { group: 'clips', name: 'as', label: 'Clips as', options: formatsOf('clip') },
      {
        ...{ group: 'clips', name: 'rate', label: 'Keys', isOf: ({ clips }) => isWritten(clips.as) },
        options: [
          ['0', 'As they are'],
          ['24', '24 a second'],
          ['30', '30 a second'],
          ['60', '60 a second'],
        ],
      },
      {
        ...{ group: 'clips', name: 'pose', label: 'Picture of poses' },
        isOf: ({ clips }) => isWritten(clips.as),
        options: [
          ['beside', 'Beside each'],
          ['none', 'None'],
        ],
      },
      {
        ...{ group: 'clips', name: 'onto', label: 'On the skeleton of', options: [] },
        isOf: ({ clips }) => isWritten(clips.as),
        hint: 'A path of a model. Empty: their own.',
      },
      {
        ...{ group: 'clips', name: 'boneMap', label: 'Bones', options: [] },
        isOf: ({ clips }) => isWritten(clips.as) && clips.onto !== '',
        hint: 'Of the clip = of the model; …',
      },
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
        ...{ group: 'pictures', name: 'width', label: 'Pixels across', options: [] },
        isOf: ({ pictures }) => isWritten(pictures.as),
      },
      {
        ...{ group: 'pictures', name: 'noise', label: 'Noise' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: [
          ['kept', 'Kept'],
          ['taken off', 'Mild, taken off'],
        ],
      },
      {
        ...{ group: 'pictures', name: 'bands', label: 'Bands' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: [
          ['kept', 'Kept'],
          ['smoothed', 'Smoothed'],
        ],
      },
      {
        ...{ group: 'pictures', name: 'rectangle', label: 'Rectangle of all', options: [] },
        isOf: ({ pictures }) => isWritten(pictures.as),
        hint: 'Left, top, width, height: 0,128,1024,768. Empty: all of it. Drawn at the right.',
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
      {
        ...{ group: 'maps', name: 'scenes', label: 'Scenes', isOf: ({ maps }) => maps.as === 'glb' },
        options: [
          ['one', 'One of all'],
          ['by class', 'One for each class'],
        ],
      },
      { group: 'texts', name: 'as', label: 'Texts as', options: formatsOf('text') },
      {
        ...{ group: 'texts', name: 'languages', label: 'Languages' },
        isOf: ({ texts }) => texts.as === 'json' || texts.as === 'csv',
        options: [
          ['apart', 'A file for each'],
          ['side by side', 'Side by side'],
        ],
      },
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
        ...{ group: 'along', name: 'arrangements', label: 'Arrangements' },
        isOf: ({ models }) => isWritten(models.as),
        options: [
          ['true', 'A file for each'],
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
  {
    title: 'Mending of models',
    choices: mendingChoices,
  },
  {
    title: 'For printing',
    choices: [
      {
        ...{ group: 'print', name: 'solid', label: 'Printing', isOf: ({ models }) => isWritten(models.as) },
        options: [
          ['no', 'No'],
          ['one solid', 'One solid'],
        ],
      },
      {
        ...{ group: 'print', name: 'sizeMm', label: 'Size (mm)', options: [], isOf: isPrinted },
        hint: '450: the longest side. 0.42=60: what 0.42 m come to.',
      },
      {
        ...{ group: 'print', name: 'bedMm', label: 'Bed (mm)', options: [], isOf: isPrinted },
        hint: '120, or 220x220x250. Empty: in one piece.',
      },
      {
        ...{ group: 'print', name: 'pins', label: 'Pins', isOf: isPrinted },
        options: [
          ['none', 'None'],
          ['pins and holes', 'Pins and holes'],
        ],
      },
      { ...{ group: 'print', name: 'wallMm', label: 'Wall (mm)', options: [], isOf: isPrinted } },
      { ...{ group: 'print', name: 'gramsPerCm3', label: 'Material (g/cm³)', options: [], isOf: isPrinted } },
    ],
  },
];
