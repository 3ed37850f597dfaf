import { spawn } from 'node:child_process';
import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import sharp from 'sharp';
import { sheetDocument } from './look/made-scenes.ts';
import { faultyModels } from '../tests/support/faulty-models.ts';
import { flatParts } from '../core/kinds/model/write/flat-parts.ts';
import { writeObj } from '../core/kinds/model/write/obj.ts';
import { writeWave } from '../core/kinds/sound/write/wave.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { nodePlatform } from '../server/decode/platform.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { MemoryWatch } from './memory.ts';
import { openPictures } from './open-pictures.ts';
import { resultOf, type BenchResult } from './result.ts';
import { run, waitFor } from './running.ts';

const worvel = join(applicationRoot, 'worvel');
const threads = 2;
const openModels = '/usr/share/assimp/models';
const asked = {
  imageMagickToTextures: {
    what: '1,000 block-compressed textures to PNG: ImageMagick / ours',
    least: 2,
    quick: 1,
  },
  assimpToModels: { what: '300 models to GLB with pictures: assimp’s command / ours', least: 3, quick: 1 },
  flacToSounds: { what: '200 sounds to FLAC: flac / ours', least: 1, quick: 0.3 },
  zipToStream: { what: '10,000 files streamed as ZIP: zip -0 / ours', least: 0.7, quick: 0.2 },
  printSeconds: {
    what: '50 models with faults made watertight, 450 mm, and cut for a bed of 120, seconds',
    most: 60,
  },
  streamMegabytes: { what: 'memory of the server while it streams them, MB', most: 400 },
};

/** How taking out feels, beside general-purpose programs that do the same work with as many processes. */
export async function benchHaul(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-haul-'));
  const port = 14_000 + (process.pid % 20_000);
  const url = `http://127.0.0.1:${port}`;
  const data = join(work, 'data');
  const game = join(work, 'game');
  const counts = {
    textures: Math.round(1000 * share),
    models: Math.round(300 * share),
    sounds: Math.round(200 * share),
    files: Math.round(10_000 * share),
  };
  await makeTextures(join(game, 'textures'), counts.textures);
  await makeModels(join(game, 'models'), counts.models);
  makeSounds(join(game, 'sounds'), counts.sounds);
  makeFiles(join(game, 'files'), counts.files);
  takeFaulty(join(game, 'print'), Math.max(4, Math.round(50 * share)));
  const server = spawn(worvel, ['serve', '--port', String(port), '--data', data], { stdio: 'ignore' });
  try {
    await waitFor(`${url}/api/health`);
    await run(worvel, ['index', game, '--title', 'Bench', '--build', '1', '--data', data]);
    const ours = (folder: string, settings: object) =>
      takeOut(url, folder, settings, join(work, `out-${folder}`));
    const textures = await ours('textures', { pictures: { as: 'png' } });
    const magick = await inProcesses(join(game, 'textures'), '.dds', join(work, 'magick'), [
      ...['mogrify', '-format', 'png', '-path', join(work, 'magick')],
    ]);
    say(`Textures: ours ${textures.seconds.toFixed(1)} s, ImageMagick ${magick.toFixed(1)} s`);
    const models = await ours('models', { models: { as: 'glb' } });
    const assimp = await oneByOne(join(game, 'models'), '.obj', join(work, 'assimp'), (file, out) => [
      ...['assimp', 'export', file, `${out}.glb`],
    ]);
    say(`Models: ours ${models.seconds.toFixed(1)} s, assimp ${assimp.toFixed(1)} s`);
    const sounds = await ours('sounds', { sounds: { as: 'flac' } });
    const flac = await oneByOne(join(game, 'sounds'), '.wav', join(work, 'flac'), (file, out) => [
      ...['flac', '-s', '-f', '-5', '-o', `${out}.flac`, file],
    ]);
    say(`Sounds: ours ${sounds.seconds.toFixed(1)} s, flac ${flac.toFixed(1)} s`);
    const printed = await ours('print', {
      models: { as: 'stl', unit: 'millimetres', up: 'Z', textures: 'none' },
      print: { solid: 'one solid', sizeMm: '450', bedMm: '120' },
    });
    say(`For printing: ${printed.seconds.toFixed(1)} s`);
    const files = await ours('files', {});
    // Both find the files in memory, and a plain program takes what the server gives.
    await run('zip', ['-0', '-q', '-r', join(work, 'before.zip'), join(work, 'out-files')]);
    const watch = new MemoryWatch(() => serverPids(server.pid), false);
    const start = performance.now();
    await run('curl', ['-sf', '-o', join(work, 'ours.zip'), `${url}/api/hauls/runs/${files.run}/zip`]);
    const streamSeconds = (performance.now() - start) / 1000;
    const streamMegabytes = watch.stop() / 1e6;
    await run('unzip', ['-tq', join(work, 'ours.zip')]);
    const zip = await run('zip', ['-0', '-q', '-r', join(work, 'theirs.zip'), join(work, 'out-files')]);
    say(
      `ZIP of ${(statSync(join(work, 'ours.zip')).size / 1e6).toFixed(0)} MB: ours ${streamSeconds.toFixed(1)} s with ${streamMegabytes.toFixed(0)} MB, zip -0 ${zip.seconds.toFixed(1)} s`,
    );
    return resultOf(
      'haul',
      {
        texturesSeconds: textures.seconds,
        modelsSeconds: models.seconds,
        soundsSeconds: sounds.seconds,
        filesSeconds: files.seconds,
        printSeconds: printed.seconds,
        streamSeconds,
        streamMegabytes,
      },
      {
        imageMagickToTextures: magick / textures.seconds,
        assimpToModels: assimp / models.seconds,
        flacToSounds: flac / sounds.seconds,
        zipToStream: zip.seconds / streamSeconds,
      },
      asked,
    );
  } finally {
    const ended = new Promise((resolve) => server.on('exit', resolve));
    server.kill('SIGINT');
    await ended;
    rmSync(work, { recursive: true, force: true });
  }
}

