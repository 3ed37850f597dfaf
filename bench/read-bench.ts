import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Document, WebIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { joinBlocks8 } from '../core/kinds/picture/blocks/block-images.ts';
import { bc7 } from '../core/kinds/picture/blocks/bc7.ts';
import { readContent } from '../core/kinds/read.ts';
import { seeded } from '../demo/seeded.ts';
import { applicationRoot } from '../server/application-root.ts';
import { nodePlatform } from '../server/readers/platform.ts';
import type { BenchResult } from './result.ts';
import { median, run } from './running.ts';

const side = 1024;

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
    const theirs = await run('mogrify', ['-thumbnail', '256x256', '-path', thumbnails, join(folder, '*.png')]);
    say(`mogrify ${theirs.seconds.toFixed(1)} s`);
    const bc7Megapixels = timeBc7();
    say(`BC7 ${bc7Megapixels.toFixed(1)} million pixels a second`);
    const modelSeconds = await timeModel(316);
    say(`a model of 199,712 triangles ${modelSeconds.toFixed(2)} s`);
    const toOther = ours.seconds / theirs.seconds;
    return {
      bench: 'read',
      figures: { pictures, pictureSeconds: ours.seconds, otherSeconds: theirs.seconds, bc7Megapixels, modelSeconds },
      ratios: { toOther },
      met: toOther <= 1 && bc7Megapixels > 30 && modelSeconds < 1.5,
    };
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
} // prettier-ignore

/** Shapes, gradients and a little noise, as textures have them; no two alike. */
async function makePictures(folder: string, count: number): Promise<void> {
  const random = seeded(11);
  const noise = Uint8Array.from({ length: side * side }, () => random() * 12);
  const make = async (number: number): Promise<void> => {
    const pixels = new Uint8Array(side * side * 3);
    const [a, b, c] = [1 + (number % 7), 2 + (number % 11), 3 + (number % 13)];
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const at = y * side + x;
        const stripe = ((x * a + y * b) >> 6) & 1 ? 40 : 0;
        pixels[at * 3] = ((x * c) >> 4) + stripe + (noise[(at + number * 977) % noise.length] ?? 0);
        pixels[at * 3 + 1] = ((y * a) >> 3) + stripe;
        pixels[at * 3 + 2] = 60 + ((x ^ y) >> 3) + number % 90;
      }
    const bytes = await sharp(pixels, { raw: { width: side, height: side, channels: 3 } }).png({ compressionLevel: 4 }).toBuffer();
    writeFileSync(join(folder, `${number}.png`), bytes);
  };
  for (let number = 0; number < count; number += 2) await Promise.all([make(number), ...(number + 1 < count ? [make(number + 1)] : [])]);
} // prettier-ignore

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

/** A wavy sheet, indexed, with normals and UVs. */
async function timeModel(steps: number): Promise<number> {
  const document = new Document();
  const buffer = document.createBuffer();
  const count = (steps + 1) ** 2;
  const positions = new Float32Array(count * 3);
  const normals = new Float32Array(count * 3);
  const uvs = new Float32Array(count * 2);
  const indices = new Uint32Array(steps * steps * 6);
  for (let y = 0, at = 0; y <= steps; y++)
    for (let x = 0; x <= steps; x++, at++) {
      positions.set([x / steps, Math.sin(x / 9) * Math.cos(y / 7) * 0.1, y / steps], at * 3);
      normals.set([0, 1, 0], at * 3);
      uvs.set([x / steps, y / steps], at * 2);
      if (x === steps || y === steps) continue;
      indices.set([at, at + steps + 1, at + 1, at + 1, at + steps + 1, at + steps + 2], (y * steps + x) * 6);
    }
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3', array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = document.createPrimitive().setIndices(accessor('SCALAR', indices)).setAttribute('POSITION', accessor('VEC3', positions)).setAttribute('NORMAL', accessor('VEC3', normals)).setAttribute('TEXCOORD_0', accessor('VEC2', uvs));
  document.createScene().addChild(document.createNode('sheet').setMesh(document.createMesh('sheet').addPrimitive(primitive)));
  const bytes = await new WebIO().writeBinary(document);
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
} // prettier-ignore
