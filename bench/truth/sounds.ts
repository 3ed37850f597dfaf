import { execFile } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { anotherOne, someOf, type Said, type Truth, type TruthMaker } from './truth.ts';

const run = promisify(execFile);

/** Samples of Debian's `sonic-pi-samples` (CC0). */
const samples = '/usr/share/sonic-pi/samples';

const level = (value: number, tolerance = 0.2): Said => ({
  pattern: new RegExp(`([\\d.]+) dB ${value > 0 ? 'louder' : 'quieter'}`),
  value: Math.abs(value),
  tolerance,
});
/** A time in milliseconds or seconds: the pattern has a group for the number, and the unit follows. */
const ms = (pattern: string, value: number): Said => ({
  pattern: new RegExp(`${pattern} ([\\d.]+) ms`),
  value,
  tolerance: Math.max(5, value * 0.01),
});
const seconds = (pattern: string, value: number): Said => ({
  pattern: new RegExp(`${pattern} ([\\d.]+) s`),
  value,
  tolerance: Math.max(0.005, value * 0.01),
});

interface Source {
  name: string;
  wav: string;
  channels: number;
  seconds: number;
}

interface Treatment {
  group: string;
  /** Makes the newer file. */
  make: (source: Source, out: string) => Promise<unknown>;
  extension?: string;
  is: Truth['is'];
  says?: readonly RegExp[];
  never?: readonly RegExp[];
  numbers?: (source: Source) => readonly Said[];
  /** Sounds for which it makes sense. */
  fits?: (source: Source) => boolean;
}

const sox =
  (...effects: string[]) =>
  (source: Source, out: string) =>
    run('sox', ['-D', source.wav, out, ...effects]);
const ffmpeg =
  (...options: string[]) =>
  (source: Source, out: string) =>
    run('ffmpeg', ['-y', '-v', 'error', '-i', source.wav, ...options, out]);

/** Sounds whose sides are not nearly the same. */
const isStereo = ({ channels, name }: Source): boolean => channels === 2 && name !== 'loop_mika';
const isLong = ({ seconds: length }: Source): boolean => length > 2;
const same = [/^The same/];

