import { mkdirSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { zipSync, type Zippable } from 'fflate';
import { grownMarsh } from './grown/grown-marsh.ts';
import { harbour } from './harbour.ts';
import { lockedZip, type Lock } from './locked-zip.ts';
import { ferry, glb, gltf, heron, lantern, reeds, segmentsOfLevel, stage } from './models.ts';
import { ownSound, propList, reedPack, soundBank, swimmer, tiledTexture } from './own-formats.ts';
import { bumps, planks, sign, speckled, vista } from './pictures.ts';
import { seedOf, seeded } from './seeded.ts';
import { bell, call, flac, mp3, ogg, sampleRate, tune, water, wav } from './sounds.ts';
import { definitions, placements, rights, texts } from './words.ts';

/** The builds of the invented game Mossline Ferry, oldest first. */
export const builds = [
  { label: '0.1', releasedAt: '2026-09-04T09:00:00Z' },
  { label: '0.2', releasedAt: '2026-10-16T09:00:00Z' },
  // Published by the depot, on demand.
  { label: '0.3', releasedAt: '2026-11-20T09:00:00Z' },
  { label: '0.4', releasedAt: '2026-11-23T09:00:00Z' },
  { label: '0.5', releasedAt: '2026-11-27T09:00:00Z' },
  // Far larger than those before.
  { label: '0.6', releasedAt: '2026-11-28T09:00:00Z' },
  { label: '0.7', releasedAt: '2026-11-29T15:00:00Z' },
] as const;
export type BuildLabel = (typeof builds)[number]['label'];

/** Those that the demo begins with. */
export const firstBuilds = builds.slice(0, 2);

export { rights };

/** Keys of locked archives, by the label of the build. */
export const keys: ReadonlyMap<string, string> = new Map([['0.3', 'frost-on-the-ninth-lantern']]);

type Files = Map<string, Uint8Array>;

/** Fixed, so that archives have the same bytes at every run. */
const entryTime = new Date(2026, 0, 1);

/**
 * Writes one build into a folder: about two hundred files in folders, ZIP archives and a ZIP in a ZIP, and some thousand more
 * from 0.6 on. The same bytes at every run.
 */
export async function writeBuild(label: BuildLabel, folder: string): Promise<void> {
  rmSync(folder, { recursive: true, force: true });
  for (const [path, bytes] of await filesOf(label)) {
    const file = join(folder, path);
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, bytes);
    utimesSync(file, entryTime, entryTime);
  }
  symlinkSync('maps/isle_first.json', join(folder, 'start_map.json'));
}

/** All files of a build, those in its archives too, as the generator made them before it packed them. */
export async function leavesOfBuild(label: BuildLabel): Promise<ReadonlyMap<string, Uint8Array>> {
  const leaves: Files = new Map();
  const add = (prefix: string, files: Files): void => {
    for (const [path, bytes] of files) {
      const inner = packed.get(bytes);
      if (inner) add(`${prefix}${path}!/`, inner);
      else leaves.set(prefix + path, bytes);
    }
  };
  add('', await filesOf(label));
  return leaves;
}

/** What the update from 0.1 to 0.2 packed anew, and nothing else: the same pixels in other bytes. */
export const repackedPaths = /^data\/pictures\.zip!\/ground\/\w+_nrm\.png$/;

/** What lies in archives that were made here, by the archives' bytes. */
const packed = new WeakMap<Uint8Array, Files>();

