import { execFile } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { extname, join } from 'node:path';
import { promisify } from 'node:util';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { openPictures } from '../open-pictures.ts';
import { anotherOne, type Said, type Truth, type TruthMaker } from './truth.ts';

const run = promisify(execFile);

interface Told {
  group: string;
  source: string;
  old: string;
  new: string;
  x?: number;
  y?: number;
  width?: number;
  height?: number;
}

interface Treatment {
  is: Truth['is'];
  says?: readonly RegExp[] | ((told: Told) => readonly RegExp[]);
  never?: readonly RegExp[];
  numbers?: (told: Told) => readonly Said[];
}

const loss: Treatment = { is: 'loss', never: [anotherOne] };
const changed = (
  says: NonNullable<Treatment['says']>,
  never: readonly RegExp[] = [anotherOne],
  numbers?: Treatment['numbers'],
): Treatment => ({ is: 'changed', says, never, ...(numbers ? { numbers } : {}) });

/** A box to the pixel: where it is, and how large. */
const boxOf = ({ x = 0, y = 0, width = 0, height = 0 }: Told): readonly RegExp[] => [
  new RegExp(`${width} × ${height} (?:pixels )?at ${x}, ${y}`),
];

/** Within so many pixels, where loss blurs the edges. */
const nearBox = ({ x = 0, y = 0, width = 0, height = 0 }: Told): readonly Said[] => {
  const part = (pattern: RegExp, value: number, tolerance: number): Said => ({ pattern, value, tolerance });
  return [
    part(/(\d+) × \d+ at/, width, 17),
    part(/\d+ × (\d+) at/, height, 17),
    part(/at (\d+), \d+/, x, 17),
    part(/at \d+, (\d+)/, y, 17),
  ];
};

const treatments: Readonly<Record<string, Treatment>> = {
  'PNG packed less': { is: 'same' },
  'WebP without loss': { is: 'same' },
  'JPEG, quality 95': loss,
  'JPEG, quality 85': loss,
  'WebP, quality 92': loss,
  'JPEG, quality 20': changed([/loss/]),
  'one pixel': changed(({ x = 0, y = 0 }) => [new RegExp(`one pixel.* at ${x}, ${y}`, 'i')]),
  'a box': changed(boxOf),
  'a box, packed with loss': changed([/one place|×/], [anotherOne], nearBox),
  'a part cut out': changed(boxOf),
  rolled: changed(({ x = 0, y = 0 }) => [
    /rolled/,
    new RegExp(`${x} (?:pixels )?to the right`),
    new RegExp(`${y} (?:pixels )?down`),
  ]),
  shifted: changed(({ x = 0, y = 0 }) => [
    /shifted/,
    new RegExp(`${x} (?:pixels )?to the right`),
    new RegExp(`${y} (?:pixels )?down`),
  ]),
  'half the size': changed([/half as large|50 %/]),
  'twice the size': changed([/twice as large/], [anotherOne, /2\.00 times/]),
  'stretched to the side': changed([/stretched/, /1\.3/]),
  'halved and enlarged again': changed([/detail|softer|blurr/i]),
  blurred: changed([/softer|blurr/i]),
  brighter: changed([/brighter/i]),
  darker: changed([/darker/i]),
  grey: changed([/grey/i]),
  negative: changed([/negative|inverted/i]),
  'red and blue swapped': changed([/red and blue swapped/i]),
  'mirrored left to right': changed([/mirrored left to right/i]),
  'upside down': changed([/mirrored top to bottom/i]),
  'turned by 180': changed([/turned by 180°/i]),
  'turned by 90': changed([/turned by 90°/i]),
  'half transparent': changed([/alpha|transparen/i]),
  noise: changed([/noise|grain/i]),
  'sixteen colours': changed([/colours/i]),
  'a border': changed([/border/i, /12/]),
  'another picture': changed([/another picture/i], [/the same picture/i]),
  'orientation says turned': changed([/turned by 90°/i]),
  'another gamma': changed([/gamma/i]),
  'another colour profile': changed([/profile/i]),
  'frames shown for longer': changed([/200 ms/]),
  'the second frame': changed([/frame 2\b/]),
};

/** Pairs of pictures: what Pillow did to the open textures of `@pmndrs/assets` (CC0). */
export const makePictures: TruthMaker = async function* (folder, share) {
  const place = join(folder, 'pictures');
  mkdirSync(place, { recursive: true });
  const sources: string[] = [];
  for (const bytes of openPictures()) {
    const path = join(place, `source-${sources.length}.webp`);
    writeFileSync(path, bytes);
    sources.push(path);
  }
  const script = join(applicationRoot, 'bench', 'truth', 'edit-picture.py');
  // Debian's own Python has Debian's Pillow.
  const { stdout } = await run(
    '/usr/bin/python3',
    [script, place, String(Math.max(1, Math.round(10 * share))), ...sources],
    { maxBuffer: 2 ** 26 },
  );
  for (const line of stdout.trim().split('\n')) {
    const told = JSON.parse(line) as Told;
    const treatment = treatments[told.group];
    if (!treatment) throw new RangeError(`makePictures: nothing is said of ${told.group}`);
    const { is, says, never, numbers } = treatment;
    yield {
      group: told.group,
      name: told.source,
      old: { bytes: readFileSync(told.old), path: `pictures/a${extname(told.old)}` },
      now: { bytes: readFileSync(told.new), path: `pictures/a${extname(told.new)}` },
      is,
      ...(says ? { says: typeof says === 'function' ? says(told) : says } : {}),
      ...(never ? { never } : {}),
      ...(numbers ? { numbers: numbers(told) } : {}),
    };
  }
};
