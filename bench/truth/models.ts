import { execFile } from 'node:child_process';
import { copyFileSync, existsSync, readFileSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { escaped, type Truth, type TruthMaker } from './truth.ts';

const run = promisify(execFile);

/** Models of Debian's `assimp-testmodels`. */
const models = '/usr/share/assimp/models';

interface Told {
  old?: string;
  new?: string;
  metres?: number;
}

interface Treatment {
  is: Truth['is'];
  says?: (told: Told) => readonly RegExp[];
  never?: readonly RegExp[];
}

const changed = (says: Treatment['says'], never: readonly RegExp[] = []): Treatment => ({
  is: 'changed',
  ...(says ? { says } : {}),
  never,
});
const same: Treatment = { is: 'loss' };
const renamed = ({ old = '', new: now = '' }: Told): readonly RegExp[] => [
  escaped(old === '' ? 'renamed' : `“${old}” renamed to “${now}”`),
];
const comesAndGoes = [/\bnew\b/, /\bgone\b/];

const treatments: Readonly<Record<string, Treatment>> = {
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

const each = 8;

/** Pairs of models: edited as text and as JSON by a script of Python. */
export const makeModels: TruthMaker = async function* (folder, share) {
  if (!existsSync(models)) return;
  const script = join(applicationRoot, 'bench', 'truth', 'edit-model.py');
  const all = scenes();
  for (const [group, { is, says, never }] of Object.entries(treatments)) {
    const isObject = group.startsWith('obj');
    const sources = isObject ? objects : all;
    let made = 0;
    for (let round = 0; round < 6 * each && made < Math.max(1, Math.round(each * share)); round++) {
      const source = sources[(round * 5 + made) % sources.length] ?? '';
      const extension = isObject ? 'obj' : 'gltf';
      const [old, now] = [join(folder, `old.${extension}`), join(folder, `new.${extension}`)];
      copyFileSync(source, old);
      let told: Told;
      try {
        const { stdout } = await run('python3', [script, group, old, now, String(round + 1)]);
        told = JSON.parse(stdout) as Told;
      } catch (error) {
        // It has nothing that could be changed so.
        if (/IndexError|KeyError|ValueError/.test(String(error))) continue;
        throw error;
      }
      made++;
      const place = dirname(source);
      const files: Record<string, Uint8Array> = {};
      for (const item of readdirSync(place)) {
        const path = join(place, item);
        if (/\.(bin|png|jpe?g|mtl)$/i.test(item)) files[item] = readFileSync(path);
      }
      yield {
        group,
        name: `${source.slice(models.length + 1)} ${round}`,
        old: { bytes: readFileSync(old), path: `models/a.${extension}`, files },
        now: { bytes: readFileSync(now), path: `models/a.${extension}`, files },
        is,
        ...(says ? { says: says(told) } : {}),
        ...(never ? { never } : {}),
      };
    }
  }
};
