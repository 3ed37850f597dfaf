import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import type { Said, Truth } from './truth.ts';

const run = promisify(execFile);

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

export interface Source {
  name: string;
  wav: string;
  channels: number;
  seconds: number;
}

export interface Treatment {
  group: string;
  /** Makes the newer file; without it, another of the sounds is. */
  make?: (source: Source, out: string) => Promise<unknown>;
  extension?: string;
  /** `changed` unless said. */
  is?: Truth['is'];
  says?: readonly RegExp[];
  /** Besides that it is another sound. */
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
/** Mixed with what a generator of ffmpeg makes. */
const laidOver = (generator: string, filters = '') =>
  ffmpeg(
    ...['-f', 'lavfi', '-i', generator, '-c:a', 'pcm_s16le', '-filter_complex'],
    `[1:a]${filters}aformat=channel_layouts=stereo[b];[0:a][b]amix=inputs=2:duration=first:normalize=0`,
  );

/** Sounds whose sides are not nearly the same. */
const isStereo = ({ channels, name }: Source): boolean => channels === 2 && name !== 'loop_mika';
const isLong = ({ seconds: length }: Source): boolean => length > 2;
const same = [/^The same/];

const lowPass = (kilohertz: number): Treatment => ({
  group: `low-pass at ${kilohertz} kHz`,
  make: sox('sinc', `-${kilohertz}k`),
  says: [/cut off above/],
  numbers: () => [{ pattern: /above ([\d.]+) kHz/, value: kilohertz, tolerance: kilohertz / 10 }],
  fits: ({ name }) => /loop_(amen|break|3d|tabla|safari|mika)|cymbal|vinyl_hiss/.test(name),
});
const vorbis = (quality: number): Treatment => ({
  group: `Vorbis, quality ${quality}`,
  extension: 'ogg',
  is: 'loss',
  make: (s, out) => run('oggenc', ['-Q', '-q', String(quality), '-o', out, s.wav]),
});

/** What is done to sounds by general-purpose programs, and what is true of it then. */
export const treatments: readonly Treatment[] = [
  {
    group: 'FLAC of the same samples',
    extension: 'flac',
    is: 'same',
    make: (s, out) => run('flac', ['-s', '-f', '-8', '-o', out, s.wav]),
  },
  { group: 'WAV with another header', is: 'same', make: ffmpeg('-bitexact', '-metadata', 'title=heron') },
  vorbis(6),
  vorbis(3),
  {
    group: 'MP3, 192 kbit/s',
    extension: 'mp3',
    is: 'loss',
    make: ffmpeg('-b:a', '192k'),
  },
  {
    group: 'Opus, 128 kbit/s',
    extension: 'opus',
    is: 'loss',
    make: (s, out) => run('opusenc', ['--quiet', '--bitrate', '128', s.wav, out]),
  },
  { group: 'ADPCM (IMA)', is: 'loss', make: ffmpeg('-c:a', 'adpcm_ima_wav') },
  {
    group: '6 dB quieter',
    make: sox('vol', '-6dB'),
    says: same,
    numbers: () => [level(-6)],
  },
  {
    group: '1 dB quieter',
    make: sox('vol', '-1dB'),
    says: same,
    numbers: () => [level(-1)],
  },
  {
    group: '3 dB louder, from half',
    make: sox('vol', '-3dB'),
    says: same,
    numbers: () => [level(-3)],
  },
  {
    group: 'polarity inverted',
    make: sox('vol', '-1'),
    says: [/polarity/],
    never: [/louder|quieter/],
  },
  {
    group: 'left and right swapped',
    make: sox('swap'),
    says: [/left and right swapped/i],
    fits: isStereo,
  },
  {
    group: 'mixed into one channel',
    make: sox('remix', '1,2'),
    says: [/one channel|1 channel/],
    fits: isStereo,
  },
  {
    group: 'left alone',
    make: sox('remix', '1', '0'),
    says: [/right is silent|left alone/],
    fits: isStereo,
  },
  {
    group: 'right 6 dB quieter',
    make: sox('remix', '1', '2v0.501187'),
    says: [/right/],
    numbers: () => [level(-6)],
    fits: isStereo,
  },
  {
    group: 'first 10 ms silent',
    make: ffmpeg('-af', "asetnsamples=n=21,volume=0:enable='lt(t,0.01)'"),
    says: [/silent/i],
    numbers: () => [ms('first', 10)],
    fits: ({ name }) => name.startsWith('loop') || name.startsWith('drum') || name.startsWith('bass'),
  },
  {
    group: '250 ms of silence before it',
    make: sox('pad', '0.25'),
    says: [/250 ms of silence before/],
  },
  {
    group: '500 ms of silence at its end',
    make: sox('pad', '0', '0.5'),
    says: [/500 ms of silence at its end/],
  },
  {
    group: 'without its first 300 ms',
    make: sox('trim', '0.3'),
    says: [/without its first/],
    numbers: () => [ms('first', 300)],
    fits: isLong,
  },
  {
    group: 'without its last 300 ms',
    make: sox('trim', '0', '-0.3'),
    says: [/without its last/],
    numbers: () => [ms('last', 300)],
    fits: isLong,
  },
  lowPass(6),
  lowPass(8),
  {
    group: 'high-pass at 400 Hz',
    make: sox('sinc', '400'),
    says: [/cut off below/],
    fits: ({ name }) => /loop_|bass|drum_roll/.test(name),
  },
  {
    group: 'bass 6 dB up, from 6 dB less',
    make: sox('vol', '-6dB', 'bass', '+6', '150'),
    says: [/bass|dB/],
    fits: ({ name }) => /loop_(amen|break|mika|safari)/.test(name),
  },
  {
    group: 'bass 10 dB down',
    make: sox('bass', '-10', '150'),
    says: [/less bass|cut off below/],
    fits: ({ name }) => /loop_(amen|break|mika|safari)/.test(name),
  },
  {
    group: 'treble 6 dB down',
    make: sox('treble', '-6'),
    says: [/less treble|cut off above/],
    fits: ({ name }) => /loop_(amen|break|mika|tabla|safari)|cymbal/.test(name),
  },
  {
    group: 'a bell of 6 dB at 1 kHz',
    make: sox('vol', '-6dB', 'equalizer', '1000', '1q', '6'),
    says: [/around|equalised|dB more/],
    fits: ({ name }) => /loop_(amen|break|mika|tabla|safari|garzul)/.test(name),
  },
  {
    group: 'dropout of 5 ms',
    make: ffmpeg('-af', "asetnsamples=n=21,volume=0:enable='between(t,1,1.005)'"),
    says: [/silent from (1|999)/],
    fits: ({ name }) =>
      /loop_(amen|mika|garzul|industrial|compus|electric)/.test(name) && name !== 'loop_industrial',
  },
  {
    group: '500 ms cut out of the middle',
    make: async (s, out) => {
      await run('sox', [s.wav, `${out}.a.wav`, 'trim', '0', '1']);
      await run('sox', [s.wav, `${out}.b.wav`, 'trim', '1.5']);
      return run('sox', [`${out}.a.wav`, `${out}.b.wav`, out]);
    },
    says: [/cut out at/],
    numbers: () => [{ pattern: /([\d.]+) ms cut/, value: 500, tolerance: 5 }, seconds('cut out at', 1)],
    fits: ({ seconds: length }) => length > 3,
  },
  {
    group: '400 ms of silence inserted',
    make: sox('pad', '0.4@1'),
    says: [/inserted/],
    numbers: () => [{ pattern: /([\d.]+) ms inserted/, value: 400, tolerance: 5 }],
    fits: ({ seconds: length, name }) => length > 3 && !name.startsWith('ambi'),
  },
  {
    group: 'hum at −40 dB added',
    make: laidOver('sine=f=50:r=44100', 'volume=0.08,'),
    says: [/hum/],
    fits: ({ name }) => /loop_(amen|mika|garzul|tabla)|guit_em9/.test(name),
  },
  {
    group: 'noise at −40 dBFS added',
    make: laidOver('anoisesrc=a=0.0173:r=44100:c=white:seed=3'),
    says: [/noise added/],
    fits: ({ name }) => /loop_(amen|mika|garzul|tabla)|guit_em9|ambi_(choir|piano)/.test(name),
  },
  {
    group: '5 % faster, as a tape',
    make: sox('speed', '1.05'),
    says: [/faster/],
    numbers: () => [{ pattern: /([\d.]+) % faster/, value: 5, tolerance: 0.06 }],
    fits: ({ seconds: length }) => length > 1,
  },
  {
    group: 'at 48 kHz without resampling',
    make: (s, out) => run('sox', ['-r', '48000', s.wav, out]),
    says: [/faster/],
    numbers: () => [{ pattern: /([\d.]+) % faster/, value: 8.8, tolerance: 0.1 }],
  },
  { group: 'resampled to 48 kHz', is: 'loss', make: sox('rate', '-v', '48000') },
  {
    group: 'resampled to 11 kHz',
    make: sox('rate', '-v', '11025'),
    says: [/11,025 Hz/],
    fits: ({ name }) => /loop_(amen|break|3d|tabla|safari|mika)|cymbal/.test(name),
  },
  {
    group: '100 cents higher in pitch',
    make: sox('pitch', '100'),
    says: [/higher in pitch/],
    numbers: () => [{ pattern: /\(([\d.]+) cents\)/, value: 100, tolerance: 3 }],
    fits: ({ name }) =>
      /ambi_(glass|choir|haunted|drone|piano)|guit|bass_(woodsy|voxy_c|thick|trance)/.test(name),
  },
  {
    group: 'fading in over 1 s',
    make: sox('fade', 't', '1'),
    says: [/fading in over/i],
    fits: ({ name, seconds: length }) => length > 3 && /loop|ambi_(choir|drone|glass|haunted)/.test(name),
  },
  {
    group: 'fading out over 1 s',
    make: sox('fade', 't', '0', '-0', '1'),
    says: [/fading out over/i],
    fits: ({ name, seconds: length }) =>
      length > 3 && /loop_(amen_full|mika|garzul|tabla|safari|compus|3d)/.test(name),
  },
  {
    group: 'tremolo of 6 Hz',
    make: sox('tremolo', '6', '60'),
    says: [/tremolo/],
    numbers: () => [{ pattern: /tremolo of ([\d.]+) Hz/, value: 6, tolerance: 0.2 }],
    fits: ({ name, seconds: length }) => length > 2 && /loop|ambi|guit/.test(name),
  },
  {
    group: 'an echo after 200 ms',
    make: sox('gain', '-6', 'echo', '0.9', '0.9', '200', '0.4'),
    says: [/echo/],
    numbers: () => [ms('after', 200)],
    fits: ({ name }) => /loop_(amen|mika|tabla|break)|drum_roll|perc_till/.test(name),
  },
  {
    group: 'played backwards',
    make: sox('reverse'),
    says: [/backwards/],
  },
  {
    group: 'rounded to 8 bits',
    make: (s, out) => run('sox', ['-D', s.wav, '-b', '8', out]),
    says: [/8 bits/],
  },
  {
    group: 'another one of the same kind',
    says: [/another sound/i],
    never: [/^The same/],
  },
];
