import { copyFileSync, existsSync, readFileSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { changed, edited, filesOfEdit, renamed, same, type Edit } from './edits.ts';
import { escaped, type TruthMaker } from './truth.ts';

/** Models of Debian's `assimp-testmodels`. */
const models = '/usr/share/assimp/models';

const comesAndGoes = [/\bnew\b/, /\bgone\b/];

const edits: Readonly<Record<string, Edit>> = {
  'obj comments': same,
  'obj faces in another order': same,
  'obj rounded': same,
  'obj one vertex moved': changed(() => [/ off\b|lies on itself/]),
  'obj twice as large': changed(() => [/twice as large/], [/ off\b/]),
  'obj moved': changed(() => [/moved/], [/ off\b/]),
  'obj turned': changed(() => [/turned/], [/ off\b/]),
  'obj mirrored': changed(() => [/mirrored/], [/ off\b/]),
  'obj another material': changed(({ old = '', new: now = '' }) => [escaped(old), escaped(now)]),
  'obj materials swapped': changed(({ old = '', new: now = '' }) => [escaped(old), escaped(now)]),
  'obj winding reversed': changed(() => [/the other side/], [/normals differ/]),
  'obj part renamed': changed(renamed, comesAndGoes),
  'obj part gone': changed(({ old = '' }) => [escaped(old), /gone/], [/ m off/]),
  'obj uvs shifted': changed(() => [/UV/]),
  'gltf indent': same,
  'gltf extras': changed(() => [/heron/]),
  'gltf extras changed': changed(() => [/7 → 8/]),
  'gltf node renamed': changed(renamed, comesAndGoes),
  'gltf mesh renamed': changed(renamed, comesAndGoes),
  'gltf material renamed': changed(renamed, comesAndGoes),
  'gltf unused material': changed(() => [/heron/]),
  'gltf rougher': changed(() => [/roughness/]),
  'gltf both sides': changed(() => [/sides/]),
  'gltf image renamed': changed(() => [/heron/]),
  'gltf camera': changed(() => [/camera/]),
  'gltf camera changed': changed(() => [/camera/]),
  'gltf node moved': changed(() => [/moved|off/]),
  'gltf clip renamed': changed(renamed, comesAndGoes),
  'gltf clip gone': changed(() => [/clip/, /gone/]),
};

const objects = ['spider.obj', 'WusonOBJ.obj', 'regr01.obj', 'empty_mat.obj'].map((name) =>
  join(models, 'OBJ', name),
);

function scenes(): string[] {
  const place = join(models, 'glTF2');
  if (!existsSync(place)) return [];
  return (
    readdirSync(place, { recursive: true, withFileTypes: true })
      .filter((item) => item.isFile() && item.name.endsWith('.gltf'))
      .map((item) => join(item.parentPath, item.name))
      // Broken ones are there too, and hundreds of one set.
      .filter(
        (path) =>
          !/invalid|Incorrect|wrongTypes|SchemaFailures|OutOfRange|NoRoot|crash|Asset-Generator|Missing/i.test(
            path,
          ),
      )
      .filter((path) => readFileSync(path, 'utf8').length < 2_000_000)
      .sort()
  );
}

/** Pairs of models: edited as text and as JSON by a script of Python. */
export const makeModels: TruthMaker = async function* (folder, share) {
  if (!existsSync(models)) return;
  const all = scenes();
  for (const [group, { is, says, never }] of Object.entries(edits)) {
    const isObject = group.startsWith('obj');
    const sources = isObject ? objects : all;
    const wanted = Math.max(1, Math.round(filesOfEdit * share));
    let made = 0;
    for (let round = 0; round < 6 * filesOfEdit && made < wanted; round++) {
      const source = sources[(round * 5 + made) % sources.length] ?? '';
      const path = `models/a.${isObject ? 'obj' : 'gltf'}`;
      const copy = join(folder, `old.${isObject ? 'obj' : 'gltf'}`);
      copyFileSync(source, copy);
      const pair = await edited('edit-model.py', group, copy, round);
      if (!pair) continue;
      made++;
      const place = dirname(source);
      const files: Record<string, Uint8Array> = {};
      for (const item of readdirSync(place)) {
        if (/\.(bin|png|jpe?g|mtl)$/i.test(item)) files[item] = readFileSync(join(place, item));
      }
      yield {
        group,
        name: `${source.slice(models.length + 1)} ${round}`,
        old: { bytes: pair.old, path, files },
        now: { bytes: pair.now, path, files },
        is,
        ...(says ? { says: says(pair.told) } : {}),
        ...(never ? { never } : {}),
      };
    }
  }
};
