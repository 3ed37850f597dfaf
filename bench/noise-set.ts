import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { openPictures } from './open-pictures.ts';

/** What was done to each file of the second build, by its path. */
export type Treatment = 'none' | 'repacked' | 'recompressed' | 'changed';

const samples = '/usr/share/sonic-pi/samples';

/**
 * Two builds of open data: the pictures of @pmndrs/assets (CC0) and, where Debian's `sonic-pi-samples` (CC0) is there, its
 * sounds; in the second one nearly all are packed otherwise, with loss or without, and every twelfth is really changed, packed
 * with loss as well.
 * @param every so many files one is taken
 * @returns what was done to each
 */
export async function writeNoiseSet(
  older: string,
  newer: string,
  every = 1,
): Promise<Map<string, Treatment>> {
  const treatments = new Map<string, Treatment>();
  for (const folder of [older, newer])
    for (const part of ['pictures', 'sounds']) mkdirSync(join(folder, part), { recursive: true });
  const put = (path: string, old: Uint8Array, now: Uint8Array, treatment: Treatment): void => {
    writeFileSync(join(older, path), old);
    writeFileSync(join(newer, path), now);
    treatments.set(path, treatment);
  };
  let number = 0;
  for (const bytes of [...openPictures()].filter((_, at) => at % every === 0)) {
    const image = sharp(bytes).ensureAlpha();
    const { data, info } = await image.raw().toBuffer({ resolveWithObject: true });
    const raw = { raw: { width: info.width, height: info.height, channels: 4 as const } };
    const png = new Uint8Array(await sharp(data, raw).png({ compressionLevel: 9 }).toBuffer());
    const treatment: Treatment =
      number % 12 === 5 ? 'changed' : number % 3 === 0 ? 'repacked' : 'recompressed';
    const pixels = new Uint8Array(data);
    const hasAlpha = pixels.some((value, at) => at % 4 === 3 && value < 255);
    if (treatment === 'changed') paint(pixels, info.width, info.height, number);
    const next = sharp(pixels, raw);
    const now =
      treatment === 'repacked'
        ? next.png({ compressionLevel: 1, adaptiveFiltering: true })
        : number % 2 === 0 && !hasAlpha
          ? next.jpeg({ quality: 90, chromaSubsampling: '4:4:4' })
          : next.webp({ quality: 92 });
    put(`pictures/${number++}.png`, png, new Uint8Array(await now.toBuffer()), treatment);
  }
  if (existsSync(samples))
    for (const name of readdirSync(samples)
      .filter((file) => file.endsWith('.flac'))
      .slice(0, 90)
      .filter((_, at) => at % every === 0)) {
      const treatment: Treatment =
        number % 12 === 5 ? 'changed' : number % 3 === 0 ? 'repacked' : 'recompressed';
      const source = join(samples, name);
      const target = join(newer, 'sounds', name);
      writeFileSync(join(older, 'sounds', name), readFileSync(source));
      if (treatment === 'repacked') execFileSync('flac', ['-s', '-f', '-0', '-o', target, source]);
      else {
        const wave = `${target}.wav`;
        // A changed one has its middle turned around in time.
        const effect = treatment === 'changed' ? ['pitch', '300'] : [];
        execFileSync('sox', [source, wave, ...effect], { stdio: 'ignore' });
        execFileSync('oggenc', ['-Q', '-q', '7', '-o', target, wave]);
        execFileSync('rm', [wave]);
      }
      treatments.set(`sounds/${name}`, treatment);
      number++;
    }
  return treatments;
}

/** A small thing somebody painted: a disc of a twentieth of the width, in a colour of its own. */
function paint(pixels: Uint8Array, width: number, height: number, number: number): void {
  const radius = Math.max(4, width / 20);
  const [centreX, centreY] = [width * (0.35 + (number % 5) * 0.07), height * (0.4 + (number % 3) * 0.08)];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (Math.hypot(x - centreX, y - centreY) < radius) {
        const at = (y * width + x) * 4;
        const from = pixels.subarray(at, at + 3);
        pixels.set([255 - (from[0] ?? 0), ((from[1] ?? 0) + 90) % 256, 255 - (from[2] ?? 0), 255], at);
      }
}
