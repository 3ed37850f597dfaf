import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { joinBc7 } from '../core/kinds/picture/blocks/join-in-kernel.ts';
import { readContent } from '../core/kinds/read.ts';
import { seeded } from '../demo/seeded.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { nodePlatform } from '../server/decode/platform.ts';
import { makePictures, side, wavySheet } from './made-contents.ts';
import { resultOf, type BenchResult } from './result.ts';
import { median, run } from './running.ts';

const asked = {
  toOther: { what: 'facts and previews of pictures / `mogrify -thumbnail`', most: 0.13, quick: 1.5 },
  bc7Megapixels: { what: 'BC7, million pixels a second', least: 150, quick: 30 },
  soundsToDecoders: {
    what: 'facts of Vorbis and FLAC of 3 minutes / `oggdec` and `flac -t`',
    most: 1.5,
    quick: 12,
  },
  modelSeconds: { what: 'a model of 199,712 triangles, s', most: 0.6, quick: 5 },
};

/**
 * Facts, fingerprints and previews. Pictures: a whole index of them, with hashing and storing, against ImageMagick's
 * `mogrify -thumbnail`, which writes thumbnails and nothing more, with as many threads. In turn, in one run.
 */
export async function benchRead(say: (line: string) => void, pictures = 2000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-read-'));
  try {
    say(`Making ${pictures} pictures of ${side} x ${side}`);
    const folder = join(work, 'pictures');
    const thumbnails = join(work, 'thumbnails');
    mkdirSync(folder);
    mkdirSync(thumbnails);
    await makePictures(folder, pictures);
    const args = ['index', folder, '--title', 'Read', '--build', '1', '--data', join(work, 'data'), '--json'];
    const ours = await run(join(applicationRoot, 'worvel'), args);
    say(`worvel index ${ours.seconds.toFixed(1)} s`);
    const theirs = await run('mogrify', [
      '-thumbnail',
      '256x256',
      '-path',
      thumbnails,
      join(folder, '*.png'),
    ]);
    say(`mogrify ${theirs.seconds.toFixed(1)} s`);
    const bc7Megapixels = timeBc7();
    say(`BC7 ${bc7Megapixels.toFixed(1)} million pixels a second`);
    const modelSeconds = await timeModel(316);
    say(`a model of 199,712 triangles ${modelSeconds.toFixed(2)} s`);
    const toOther = ours.seconds / theirs.seconds;
    const sounds = await timeSounds(work, Math.ceil(pictures / 20), say);
    return resultOf(
      'read',
      {
        pictures,
        pictureSeconds: ours.seconds,
        otherSeconds: theirs.seconds,
        bc7Megapixels,
        modelSeconds,
        ...sounds,
      },
      { toOther, soundsToDecoders: sounds.soundSeconds / sounds.decoderSeconds },
      asked,
    );
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

/** So many are made; the others have other comments only, so that each is a content of its own. */
const madeSounds = 4;

/** Sounds of 3 minutes, half of them Vorbis and half FLAC, beside their own decoders on as many cores. */
async function timeSounds(
  work: string,
  each: number,
  say: (line: string) => void,
): Promise<{ sounds: number; soundSeconds: number; decoderSeconds: number }> {
  const folder = join(work, 'sounds');
  mkdirSync(folder);
  say(`Making ${each} Vorbis and ${each} FLAC files of 3 minutes`);
  const script = `cd "$0"
    for number in $(seq 0 ${Math.min(each, madeSounds) - 1}); do
      sox -q -n -r 44100 -c 2 -b 16 made.wav synth 180 pluck $((number * 3 + 40)) pluck $((number * 5 + 90)) remix 1,2 2 tremolo $((number + 2)) 40 gain -6
      oggenc -Q -q 4 -o made_$number.ogg made.wav && flac -s -f -o made_$number.flac made.wav
    done
    for number in $(seq 0 ${each - 1}); do
      from=$((number % ${Math.min(each, madeSounds)}))
      vorbiscomment -w -t "TITLE=$number" made_$from.ogg tune_$number.ogg
      cp made_$from.flac tune_$number.flac && metaflac --set-tag="TITLE=$number" tune_$number.flac
    done
    rm made*`;
  await run('sh', ['-c', script, folder]);
  const data = join(work, 'sounds-data');
  const args = ['index', folder, '--title', 'Sounds', '--build', '1', '--data', data, '--json'];
  const ours = await run(join(applicationRoot, 'worvel'), args);
  const theirs = await run('sh', [
    '-c',
    'cd "$0" && { ls *.ogg | xargs -P 2 -I {} oggdec -Q -o /dev/null {}; ls *.flac | xargs -P 2 -n 4 flac -s -t; }',
    folder,
  ]);
  say(`${each * 2} sounds ${ours.seconds.toFixed(1)} s, their decoders ${theirs.seconds.toFixed(1)} s`);
  return { sounds: each * 2, soundSeconds: ours.seconds, decoderSeconds: theirs.seconds };
}

/** Blocks of random bits, every mode as often as another: what an encoder writes has fewer of the costly ones. */
function timeBc7(): number {
  const random = seeded(7);
  const size = 2048;
  const blocks = Uint8Array.from({ length: size * size }, () => random() * 256);
  for (let block = 0; block < blocks.length / 16; block++) {
    const mode = block % 8;
    blocks[block * 16] = ((blocks[block * 16] ?? 0) & ~((2 << mode) - 1)) | (1 << mode);
  }
  const rates = Array.from({ length: 7 }, () => {
    const begin = performance.now();
    joinBc7(blocks, size, size);
    return (size * size) / (performance.now() - begin) / 1000;
  });
  return median(rates);
}

/** Reading a wavy sheet of so many steps. */
async function timeModel(steps: number): Promise<number> {
  const bytes = await wavySheet(steps);
  const times: number[] = [];
  for (let round = 0; round < 3; round++) {
    const begin = performance.now();
    await readContent('glb', {
      bytes,
      size: bytes.length,
      part: (start, end) => bytes.subarray(start, end),
      path: 'sheet.glb',
      platform: nodePlatform,
      resolve: () => Promise.resolve(null),
    });
    times.push((performance.now() - begin) / 1000);
  }
  return median(times);
}
