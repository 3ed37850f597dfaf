import { lantern, reeds, stage } from '../models.ts';
import { sign, speckled, planks } from '../pictures.ts';
import { seedOf, seeded } from '../seeded.ts';
import { glb } from '../models.ts';
import { bird, birdClip, birdClips, birds } from './birds.ts';
import { boat, boats } from './boats.ts';
import { cargo, cargoModel } from './cargo.ts';
import { groundPicture, heightField, hut, huts, isle, isles } from './land.ts';
import { mapOf } from './maps.ts';
import { noises } from './noises.ts';
import { plantKinds, plantModel, plantNumbers } from './plants.ts';
import { picturesOf, surfaces } from './surfaces.ts';
import { voices } from './voices.ts';

export interface GrownFiles {
  /** In the build’s folder. */
  loose: Map<string, Uint8Array | string>;
  /** Of an archive of models, and of one of textures. */
  models: Map<string, Uint8Array>;
  textures: Map<string, Uint8Array>;
}

const levels = [0, 1, 2, 3, 4] as const;
const segmentsOf = [40, 24, 14, 8, 5] as const;

/** What the game has grown to by build 0.6; build 0.7 changes some of it, and names what is to come. */
export async function grownMarsh(isLater: boolean): Promise<GrownFiles> {
  const models = new Map<string, Uint8Array>();
  const textures = new Map<string, Uint8Array>();
  const loose = new Map<string, Uint8Array | string>();

  for (const surface of surfaces) {
    // The king’s ferry was painted anew.
    const isPainted = isLater && surface.name === 'cabin_red';
    const used = isPainted
      ? { ...surface, low: [28, 60, 76] as const, high: [56, 118, 134] as const }
      : surface;
    for (const [name, bytes] of await picturesOf(used)) textures.set(`${surface.name}/${name}`, bytes);
  }
  for (const which of boats)
    for (const level of levels) {
      const longer = isLater && which.name === 'fry_king' ? { ...which, cabins: 4 } : which;
      models.set(`boats/${which.name}_l${level}.glb`, await boat(longer, level));
    }
  for (const which of birds) {
    for (const level of levels) models.set(`birds/${which.name}_l${level}.glb`, await bird(which, level));
    for (const [name, clip] of Object.entries(birdClips)) {
      // It looks about for longer now.
      const used = isLater && name === 'look' && which.name === 'gru_snow' ? { ...clip, seconds: 4 } : clip;
      models.set(`birds/clips/${which.name}_${name}.glb`, await birdClip(which, used));
    }
  }
  for (const which of isles)
    for (const level of levels) models.set(`land/${which.name}_l${level}.glb`, await isle(which, level));
  for (const which of huts)
    for (const level of levels) models.set(`huts/${which.name}_l${level}.glb`, await hut(which, level));
  if (isLater)
    for (const level of levels)
      models.set(
        `huts/hut_observatory_l${level}.glb`,
        await hut({ name: 'hut_observatory', wide: 7, long: 7, floors: 5 }, level),
      );
  const brass = await speckled('lum_grown', 128, [176, 128, 52], [92, 110, 80], 'png');
  const wood = await planks('stage_grown', 128, [168, 132, 92], 6);
  for (const [index, name] of [
    'lum_pier',
    'lum_bow',
    'lum_marsh',
    'lum_mill',
    'lum_king',
    'lum_post',
  ].entries())
    for (const level of levels)
      models.set(
        `lanterns/${name}_l${level}.glb`,
        await glb(name, lantern(segmentsOf[level], 0.6 + index * 0.18, 6 - level, brass)),
      );
  for (let bed = 1; bed <= 12; bed++)
    for (const level of levels) {
      const stalks = Math.max(3, Math.round((14 + bed * 3) / (level + 1)));
      models.set(
        `plants/reed_${bed}_l${level}.glb`,
        await glb(`reed_${bed}`, reeds(stalks, Math.max(3, 6 - level), seeded(seedOf(`reed ${bed}`)))),
      );
    }
  for (const [name, boards] of [
    ['stage_mill', 7],
    ['stage_king', 24],
    ['stage_post', 10],
    ['stage_tern', 4],
  ] as const)
    for (const level of levels)
      models.set(`stages/${name}_l${level}.glb`, await glb(name, stage(Math.max(2, boards >> level), wood)));

  for (const name of cargo)
    for (const level of levels) models.set(`cargo/${name}_l${level}.glb`, await cargoModel(name, level));
  for (const kind of plantKinds)
    for (const number of plantNumbers)
      for (const level of levels)
        models.set(`plants/${kind}_${number}_l${level}.glb`, await plantModel(kind, number, level));

  for (const which of isles) {
    loose.set(`maps/marsh/${which.name}.json`, mapOf(which, isLater));
    loose.set(`maps/heights/${which.name}_height.png`, await heightField(which, 257));
    loose.set(`maps/heights/${which.name}_ground.jpg`, await groundPicture(which, 384));
  }
  for (const [path, bytes] of await voices()) loose.set(path, bytes);
  for (const [path, bytes] of noises()) loose.set(path, bytes);
  for (const [at, name] of [...cargo, ...plantKinds].entries())
    for (const pixels of [48, 96, 160])
      loose.set(`interface/goods/${name}_${pixels}.png`, await sign(name, pixels, badge(at + 7), 'png'));
  for (const [path, text] of words(isLater)) loose.set(path, text);
  for (let number = 1; number <= 80; number++)
    loose.set(
      `interface/badges/bdg_${String(number).padStart(3, '0')}.png`,
      await sign(`badge ${number}`, 64, badge(number), 'png'),
    );
  return { loose, models, textures };
}

