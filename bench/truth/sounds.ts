import { execFile } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { treatments, type Source } from './sound-treatments.ts';
import { anotherOne, someOf, type TruthMaker } from './truth.ts';

const run = promisify(execFile);

/** Samples of Debian's `sonic-pi-samples` (CC0). */
const samples = '/usr/share/sonic-pi/samples';

/** Pairs of sounds: what general-purpose programs did to open samples. */
export const makeSounds: TruthMaker = async function* (folder, share) {
  if (!existsSync(samples)) return;
  const names = readdirSync(samples)
    .filter((name) => name.endsWith('.flac'))
    .map((name) => name.slice(0, -5))
    .sort();
  const sources: Source[] = [];
  for (const name of names) {
    const wav = join(folder, `${name}.wav`);
    const flac = join(samples, `${name}.flac`);
    const { stdout } = await run('soxi', [flac]);
    const channels = Number(/Channels\s*:\s*(\d+)/.exec(stdout)?.[1]);
    const frames = Number(/= (\d+) samples/.exec(stdout)?.[1]);
    const length = frames / 44_100;
    if (length < 0.4) continue;
    sources.push({ name, wav, channels, seconds: length });
  }
  const ready = new Set<string>();
  const prepare = async ({ name, wav }: Source): Promise<void> => {
    if (ready.has(name)) return;
    ready.add(name);
    await run('sox', ['-D', join(samples, `${name}.flac`), '-b', '16', wav, 'gain', '-n', '-3']);
  };
  for (const [number, treatment] of treatments.entries()) {
    const fitting = sources.filter((source) => treatment.fits?.(source) ?? true);
    const wanted = Math.max(1, Math.round(12 * share));
    const chosen = someOf(fitting, Math.min(1, wanted / fitting.length));
    for (const [at, source] of chosen.entries()) {
      await prepare(source);
      const made = join(folder, `${source.name}-${number}.${treatment.extension ?? 'wav'}`);
      let now = made;
      if (treatment.make) await treatment.make(source, made);
      else {
        const other = chosen[(at + 1) % chosen.length] ?? source;
        if (other === source) continue;
        await prepare(other);
        now = other.wav;
      }
      yield {
        group: treatment.group,
        name: source.name,
        old: { bytes: readFileSync(source.wav), path: `sounds/${source.name}.wav` },
        now: { bytes: readFileSync(now), path: `sounds/${source.name}.${treatment.extension ?? 'wav'}` },
        is: treatment.is ?? 'changed',
        ...(treatment.says ? { says: treatment.says } : {}),
        never: [...(treatment.never ?? []), ...(treatment.make ? [anotherOne] : [])],
        numbers: treatment.numbers?.(source) ?? [],
      };
    }
  }
};
