import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PlainError } from '../server/platform/plain-error.ts';
import { seeded } from '../demo/seeded.ts';

/** Programs that pack the folder `tree` beside them, by the ending of what they write. */
const packers: Record<string, (file: string) => string[]> = {
  zip: (file) => ['zip', '-qr', file, 'tree'],
  '7z': (file) => ['7zz', 'a', file, 'tree'],
  tar: (file) => ['tar', '-cf', file, 'tree'],
  'tar.gz': (file) => ['tar', '-czf', file, 'tree'],
  'tar.xz': (file) => ['tar', '-cJf', file, 'tree'],
  'tar.bz2': (file) => ['tar', '-cjf', file, 'tree'],
  'tar.zst': (file) => ['tar', '--zstd', '-cf', file, 'tree'],
  'tar.lz4': (file) => ['tar', '-I', 'lz4', '-cf', file, 'tree'],
  iso: (file) => ['xorriso', '-as', 'mkisofs', '-quiet', '-R', '-o', file, 'tree'],
  cpio: (file) => ['bsdtar', '--format=newc', '-cf', file, 'tree'],
  a: (file) => ['ar', 'rc', file, 'tree/a.txt', 'tree/b.bin'],
  cab: (file) => ['gcab', '-c', '-z', file, 'tree/a.txt', 'tree/b.bin'],
};

export const damagedFormats = Object.keys(packers);

/**
 * Writes archives of every format that are cut short or have bits turned over; the same ones from the same seed.
 * @param work a folder for the whole archives
 * @param into the folder that is read later; besides the damaged ones it has `sound.txt`, and each whole archive
 * @param each how many of each format
 * @returns how many there are
 */
export function writeDamaged(work: string, into: string, each: number, seed: number): number {
  const random = seeded(seed);
  mkdirSync(join(work, 'tree'));
  mkdirSync(into);
  writeFileSync(join(work, 'tree', 'a.txt'), 'reeds\n'.repeat(3000));
  writeFileSync(
    join(work, 'tree', 'b.bin'),
    Buffer.from(Array.from({ length: 30_000 }, () => Math.floor(random() * 256))),
  );
  for (const [ending, packer] of Object.entries(packers)) {
    const [program = '', ...args] = packer(`whole.${ending}`);
    const { status, stderr, error } = spawnSync(program, args, { cwd: work });
    if (status !== 0) throw new PlainError(`${program} failed: ${error?.message ?? stderr.toString('utf8')}`);
    const whole = readFileSync(join(work, `whole.${ending}`));
    writeFileSync(join(into, `whole.${ending}`), whole);
    for (let round = 0; round < each; round++)
      writeFileSync(join(into, `${round}.${ending}`), damaged(whole, round, random));
  }
  writeFileSync(join(into, 'sound.txt'), 'as it should be');
  return damagedFormats.length * each;
}

/** By turns cut short, or with up to 24 bits turned over. */
function damaged(whole: Buffer, round: number, random: () => number): Buffer {
  if (round % 2 === 1) return whole.subarray(0, Math.floor(random() * whole.length));
  const bytes = Buffer.from(whole);
  for (let flip = 0; flip < 1 + ((round * 3) % 24); flip++) {
    const at = Math.floor(random() * bytes.length);
    bytes[at] = (bytes[at] ?? 0) ^ (1 << Math.floor(random() * 8));
  }
  return bytes;
}