function badge(number: number): [number, number, number] {
  return [60 + ((number * 37) % 150), 60 + ((number * 59) % 110), 50 + ((number * 83) % 120)];
}

/** Definitions of all that is placed, pages of logbooks, and routes. */
function words(isLater: boolean): [path: string, text: string][] {
  const files: [string, string][] = [];
  for (const { name, length, lamps } of boats)
    files.push([
      `definitions/boats/${name}.ini`,
      `[${name}]\nmodel=data/marsh_models.zip!/boats/${name}_l0\nlength_m=${length}\nlamps=${lamps}\n`,
    ]);
  for (const { name, scale } of birds)
    files.push([
      `definitions/birds/${name}.ini`,
      `[${name}]\nmodel=data/marsh_models.zip!/birds/${name}_l0\nscale=${scale}\nshy=${isLater && name === 'rail_mud' ? 3 : 2}\n`,
    ]);
  for (const { name, floors } of huts)
    files.push([
      `definitions/huts/${name}.ini`,
      `[${name}]\nmodel=data/marsh_models.zip!/huts/${name}_l0\nfloors=${floors}\n`,
    ]);
  for (let route = 1; route <= 120; route++)
    files.push([
      `definitions/crossings/crossing_${String(route).padStart(3, '0')}.json`,
      `${JSON.stringify({ from: `stage_${route % 9}`, to: `stage_${(route * 5) % 11}`, minutes: 4 + ((route * 7) % 31), lamps: route % 4 }, null, 1)}\n`,
    ]);
  const tides = ['ebb', 'flood', 'slack'];
  for (let page = 1; page <= 300; page++)
    files.push([
      `text/ledgers/ledger_${String(page).padStart(3, '0')}.txt`,
      `Ledger, page ${page}.\nTide: ${tides[page % 3]}.\nPassengers: ${(page * 13) % 41}.\nReeds: ${(page * 5) % 17} bundles.\n`,
    ]);
  const from = ['the mill', 'the long isle', 'the king’s stage', 'the reed beds', 'the lamp'];
  const news = [
    'The ferry was late.',
    'We need oil.',
    'The heron is back.',
    'The rope gave way.',
    'Fog again.',
  ];
  for (let letter = 1; letter <= 160; letter++)
    files.push([
      `text/letters/letter_${String(letter).padStart(3, '0')}.md`,
      `# From ${from[letter % 5] ?? ''}\n\n${news[(letter * 3) % 5] ?? ''} ${news[(letter * 7 + 1) % 5] ?? ''} Send ${(letter * 11) % 9} lamps.\n`,
    ]);
  if (isLater)
    files.push([
      'text/en/observatory.json',
      '{"observatory.door": "Closed until the first stars.", "observatory.key": "Whose key is this?"}\n',
    ]);
  return files;
}