/** The files of a build as they lie in its folder. */
async function filesOf(label: BuildLabel): Promise<Files> {
  const newer = label !== '0.1';
  const isWinter = newer && label !== '0.2';
  const isGrown = label === '0.6' || label === '0.7';
  const loose: Files = new Map();
  const put = (files: Files, path: string, bytes: Uint8Array | string): void => {
    files.set(path, typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes);
  };

  const wood = await planks('deck_board', 256, newer ? [168, 132, 92] : [150, 112, 74], 6);
  const brass = await speckled('lum_brass', 128, [176, 128, 52], [92, 110, 80], 'png');

  const models: Files = new Map();
  for (const [index, name] of ['lum_pier', 'lum_bow', 'lum_marsh'].entries()) {
    for (const [level, segments] of segmentsOfLevel.entries()) {
      const ridges = newer && name === 'lum_pier' ? 5 : 2;
      put(
        models,
        `props/lum/${name}_l${level}.glb`,
        await glb(name, lantern(segments, 0.6 + index * 0.15, ridges, brass)),
      );
    }
  }
  for (const [index, name] of ['fry_small', 'fry_mail', 'fry_night'].entries()) {
    for (const [level, segments] of segmentsOfLevel.entries()) {
      put(
        models,
        `boats/${name}_l${level}.glb`,
        await glb(name, ferry(Math.ceil(segments * 0.7), 5 + index * 2.5, wood)),
      );
    }
  }
  for (let stand = 1; stand <= 5; stand++) {
    for (const [level, segments] of [6, 3].entries()) {
      // The fifth stand has lost its coarse level.
      if (newer && stand === 5 && level === 1) continue;
      const stalks = newer && stand === 3 ? 44 : 22 + stand;
      put(
        models,
        `plants/rd_${stand}_l${level}.glb`,
        await glb(`rd_${stand}`, reeds(stalks, segments, seeded(seedOf(`rd_${stand}`)))),
      );
    }
  }
  put(models, 'birds/gru_grey.glb', await heron(1, 18, newer ? 91 / 30 : 60 / 30));
  put(models, newer ? 'birds/young/gru_young.glb' : 'birds/gru_young.glb', await heron(0.6, 14, 48 / 30));
  if (newer) put(models, 'birds/gru_white.glb', await heron(1.15, 20, 72 / 30));

  if (newer) put(models, 'market/lum_bow_l0.glb', models.get('props/lum/lum_bow_l0.glb') ?? '');

  const skins: Files = new Map();
  for (let palette = 0; palette < (newer ? 6 : 4); palette++) {
    const colour = [120 + palette * 20, 70 + palette * 12, 160 - palette * 18] as const;
    put(
      skins,
      `fry_hull_p${String(palette).padStart(2, '0')}.png`,
      await planks(`hull${palette}`, 128, colour, 5),
    );
  }
  put(models, 'boats/skins.zip', zip(skins));
  put(loose, 'data/models.zip', zip(models));

  const pictures: Files = new Map();
  for (const name of ['moss', 'rust', 'rope', 'slate', 'reed_mat', 'wet_sand', 'bark', 'tar']) {
    const random = seeded(seedOf(name));
    const colour = (): [number, number, number] => [
      60 + random() * 150,
      60 + random() * 130,
      50 + random() * 110,
    ];
    const spots = colour();
    const warmer = newer && ['moss', 'bark'].includes(name) ? 30 : 0;
    put(
      pictures,
      `ground/${name}_col.png`,
      await speckled(name, 256, colour(), [spots[0] + warmer, spots[1], spots[2]], 'png'),
    );
    // The update packed them anew, and nothing else.
    put(pictures, `ground/${name}_nrm.png`, await bumps(name, 256, newer ? 6 : 9));
    if (newer && name === 'tar') continue;
    put(
      pictures,
      `ground/${name}_rgh.jpg`,
      await speckled(`${name}r`, 128, [150, 150, 150], [90, 90, 90], 'jpeg'),
    );
  }
  for (const name of ['dawn', 'noon', 'fog']) {
    const sky =
      name === 'dawn'
        ? ([232, 170, 130] as const)
        : name === 'fog'
          ? ([190, 196, 196] as const)
          : ([150, 190, 214] as const);
    put(pictures, `loading/${name}.png`, await vista(name, newer && name === 'fog' ? 768 : 512, sky, true));
  }
  put(loose, 'data/pictures.zip', zip(pictures));

  // The signs moved to another folder between the builds; two are new, one is a copy.
  const signs = [
    'ferry',
    'lantern',
    'heron',
    'reed',
    'stage',
    'ticket',
    'compass',
    'anchor',
    'net',
    'oar',
    'flag',
    'knot',
  ];
  const signFolder = newer ? 'interface/signs' : 'ui/icons';
  for (const name of signs)
    put(loose, `${signFolder}/sg_${name}.png`, await sign(name, 96, [24, 70, 74], 'png'));
  for (const name of ['ripple', 'spark', 'leaf'])
    put(loose, `interface/effects/fx_${name}.webp`, await sign(`fx${name}`, 128, [210, 120, 60], 'webp'));
  put(loose, 'interface/effects/fx_wait.gif', await sign('wait', 64, [80, 90, 90], 'gif'));
  if (newer) {
    for (const name of ['beacon', 'whistle'])
      put(loose, `interface/signs/sg_${name}.png`, await sign(name, 96, [186, 74, 34], 'png'));
    put(loose, 'interface/effects/market/fx_leaf.webp', loose.get('interface/effects/fx_leaf.webp') ?? '');
  }

  for (const level of [0, 1]) {
    // The boathouse names a picture that the older build lacks.
    const files = await gltf(
      `boathouse_l${level}`,
      stage(level === 0 ? 9 : 4, wood),
      'deck_board_col.png',
      !newer,
    );
    for (const [name, bytes] of files) put(loose, `models/boathouse/${name}`, bytes);
  }
  for (const [name, boards] of [
    ['stage_small', 5],
    ['stage_long', newer ? 14 : 11],
    ['stage_market', 8],
  ] as const) {
    put(loose, `models/stages/${name}.glb`, await glb(name, stage(boards, wood)));
  }

  const effects: Files = new Map();
  for (const [name, frequency] of [
    ['dock', 330],
    ['fog', 165],
    ['market', 523],
    ['alarm', 660],
  ] as const) {
    put(
      effects,
      `bells/bell_${name}.wav`,
      wav(bell(newer && name === 'fog' ? frequency * 0.75 : frequency, 1.6)),
    );
  }
  for (let step = 1; step <= (newer ? 5 : 6); step++)
    put(effects, `steps/plank_${step}.wav`, wav(water(`plank${step}`, 0.18)));
  for (const [name, from, to] of [
    ['gru_far', 700, 420],
    ['gru_near', 620, 380],
    ['gru_young', 900, 700],
  ] as const) {
    put(effects, `birds/${name}.ogg`, await ogg(call(from, to, 0.8)));
  }
  for (let wave = 1; wave <= 4; wave++)
    put(effects, `water/lap_${wave}.flac`, await flac(water(`lap${wave}`, 1.2)));
  put(loose, 'data/effects.zip', zip(effects));
  for (const [name, bars] of [
    ['crossing', 4],
    ['low_water', 3],
    ['lamplight', newer ? 6 : 4],
  ] as const) {
    const samples = tune(name, bars);
    put(
      loose,
      newer && name === 'low_water' ? 'music/slow/low_water.wav' : `music/${name}.wav`,
      wav(samples, { startFrame: sampleRate * 2, endFrame: samples.length - 1 }),
    );
    put(loose, `music/${name}_preview.mp3`, await mp3(samples.subarray(0, sampleRate * 3)));
  }
  if (newer) {
    put(loose, 'music/white_heron.ogg', await ogg(tune('white_heron', 5)));
    put(loose, 'music/festival/crossing.wav', loose.get('music/crossing.wav') ?? '');
  }

  for (const [path, text] of [...placements(newer), ...definitions(newer), ...texts(newer)])
    put(loose, path, text);
  for (const [path, bytes] of await harbour(newer)) put(loose, path, bytes);
  if (newer) {
    relay(loose, 'maps/isle_heron.json', 'maps/inner/isle_heron.json');
    relay(loose, 'text/logbook/page_24.txt', 'text/archive/page_24.txt');
    put(loose, 'maps/festival/isle_market_day.json', loose.get('maps/isle_fog.json') ?? '');
    put(loose, 'text/archive/page_02_copy.txt', loose.get('text/logbook/page_02.txt') ?? '');
  }
  if (isWinter) {
    const winter: Files = new Map();
    const ice = await speckled('lum_ice', 128, [196, 216, 226], [150, 180, 200], 'png');
    put(winter, 'props/lum_ice_l0.glb', await glb('lum_ice', lantern(48, 0.8, 7, ice)));
    put(winter, 'loading/frost.png', await vista('frost', 512, [206, 214, 226], true));
    put(winter, 'text/winter.txt', 'The ferries lie still. The herons walk on the ice.\n');
    put(loose, 'data/winter.zip', lockedZip(winter, winterLock));
    put(loose, 'interface/signs/sg_snow.png', await sign('snow', 96, [60, 110, 150], 'png'));
    put(loose, 'text/logbook/page_30.txt', 'First frost. The ninth lantern is to stay lit.\n');
    loose.delete('interface/effects/fx_wait.gif');
    for (const [path, bytes] of ownFiles(label)) put(loose, path, bytes);
  }
  if (isGrown) {
    const grown = await grownMarsh(label === '0.7');
    for (const [path, bytes] of grown.loose) put(loose, path, bytes);
    put(loose, 'data/marsh_models.zip', zip(grown.models));
    put(loose, 'data/marsh_textures.zip', zip(grown.textures));
  }
  put(loose, 'RIGHTS.txt', `${rights}\n`);
  // A file that was cut short on its way.
  const whole = await sign('cut', 200, [90, 40, 40], 'png');
  put(loose, 'interface/signs/sg_cut.png', whole.subarray(0, Math.floor(whole.length * 0.6)));

  return loose;
}