/** The launcher becomes the server; readers that wait for work beside it are not asked for anything. */
function serverPids(pid: number | undefined): number[] {
  return pid === undefined ? [] : [pid];
}

async function post(url: string, body: object): Promise<unknown> {
  const answer = await fetch(url, { method: 'POST', body: JSON.stringify(body) });
  if (!answer.ok) throw new PlainError(`${url} answered ${answer.status}: ${await answer.text()}`);
  return answer.json();
}

/** A folder of the build, from the click to the last file read again. @throws PlainError where something failed or differs */
async function takeOut(
  url: string,
  folder: string,
  settings: object,
  target: string,
): Promise<{ seconds: number; run: number }> {
  const { id } = (await post(`${url}/api/hauls`, { channel: 1, name: folder })) as { id: number };
  await post(`${url}/api/hauls/collect`, { channel: 1, build: '1', folder, haul: id });
  const start = performance.now();
  const { run: number } = (await post(`${url}/api/hauls/run`, {
    channel: 1,
    haul: id,
    settings,
    folder: target,
  })) as {
    run: number;
  };
  for (;;) {
    const told = (await (await fetch(`${url}/api/hauls/runs/${number}`)).json()) as {
      state: string;
      failed: number;
      differs: number;
    };
    if (told.state === 'done') {
      if (told.failed + told.differs > 0)
        throw new PlainError(`${folder}: ${told.failed} were not written, ${told.differs} differ`);
      return { seconds: (performance.now() - start) / 1000, run: number };
    }
    if (told.state === 'failed') throw new PlainError(`${folder}: the job failed`);
    await sleep(50);
  }
}

/** A program that takes many files, in as many processes as we have threads. */
async function inProcesses(
  folder: string,
  ending: string,
  out: string,
  command: readonly string[],
): Promise<number> {
  mkdirSync(out);
  const files = filesIn(folder, ending);
  const start = performance.now();
  await Promise.all(
    Array.from({ length: threads }, (_, at) => {
      const [program = '', ...args] = command;
      return run(program, [...args, ...files.filter((_file, number) => number % threads === at)], undefined, {
        OMP_NUM_THREADS: '1',
        MAGICK_THREAD_LIMIT: '1',
      });
    }),
  );
  return (performance.now() - start) / 1000;
}

/** A program that takes one file, as many at once as we have threads. */
async function oneByOne(
  folder: string,
  ending: string,
  out: string,
  commandOf: (file: string, out: string) => readonly string[],
): Promise<number> {
  mkdirSync(out);
  const files = filesIn(folder, ending);
  const start = performance.now();
  let next = 0;
  await Promise.all(
    Array.from({ length: threads }, async () => {
      for (let at = next++; at < files.length; at = next++) {
        const [program = '', ...args] = commandOf(files[at] ?? '', join(out, String(at)));
        await run(program, args);
      }
    }),
  );
  return (performance.now() - start) / 1000;
}

function filesIn(folder: string, ending: string): string[] {
  return readdirSync(folder)
    .filter((name) => name.endsWith(ending))
    .map((name) => join(folder, name));
}