const treatments: readonly Treatment[] = [
  {
    group: 'FLAC of the same samples',
    extension: 'flac',
    is: 'same',
    make: (s, out) => run('flac', ['-s', '-f', '-8', '-o', out, s.wav]),
  },
  { group: 'WAV with another header', is: 'same', make: ffmpeg('-bitexact', '-metadata', 'title=heron') },
  {
    group: 'Vorbis, quality 6',
    extension: 'ogg',
    is: 'loss',
    make: (s, out) => run('oggenc', ['-Q', '-q', '6', '-o', out, s.wav]),
    never: [anotherOne],
  },
  {
    group: 'Vorbis, quality 3',
    extension: 'ogg',
    is: 'loss',
    make: (s, out) => run('oggenc', ['-Q', '-q', '3', '-o', out, s.wav]),
    never: [anotherOne],
  },
  {
    group: 'MP3, 192 kbit/s',
    extension: 'mp3',
    is: 'loss',
    make: ffmpeg('-b:a', '192k'),
    never: [anotherOne],
  },
  {
    group: 'Opus, 128 kbit/s',
    extension: 'opus',
    is: 'loss',
    make: (s, out) => run('opusenc', ['--quiet', '--bitrate', '128', s.wav, out]),
    never: [anotherOne],
  },
  { group: 'ADPCM (IMA)', is: 'loss', make: ffmpeg('-c:a', 'adpcm_ima_wav'), never: [anotherOne] },
  {
    group: '6 dB quieter',
    is: 'changed',
    make: sox('vol', '-6dB'),
    says: same,
    numbers: () => [level(-6)],
    never: [anotherOne],
  },
  {
    group: '1 dB quieter',
    is: 'changed',
    make: sox('vol', '-1dB'),
    says: same,
    numbers: () => [level(-1)],
    never: [anotherOne],
  },
  {
    group: '3 dB louder, from half',
    is: 'changed',
    make: sox('vol', '-3dB'),
    says: same,
    numbers: () => [level(-3)],
  },
  {
    group: 'polarity inverted',
    is: 'changed',
    make: sox('vol', '-1'),
    says: [/polarity/],
    never: [anotherOne, /louder|quieter/],
  },
  {
    group: 'left and right swapped',
    is: 'changed',
    make: sox('swap'),
    says: [/left and right swapped/i],
    never: [anotherOne],
    fits: isStereo,
  },
  {
    group: 'mixed into one channel',
    is: 'changed',
    make: sox('remix', '1,2'),
    says: [/one channel|1 channel/],
    never: [anotherOne],
    fits: isStereo,
  },
  {
    group: 'left alone',
    is: 'changed',
    make: sox('remix', '1', '0'),
    says: [/right is silent|left alone/],
    never: [anotherOne],
    fits: isStereo,
  },
  {
    group: 'right 6 dB quieter',
    is: 'changed',
    make: sox('remix', '1', '2v0.501187'),
    says: [/right/],
    numbers: () => [level(-6)],
    never: [anotherOne],
    fits: isStereo,
  },
  {
    group: 'first 10 ms silent',
    is: 'changed',
    make: ffmpeg('-af', "asetnsamples=n=21,volume=0:enable='lt(t,0.01)'"),
    says: [/silent/i],
    never: [anotherOne],
    numbers: () => [ms('first', 10)],
    fits: ({ name }) => name.startsWith('loop') || name.startsWith('drum') || name.startsWith('bass'),
  },
  {
    group: '250 ms of silence before it',
    is: 'changed',
    make: sox('pad', '0.25'),
    says: [/250 ms of silence before/],
    never: [anotherOne],
  },
  {
    group: '500 ms of silence at its end',
    is: 'changed',
    make: sox('pad', '0', '0.5'),
    says: [/500 ms of silence at its end/],
    never: [anotherOne],
  },
  {
    group: 'without its first 300 ms',
    is: 'changed',
    make: sox('trim', '0.3'),
    says: [/without its first/],
    numbers: () => [ms('first', 300)],
    never: [anotherOne],
    fits: isLong,
  },
  {
    group: 'without its last 300 ms',
    is: 'changed',
    make: sox('trim', '0', '-0.3'),
    says: [/without its last/],
    numbers: () => [ms('last', 300)],
    never: [anotherOne],
    fits: isLong,
  },
  {
    group: 'low-pass at 6 kHz',
    is: 'changed',
    make: sox('sinc', '-6k'),
    says: [/cut off above/],
    numbers: () => [{ pattern: /above ([\d.]+) kHz/, value: 6, tolerance: 0.6 }],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|3d|tabla|safari|mika)|cymbal|vinyl_hiss/.test(name),
  },
  {
    group: 'low-pass at 8 kHz',
    is: 'changed',
    make: sox('sinc', '-8k'),
    says: [/cut off above/],
    numbers: () => [{ pattern: /above ([\d.]+) kHz/, value: 8, tolerance: 0.8 }],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|3d|tabla|safari|mika)|cymbal|vinyl_hiss/.test(name),
  },
  {
    group: 'high-pass at 400 Hz',
    is: 'changed',
    make: sox('sinc', '400'),
    says: [/cut off below/],
    never: [anotherOne],
    fits: ({ name }) => /loop_|bass|drum_roll/.test(name),
  },
  {
    group: 'bass 6 dB up, from 6 dB less',
    is: 'changed',
    make: sox('vol', '-6dB', 'bass', '+6', '150'),
    says: [/bass|dB/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|mika|safari)/.test(name),
  },
  {
    group: 'bass 10 dB down',
    is: 'changed',
    make: sox('bass', '-10', '150'),
    says: [/less bass|cut off below/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|mika|safari)/.test(name),
  },
  {
    group: 'treble 6 dB down',
    is: 'changed',
    make: sox('treble', '-6'),
    says: [/less treble|cut off above/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|mika|tabla|safari)|cymbal/.test(name),
  },
  {
    group: 'a bell of 6 dB at 1 kHz',
    is: 'changed',
    make: sox('vol', '-6dB', 'equalizer', '1000', '1q', '6'),
    says: [/around|equalised|dB more/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|mika|tabla|safari|garzul)/.test(name),
  },
  {
    group: 'dropout of 5 ms',
    is: 'changed',
    make: ffmpeg('-af', "asetnsamples=n=21,volume=0:enable='between(t,1,1.005)'"),
    says: [/silent from (1|999)/],
    never: [anotherOne],
    fits: ({ name }) =>
      /loop_(amen|mika|garzul|industrial|compus|electric)/.test(name) && name !== 'loop_industrial',
  },
  {
    group: '500 ms cut out of the middle',
    is: 'changed',
    make: async (s, out) => {
      await run('sox', [s.wav, `${out}.a.wav`, 'trim', '0', '1']);
      await run('sox', [s.wav, `${out}.b.wav`, 'trim', '1.5']);
      return run('sox', [`${out}.a.wav`, `${out}.b.wav`, out]);
    },
    says: [/cut out at/],
    numbers: () => [{ pattern: /([\d.]+) ms cut/, value: 500, tolerance: 5 }, seconds('cut out at', 1)],
    never: [anotherOne],
    fits: ({ seconds: length }) => length > 3,
  },
  {
    group: '400 ms of silence inserted',
    is: 'changed',
    make: sox('pad', '0.4@1'),
    says: [/inserted/],
    numbers: () => [{ pattern: /([\d.]+) ms inserted/, value: 400, tolerance: 5 }],
    never: [anotherOne],
    fits: ({ seconds: length, name }) => length > 3 && !name.startsWith('ambi'),
  },
  {
    group: 'hum at −40 dB added',
    is: 'changed',
    make: (s, out) =>
      run('ffmpeg', [
        '-y',
        '-v',
        'error',
        '-i',
        s.wav,
        '-f',
        'lavfi',
        '-i',
        'sine=f=50:r=44100',
        '-filter_complex',
        '[1:a]volume=0.08,aformat=channel_layouts=stereo[h];[0:a][h]amix=inputs=2:duration=first:normalize=0',
        '-c:a',
        'pcm_s16le',
        out,
      ]),
    says: [/hum/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|mika|garzul|tabla)|guit_em9/.test(name),
  },
  {
    group: 'noise at −40 dBFS added',
    is: 'changed',
    make: (s, out) =>
      run('ffmpeg', [
        '-y',
        '-v',
        'error',
        '-i',
        s.wav,
        '-f',
        'lavfi',
        '-i',
        'anoisesrc=a=0.0173:r=44100:c=white:seed=3',
        '-filter_complex',
        '[1:a]aformat=channel_layouts=stereo[n];[0:a][n]amix=inputs=2:duration=first:normalize=0',
        '-c:a',
        'pcm_s16le',
        out,
      ]),
    says: [/noise added/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|mika|garzul|tabla)|guit_em9|ambi_(choir|piano)/.test(name),
  },
  {
    group: '5 % faster, as a tape',
    is: 'changed',
    make: sox('speed', '1.05'),
    says: [/faster/],
    numbers: () => [{ pattern: /([\d.]+) % faster/, value: 5, tolerance: 0.06 }],
    never: [anotherOne],
    fits: ({ seconds: length }) => length > 1,
  },
  {
    group: 'at 48 kHz without resampling',
    is: 'changed',
    make: (s, out) => run('sox', ['-r', '48000', s.wav, out]),
    says: [/faster/],
    numbers: () => [{ pattern: /([\d.]+) % faster/, value: 8.8, tolerance: 0.1 }],
    never: [anotherOne],
  },
  { group: 'resampled to 48 kHz', is: 'loss', make: sox('rate', '-v', '48000'), never: [anotherOne] },
  {
    group: 'resampled to 11 kHz',
    is: 'changed',
    make: sox('rate', '-v', '11025'),
    says: [/11,025 Hz/],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|break|3d|tabla|safari|mika)|cymbal/.test(name),
  },
  {
    group: '100 cents higher in pitch',
    is: 'changed',
    make: sox('pitch', '100'),
    says: [/higher in pitch/],
    never: [anotherOne],
    numbers: () => [{ pattern: /\(([\d.]+) cents\)/, value: 100, tolerance: 3 }],
    fits: ({ name }) =>
      /ambi_(glass|choir|haunted|drone|piano)|guit|bass_(woodsy|voxy_c|thick|trance)/.test(name),
  },
  {
    group: 'fading in over 1 s',
    is: 'changed',
    make: sox('fade', 't', '1'),
    says: [/fading in over/i],
    never: [anotherOne],
    fits: ({ name, seconds: length }) => length > 3 && /loop|ambi_(choir|drone|glass|haunted)/.test(name),
  },
  {
    group: 'fading out over 1 s',
    is: 'changed',
    make: sox('fade', 't', '0', '-0', '1'),
    says: [/fading out over/i],
    never: [anotherOne],
    fits: ({ name, seconds: length }) =>
      length > 3 && /loop_(amen_full|mika|garzul|tabla|safari|compus|3d)/.test(name),
  },
  {
    group: 'tremolo of 6 Hz',
    is: 'changed',
    make: sox('tremolo', '6', '60'),
    says: [/tremolo/],
    numbers: () => [{ pattern: /tremolo of ([\d.]+) Hz/, value: 6, tolerance: 0.2 }],
    never: [anotherOne],
    fits: ({ name, seconds: length }) => length > 2 && /loop|ambi|guit/.test(name),
  },
  {
    group: 'an echo after 200 ms',
    is: 'changed',
    make: sox('gain', '-6', 'echo', '0.9', '0.9', '200', '0.4'),
    says: [/echo/],
    numbers: () => [ms('after', 200)],
    never: [anotherOne],
    fits: ({ name }) => /loop_(amen|mika|tabla|break)|drum_roll|perc_till/.test(name),
  },
  {
    group: 'played backwards',
    is: 'changed',
    make: sox('reverse'),
    says: [/backwards/],
    never: [anotherOne],
  },
  {
    group: 'rounded to 8 bits',
    is: 'changed',
    make: (s, out) => run('sox', ['-D', s.wav, '-b', '8', out]),
    says: [/8 bits/],
    never: [anotherOne],
  },
  {
    group: 'another one of the same kind',
    is: 'changed',
    make: () => Promise.resolve(),
    says: [/another sound/i],
    never: [/^The same/],
  },
];

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
  for (const [number, treatment] of treatments.entries()) {
    const fitting = sources.filter((source) => treatment.fits?.(source) ?? true);
    const wanted = Math.max(1, Math.round(12 * share));
    const chosen = someOf(fitting, Math.min(1, wanted / fitting.length));
    for (const source of chosen) {
      if (!ready.has(source.name))
        await run('sox', [
          '-D',
          join(samples, `${source.name}.flac`),
          '-b',
          '16',
          source.wav,
          'gain',
          '-n',
          '-3',
        ]);
      ready.add(source.name);
      const out = join(folder, `${source.name}-${number}.${treatment.extension ?? 'wav'}`);
      await treatment.make(source, out);
      const other = chosen[(chosen.indexOf(source) + 1) % chosen.length];
      const now = existsSync(out) ? out : (other?.wav ?? source.wav);
      if (now === source.wav) continue;
      if (now === other?.wav && !ready.has(other.name)) {
        await run('sox', [
          '-D',
          join(samples, `${other.name}.flac`),
          '-b',
          '16',
          other.wav,
          'gain',
          '-n',
          '-3',
        ]);
        ready.add(other.name);
      }
      yield {
        group: treatment.group,
        name: source.name,
        old: { bytes: readFileSync(source.wav), path: `sounds/${source.name}.wav` },
        now: { bytes: readFileSync(now), path: `sounds/${source.name}.${treatment.extension ?? 'wav'}` },
        is: treatment.is,
        ...(treatment.says ? { says: treatment.says } : {}),
        ...(treatment.never ? { never: treatment.never } : {}),
        numbers: treatment.numbers?.(source) ?? [],
      };
    }
  }
};
