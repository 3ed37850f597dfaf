import { seedOf, seeded } from '../seeded.ts';
import { birds } from './birds.ts';
import { boats } from './boats.ts';
import { cargo } from './cargo.ts';
import { heightOf, huts, type Isle } from './land.ts';
import { plantKinds, plantNumbers } from './plants.ts';

const archive = 'data/marsh_models.zip!/';
/** Lilies lie on water. */
const onLand = plantKinds.filter((kind) => kind !== 'lily');
const lamps = ['lum_pier', 'lum_bow', 'lum_marsh', 'lum_mill', 'lum_king', 'lum_post'];

interface Placed {
  id: string;
  model: string;
  class: string;
  position: number[];
  rotation: number[];
  scale: number[];
}

/** Placements of each map: from fifty to three thousand. */
export const placementsOf: Readonly<Record<string, number>> = {
  isle_tern: 50,
  isle_lamp: 120,
  isle_post: 240,
  isle_mill: 420,
  isle_last: 700,
  isle_long: 1000,
  isle_reed: 1800,
  isle_king: 3000,
};

/** A map of an isle: what stands on it, what swims around it, and zones that only the game knows. */
export function mapOf(isle: Isle, isLater: boolean): string {
  const random = seeded(seedOf(`map ${isle.name}`));
  const at = heightOf(isle);
  const count = placementsOf[isle.name] ?? 50;
  const of = (list: readonly string[]): string => list[Math.floor(random() * list.length)] ?? '';
  const round = (value: number): number => Math.round(value * 1000) / 1000;
  const items: Placed[] = [];
  const put = (model: string, kind: string, position: number[], size = 1): void => {
    const turn = random() * Math.PI;
    items.push({
      id: `${isle.name}_${String(items.length).padStart(4, '0')}`,
      ...{ model, class: kind, position: position.map(round) },
      rotation: [0, round(Math.sin(turn)), 0, round(Math.cos(turn))],
      scale: [size, size, size].map(round),
    });
  };
  put(`${archive}land/${isle.name}_l0`, 'land', [0, 0, 0]);
  Object.assign(items[0] ?? {}, { rotation: [0, 0, 0, 1] });
  while (items.length < count - 4) {
    const [u, v] = [random(), random()];
    const height = at(u, v);
    const [x, z] = [(u - 0.5) * isle.size, (v - 0.5) * isle.size];
    const what = random();
    if (height < -0.1) {
      if (what < 0.12)
        put(`${archive}boats/${of(boats.map(({ name }) => name))}_l0`, 'boat', [x * 1.3, -0.2, z * 1.3]);
      else if (what < 0.9)
        put(
          `${archive}plants/reed_${1 + Math.floor(random() * 12)}_l0`,
          'plant',
          [x, Math.max(height, -0.5), z],
          0.8 + random() * 0.5,
        );
      continue;
    }
    if (what < 0.05) put(`${archive}huts/${of(huts.map(({ name }) => name))}_l0`, 'hut', [x, height, z]);
    else if (what < 0.14) put(`${archive}lanterns/${of(lamps)}_l0`, 'light', [x, height, z]);
    else if (what < 0.2)
      put(`${archive}birds/${of(birds.map(({ name }) => name))}_l0`, 'bird', [x, height, z]);
    else if (what < 0.27) put(`${archive}cargo/${of(cargo)}_l0`, 'cargo', [x, height, z]);
    else if (what < 0.6)
      put(
        `${archive}plants/${of(onLand)}_${of(plantNumbers.map(String))}_l0`,
        'plant',
        [x, height, z],
        0.6 + random() * 0.6,
      );
    else
      put(
        `${archive}plants/reed_${1 + Math.floor(random() * 12)}_l0`,
        'plant',
        [x, height, z],
        0.6 + random() * 0.7,
      );
  }
  for (const [name, share] of [
    ['quiet', 0.3],
    ['tide', 0.9],
    ['market', 0.2],
    ['start', 0.08],
  ] as const) {
    put('', `zone ${name}`, [(random() - 0.5) * isle.size * 0.4, 0, (random() - 0.5) * isle.size * 0.4]);
    Object.assign(items.at(-1) ?? {}, {
      scale: [isle.size * share, isle.height + 2, isle.size * share].map(round),
      rotation: [0, 0, 0, 1],
    });
  }
  // What the next update will open: files name it before players see it.
  if (isLater && isle.name === 'isle_king')
    put(`${archive}huts/hut_observatory_l0`, 'hut', [0, isle.height, 0]);
  return `${JSON.stringify(
    {
      ...{
        name: isle.name,
        units: 'metres',
        heights: `maps/heights/${isle.name}_height.png`,
        ground: `maps/heights/${isle.name}_ground.jpg`,
        placements: items,
      },
    },
    null,
    1,
  )}\n`;
}
