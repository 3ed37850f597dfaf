import type { EntryInput } from '../contract/catalogue.ts';

/** What stands in the demo's catalogue from the start. */
export const firstEntries: Omit<EntryInput, 'channelId'>[] = [
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
