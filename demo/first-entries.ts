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
    details: { thing: 'Bird', tags: ['heron'], names: [{ language: 'de', name: 'Weißer Reiher' }] },
  },
  {
    name: 'Pier lantern',
    internalName: 'lum_pier',
    summary: 'The lantern on the landing stages. Its roof has more ridges since build 0.2.',
    credits: 'Found by the demo team',
    state: 'published',
    paths: ['data/models.zip!/props/lum/lum_pier_l0.glb', 'data/models.zip!/props/lum/lum_pier_l1.glb'],
    details: {
      ...{ thing: 'Lantern', tags: ['light', 'landing stage'], downloads: true },
      names: [{ language: 'de', name: 'Stegleuchte' }],
      aliases: ['Jetty light'],
    },
  },
  {
    name: 'Lamplight',
    internalName: 'lamplight',
    summary: 'Evening music, longer since build 0.2.',
    state: 'published',
    paths: ['music/lamplight.wav'],
    details: { thing: 'Music', tags: ['evening'], downloads: true },
  },
  {
    name: 'Fog over the marsh',
    internalName: 'loading/fog',
    summary: 'A loading picture, larger since build 0.2.',
    state: 'published',
    paths: ['data/pictures.zip!/loading/fog.png'],
    details: { thing: 'Loading picture', tags: ['fog', 'evening'] },
  },
  {
    name: 'Mail ferry',
    internalName: 'fry_mail',
    summary: 'It carries letters from isle to isle.',
    state: 'published',
    paths: ['data/models.zip!/boats/fry_mail_l0.glb', 'definitions/fry_mail.ini'],
    details: {
      thing: 'Boat',
      tags: ['ferry'],
      names: [{ language: 'de', name: 'Postfähre' }],
      downloads: true,
    },
  },
  {
    name: 'Fog bell',
    internalName: 'bell_fog',
    summary: 'Rung where nobody sees the stage.',
    state: 'published',
    paths: ['data/effects.zip!/bells/bell_fog.wav'],
    details: { thing: 'Sound', tags: ['fog', 'bell'], downloads: true },
  },
  {
    name: 'Lantern sign',
    internalName: 'sg_lantern',
    state: 'published',
    paths: ['interface/signs/sg_lantern.png'],
    details: { thing: 'Sign', tags: ['light'], relations: [{ as: 'part of', entry: 2 }] },
  },
  {
    name: 'First isle',
    internalName: 'isle_first',
    summary: 'Where everybody begins.',
    state: 'in review',
    paths: ['maps/isle_first.json'],
    details: { thing: 'Isle' },
  },
  {
    name: 'Boathouse',
    internalName: 'boathouse',
    state: 'draft',
    paths: ['models/boathouse/boathouse_l0.gltf'],
  },
];