const texturePixels = 512;
const textureKinds = 8;

/** Photographs of an open package as BC1 and BC3; further ones are the same blocks from another one on. */
async function makeTextures(folder: string, count: number): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const made: { head: Buffer; blocks: Buffer; blockBytes: number }[] = [];
  for (const bytes of openPictures()) {
    if (made.length >= textureKinds) break;
    const png = join(folder, 'x.png');
    await sharp(bytes).resize(texturePixels, texturePixels, { fit: 'fill' }).ensureAlpha().png().toFile(png);
    const isSmall = made.length % 2 === 0;
    const dds = join(folder, 'x.dds');
    await run('nvcompress', ['-silent', '-nocuda', '-fast', '-nomips', isSmall ? '-bc1' : '-bc3', png, dds]);
    const whole = readFileSync(dds);
    made.push({ head: whole.subarray(0, 128), blocks: whole.subarray(128), blockBytes: isSmall ? 8 : 16 });
    rmSync(png);
    rmSync(dds);
  }
  for (let at = 0; at < count; at++) {
    const one = made[at % made.length];
    if (!one) throw new PlainError('there are no open pictures');
    const from = one.blockBytes * Math.floor(at / made.length);
    writeFileSync(
      join(folder, `t${at}.dds`),
      Buffer.concat([one.head, one.blocks.subarray(from), one.blocks.subarray(0, from)]),
    );
  }
}

/** OBJ with materials and a picture for each, of some two thousand triangles. */
async function makeModels(folder: string, count: number): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const pictures = [...openPictures()].slice(0, 12);
  const raster = (): Promise<never> => Promise.reject(new Error('not needed'));
  for (let at = 0; at < count; at++) {
    const document = sheetDocument(1500 + (at % 10) * 100, 1 + at / count);
    const image = await sharp(pictures[at % pictures.length])
      .resize(256, 256, { fit: 'fill' })
      .modulate({ hue: at })
      .png()
      .toBuffer();
    const texture = document.createTexture('sheet').setImage(new Uint8Array(image)).setMimeType('image/png');
    document.getRoot().listMaterials()[0]?.setBaseColorTexture(texture);
    const stem = `m${at}`;
    const files = await writeObj(
      flatParts(document, { scale: 1, turns: 0 }),
      { raster, platform: nodePlatform },
      stem,
    );
    mkdirSync(join(folder, `${stem}.pictures`));
    for (const { ending, bytes } of files) writeFileSync(join(folder, `${stem}${ending}`), bytes);
  }
}

/** Three seconds of two channels each: tones that fade, with a little noise. */
function makeSounds(folder: string, count: number): void {
  mkdirSync(folder, { recursive: true });
  const [sampleRate, frames] = [44_100, 44_100 * 3];
  for (let at = 0; at < count; at++) {
    let seed = at + 1;
    const integers = Int16Array.from({ length: frames * 2 }, (_, sample) => {
      seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) | 0;
      const seconds = sample / 2 / sampleRate;
      const tone = Math.sin(seconds * 2 * Math.PI * (180 + at * 3)) * Math.exp(-seconds);
      return Math.round(tone * 14_000 + (seed >> 24));
    });
    const told = { sampleRate, channels: 2, frames, coding: 'PCM', bits: 16, damage: null };
    writeFileSync(
      join(folder, `s${at}.wav`),
      writeWave({ ...told, samples: { integers } }, 16, { loops: [], cues: [] }),
    );
  }
}

/** Models that nobody here made, with faults of their own, in one folder. */
function takeFaulty(folder: string, count: number): void {
  mkdirSync(folder, { recursive: true });
  const all = Array.from({ length: count }, (_, at) => faultyModels[at % faultyModels.length] ?? '');
  all.forEach((name, at) =>
    copyFileSync(join(openModels, name), join(folder, `${at}-${name.slice(name.lastIndexOf('/') + 1)}`)),
  );
}

/** Small files that stay as they lay. */
function makeFiles(folder: string, count: number): void {
  for (let at = 0; at < count; at++) {
    const below = join(folder, String(at % 40));
    if (at < 40) mkdirSync(below, { recursive: true });
    const bytes = Buffer.alloc(8000 + (at % 50) * 1000);
    for (let k = 0; k < bytes.length; k += 4) bytes.writeUInt32LE(Math.imul(k + at, 2_654_435_761) >>> 0, k);
    writeFileSync(join(below, `f${at}.bin`), bytes);
  }
}
