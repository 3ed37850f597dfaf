import { execFile } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { openPictures } from '../open-pictures.ts';
import { anotherOne, someOf, type Truth, type TruthMaker } from './truth.ts';

const run = promisify(execFile);

interface Treatment {
  is: Truth['is'];
  /** Arguments between the older file and the newer one. */
  make: readonly string[];
  /** Ending of the newer file, where it is not PNG. */
  ending?: string;
  says?: readonly RegExp[];
}

/** What Debian's ImageMagick does (`convert`, called by the name that only its package has). */
const magick: Readonly<Record<string, Treatment>> = {
  'mirrored left to right': { is: 'changed', make: ['-flop'], says: [/mirrored left to right/] },
  'upside down': { is: 'changed', make: ['-flip'], says: [/mirrored top to bottom/] },
  'turned by 90': { is: 'changed', make: ['-rotate', '90'], says: [/turned by 90°/] },
  'rolled by 40 and 24': {
    is: 'changed',
    make: ['-roll', '+40+24'],
    says: [/rolled/, /40 pixels to the right/, /24 pixels down/],
  },
  'half the size': { is: 'changed', make: ['-resize', '50%'], says: [/half as large/] },
  'twice as wide': { is: 'changed', make: ['-resize', '200%x100%!'], says: [/stretched: twice as wide\./] },
  'a border of 16': {
    is: 'changed',
    make: ['-bordercolor', 'red', '-border', '16'],
    says: [/borders? added/, /16/],
  },
  'a part cut out': {
    is: 'changed',
    make: ['-crop', '120x90+30+40', '+repage'],
    says: [/a part of the same picture: 120 × 90 at 30, 40/i],
  },
  'a red box': {
    is: 'changed',
    make: ['-fill', 'rgb(255,0,1)', '-draw', 'rectangle 50,60 79,99'],
    says: [/30 × 40 at 50, 60/],
  },
  grey: { is: 'changed', make: ['-colorspace', 'Gray'], says: [/grey/] },
  negative: { is: 'changed', make: ['-channel', 'RGB', '-negate'], says: [/negative/i] },
  brighter: { is: 'changed', make: ['-evaluate', 'multiply', '1.2'], says: [/brighter/] },
  blurred: { is: 'changed', make: ['-blur', '0x3'], says: [/softer|blurred/] },
  'sixteen bits': { is: 'same', make: ['-depth', '16'] },
  'TIFF of the same pixels': { is: 'same', make: [], ending: '.tif' },
  'JPEG, quality 92': { is: 'loss', make: ['-quality', '92'], ending: '.jpg' },
};

/** What OpenImageIO does. */
const oiio: Readonly<Record<string, Treatment>> = {
  flop: { is: 'changed', make: ['--flop'], says: [/mirrored left to right/] },
  flip: { is: 'changed', make: ['--flip'], says: [/mirrored top to bottom/] },
  rotate180: { is: 'changed', make: ['--rotate180'], says: [/turned by 180°/] },
  'red and blue swapped': { is: 'changed', make: ['--ch', 'B,G,R'], says: [/red and blue swapped/] },
  'darker by a quarter': { is: 'changed', make: ['--mulc', '0.75'], says: [/darker/] },
  inverted: { is: 'changed', make: ['--invert'], says: [/negative/i] },
  'resized to 150 %': { is: 'changed', make: ['--resize', '150%'], says: [/1\.5 times as large/] },
  'TGA of the same pixels': { is: 'same', make: [], ending: '.tga' },
  'BMP of the same pixels': { is: 'same', make: [], ending: '.bmp' },
};

const programs: readonly {
  name: string;
  table: Readonly<Record<string, Treatment>>;
  call: (old: string, now: string, make: readonly string[]) => [string, string[]];
}[] = [
  {
    name: 'ImageMagick',
    table: magick,
    call: (old, now, make) => ['convert', [old, ...make, now]],
  },
  {
    name: 'OpenImageIO',
    table: oiio,
    call: (old, now, make) => ['oiiotool', [old, ...make, '-o', now]],
  },
];

const picturesOfTreatment = 6;
/** At a share of 1; there are some 320. */
const mostSources = 24;

/** Pairs of pictures: what ImageMagick and OpenImageIO did to the open textures of `@pmndrs/assets` (CC0). */
export const makeToolPictures: TruthMaker = async function* (folder, share) {
  const place = join(folder, 'picture-tools');
  mkdirSync(place, { recursive: true });
  const sources = someOf([...openPictures()], (mostSources * Math.max(0.25, share)) / 320);
  const olds: string[] = [];
  for (const [at, bytes] of sources.entries()) {
    const [packed, old] = [join(place, `${at}.webp`), join(place, `${at}.png`)];
    writeFileSync(packed, bytes);
    // No two sides alike, no alpha.
    await run('convert', [packed, '-alpha', 'off', '-resize', '320x240!', '-depth', '8', `png24:${old}`]);
    olds.push(old);
  }
  let round = 0;
  for (const { name, table, call } of programs)
    for (const [group, { is, make, ending = '.png', says }] of Object.entries(table))
      for (let time = 0; time < Math.max(1, Math.round(picturesOfTreatment * share)); time++) {
        const old = olds[round++ % olds.length] ?? '';
        const now = join(place, `now${ending}`);
        const [program, args] = call(old, now, make);
        await run(program, args);
        // A grey picture has no red to swap.
        if (is === 'changed' && (await areEqual(old, now))) continue;
        yield {
          group: `${name}: ${group}`,
          name: old.slice(place.length + 1),
          old: { bytes: readFileSync(old), path: 'pictures/a.png' },
          now: { bytes: readFileSync(now), path: `pictures/a${ending}` },
          is,
          never: [anotherOne],
          ...(says ? { says } : {}),
        };
      }
};

/** By ImageMagick's own count of the pixels that differ; pictures of two sizes are not. */
async function areEqual(old: string, now: string): Promise<boolean> {
  return run('compare', ['-metric', 'AE', old, now, 'null:']).then(
    () => true,
    () => false,
  );
}
