import type { EntryDraft } from '../contract/catalogue.ts';

/** What stands in the demo's catalogue from the start. */
export const firstNotes = [
  {
    path: 'data/models.zip!/birds/gru_white.glb',
    body: [
      'Taken from build **0.2**.',
      '',
      '1. Open `data/models.zip`: it is a plain ZIP, without a key.',
      '2. Take out `birds/gru_white.glb`. It is glTF 2.0 in metres, Y up, and stands by itself.',
      '3. The clip `nod` ends with its last key, at 2.4 s.',
      '',
      'Mind that `gru_grey.glb` has bones of the same names at other heights: do not mix their clips.',
    ].join('\n'),
  },
  {
    path: 'music/lamplight.wav',
    body: [
      '1. Take `music/lamplight.wav` as it lies in build **0.2**.',
      '2. The loop stands in its `smpl` chunk: from 2 s to the end. Players that ignore it start over from the beginning.',
    ].join('\n'),
  },
];

export const firstEntries: Omit<EntryDraft, 'channelId'>[] = [
  {
    name: 'White heron',
    internalName: 'gru_white',
    summary:
      'A heron that came with build 0.2. One stands on the first isle, and a map of its own is named after it.',
    credits: 'Found by the demo team',
    spoiler: true,
    state: 'published',
    paths: ['data/models.zip!/birds/gru_white.glb'],
  },
  {
    name: 'Pier lantern',
    internalName: 'lum_pier',
    summary: 'The lantern on the landing stages. Its roof has more ridges since build 0.2.',
    credits: 'Found by the demo team',
    spoiler: false,
    state: 'published',
    paths: ['data/models.zip!/props/lum/lum_pier_l0.glb', 'data/models.zip!/props/lum/lum_pier_l1.glb'],
  },
  {
    name: 'Lamplight',
    internalName: 'lamplight',
    summary: 'Evening music, longer since build 0.2.',
    credits: '',
    spoiler: false,
    state: 'published',
    paths: ['music/lamplight.wav'],
  },
  {
    name: 'Fog over the marsh',
    internalName: 'loading/fog',
    summary: 'A loading picture, larger since build 0.2.',
    credits: '',
    spoiler: false,
    state: 'published',
    paths: ['data/pictures.zip!/loading/fog.png'],
  },
  {
    name: 'Boathouse',
    internalName: 'boathouse',
    summary: '',
    credits: '',
    spoiler: false,
    state: 'draft',
    paths: ['models/boathouse/boathouse_l0.gltf'],
  },
];