/** What the game keeps in formats of its own, from build 0.3 on. */
function ownFiles(label: BuildLabel): Files {
  const layout = ['0.5', '0.6', '0.7'].includes(label) ? 2 : 1;
  const isLater = label !== '0.3';
  const marsh: Files = new Map();
  const size = 128;
  const wave = (x: number, y: number, step: number): number =>
    0.5 + 0.5 * Math.sin((x + Math.sin(y / 9) * 4) / step);
  for (const [name, step, warm] of [
    ['otter', 5, 40],
    ['perch', 3, isLater ? 90 : 10],
    ['reed_bed', 2, -30],
  ] as const)
    marsh.set(
      `textures/${name}.mltx`,
      tiledTexture(size, (x, y) => {
        const light = 60 + 120 * wave(x, y, step);
        return [Math.max(0, Math.min(255, light + warm)), light, Math.max(0, light - 40)];
      }),
    );
  marsh.set('animals/otter.mlmd', swimmer('otter', isLater ? 24 : 18, 1.1, layout));
  marsh.set('animals/perch.mlmd', swimmer('perch', 12, 0.3, layout));
  if (isLater) marsh.set('animals/pike.mlmd', swimmer('pike', 20, 0.9, layout));
  const { pack, names } = reedPack(marsh, layout);
  const models = ['props/lum/lum_pier_l0.glb', 'props/lum/lum_bow_l0.glb', 'plants/rd_1_l0.glb'];
  const places = models.map((path) => `data/models.zip!/${path}`);
  const bank = new Map<string, Uint8Array>([
    ['otter_call.mlsn', ownSound(call(900, 1500, 0.5), sampleRate)],
    ['splash.mlsn', ownSound(water('splash', isLater ? 0.9 : 0.6), sampleRate)],
    ['far_bell.mlsn', ownSound(bell(330, 1.2), sampleRate)],
    ['mast_bell.mlsn', ownSound(bell(660, 0.8), sampleRate)],
  ]);
  return new Map<string, Uint8Array>([
    ['data/marsh.mlpk', pack],
    ['data/marsh.mlnm', names],
    [
      'maps/landing.mlprop',
      Buffer.from(propList('landing', isLater ? [...places, ...places.slice(0, 1)] : places)),
    ],
    ['sound/marsh.mlsb', soundBank(bank)],
  ]);
}

/** Salts from a seed, so that the archive has the same bytes at every run. */
const winterLock: Lock = {
  passphrase: keys.get('0.3') ?? '',
  strength: 3,
  salt(name, length) {
    const random = seeded(seedOf(name));
    return Buffer.from(Array.from({ length }, () => Math.floor(random() * 256)));
  },
};

function relay(files: Files, from: string, to: string): void {
  files.set(to, files.get(from) ?? new Uint8Array(0));
  files.delete(from);
}

function zip(files: Files): Uint8Array {
  const tree: Zippable = {};
  for (const [path, bytes] of files) {
    // What is packed already is stored: an archive in an archive can then be read in place.
    const isPacked = /\.(zip|png|jpg|webp|ogg|flac)$/.test(path);
    tree[path] = [bytes, { level: isPacked ? 0 : 6, mtime: entryTime, os: 3 }];
  }
  const bytes = zipSync(tree);
  packed.set(bytes, files);
  return bytes;
}
