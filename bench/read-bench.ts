import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { joinBlocks8 } from '../core/kinds/picture/blocks/block-images.ts';
import { bc7 } from '../core/kinds/picture/blocks/bc7.ts';
import { readContent } from '../core/kinds/read.ts';
import { seeded } from '../demo/seeded.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { nodePlatform } from '../server/decode/platform.ts';
import { makePictures, side, wavySheet } from './made-contents.ts';
import type { BenchResult } from './result.ts';
import { median, run } from './running.ts';

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
    return {
      bench: 'read',
      figures: {
        pictures,
        pictureSeconds: ours.seconds,
        otherSeconds: theirs.seconds,
        bc7Megapixels,
        modelSeconds,
      },
      ratios: { toOther },
      met: toOther <= 1 && bc7Megapixels > 30 && modelSeconds < 1.5,
    };
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
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
    joinBlocks8(blocks, size, size, 16, bc7);
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
