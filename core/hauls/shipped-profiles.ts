import { haulSettingsSchema } from '../../contract/haul-settings.ts';
import type { Profile } from '../../contract/hauls.ts';

function profile(name: string, settings: Parameters<typeof haulSettingsSchema.parse>[0]): Profile {
  return { name, settings: haulSettingsSchema.parse(settings), isShipped: true };
}

/** Profiles that come with the product. */
export const shippedProfiles: readonly Profile[] = [
  profile('For an engine, metres, Y up', {}),
  profile('For a 3D editor, metres, Z up', { models: { as: 'glb', up: 'Z' } }),
  profile('For an older 3D editor, centimetres', {
    models: { as: 'obj', unit: 'centimetres' },
    pictures: { as: 'tga' },
  }),
  profile('For printing, millimetres, Z up', {
    models: { as: '3mf', unit: 'millimetres', up: 'Z', textures: 'none' },
    print: { solid: 'one solid', bedMm: '220x220x250' },
    along: { needs: false },
  }),
  profile('Pictures to look at', { pictures: { as: 'png' }, folders: 'one folder', along: { needs: false } }),
  profile('Wallpapers, cropped and twice as large', {
    pictures: { as: 'png', crop: 'alpha', scale: 2 },
    folders: 'one folder',
    along: { needs: false },
  }),
  profile('Sounds to keep', { sounds: { as: 'flac' }, along: { needs: false } }),
  profile('Everything as it lay', {
    pictures: { as: 'as it lay' },
    models: { as: 'as it lay' },
    clips: { as: 'as it lay' },
    sounds: { as: 'as it lay' },
    maps: { as: 'as it lay' },
    texts: { as: 'as it lay' },
    along: { needs: true, levels: 'all' },
  }),
];
