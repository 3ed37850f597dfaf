import { expect } from 'chai';
import { seeded } from '../../../../demo/seeded.ts';
import { explain } from './explain.ts';
import type { Explanation } from './explanation.ts';

const rate = 44_100;

/** Plucked tones over a wind, other ones on either side. */
function music(seconds: number, seed: number): Float32Array {
  const random = seeded(seed);
  const notes = Array.from({ length: 40 }, () => 120 * 2 ** (Math.floor(random() * 24) / 12));
  return Float32Array.from({ length: Math.round(seconds * rate) }, (_, at) => {
    const time = at / rate;
    const beat = Math.floor(time * 4);
    const pluck = Math.exp(-((time * 4) % 1) * 4);
    const hertz = notes[beat % notes.length] ?? 200;
    return (
      0.3 * pluck * (Math.sin(2 * Math.PI * hertz * time) + 0.3 * Math.sin(6 * Math.PI * hertz * time)) +
      (random() - 0.5) * 0.06
    );
  });
}

/** As 16 bits hold it. */
function rounded(samples: Float32Array): Float32Array {
  return samples.map((value) => Math.round(Math.max(-1, Math.min(1, value)) * 32_767) / 32_767);
}

function told(
  old: Float32Array[],
  now: Float32Array[],
  more: { rate?: number; coding?: string; bits?: number } = {},
): Explanation {
  const side = (channels: Float32Array[], sampleRate: number, coding: string, bits: number) => ({
    channels,
    sound: {
      sampleRate,
      channels: channels.length,
      frames: channels[0]?.length ?? 0,
      coding,
      bits,
      damage: null,
      samples: { floats: channels },
    },
  });
  return explain(
    side(old, rate, 'PCM', 16),
    side(now, more.rate ?? rate, more.coding ?? 'PCM', more.bits ?? 16),
    0,
  );
}

const words = (explanation: Explanation): string => explanation.words.join(', ');

/** What was done to a sound, each by its own evidence. */
describe('explain', () => {
  const left = rounded(music(4, 1));
  const right = rounded(music(4, 2));
  const times = (samples: Float32Array, gain: number): Float32Array =>
    rounded(samples.map((value) => value * gain));
  const changed = (
    samples: Float32Array,
    from: number,
    to: number,
    change: (value: number, at: number) => number,
  ): Float32Array =>
    samples.map((value, at) => (at >= from * rate && at < to * rate ? change(value, at) : value));
  const joined = (...parts: Float32Array[]): Float32Array =>
    Float32Array.from(parts.flatMap((part) => [...part]));

  const sayings: [name: string, make: () => Float32Array[], sentence: string | RegExp, nature: string][] = [
    ['nothing', () => [left.slice(), right.slice()], 'the same samples', 'same'],
    ['half as loud', () => [times(left, 0.5), times(right, 0.5)], 'the same sound, 6.0 dB quieter', 'louder'],
    ['polarity', () => [times(left, -1), times(right, -1)], 'the same sound, its polarity inverted', 'other'],
    [
      'polarity of one side',
      () => [left.slice(), times(right, -1)],
      'the same sound, the polarity of right inverted',
      'other',
    ],
    ['sides', () => [right.slice(), left.slice()], 'the same sound, left and right swapped', 'other'],
    [
      'one side gone',
      () => [left.slice(), new Float32Array(right.length)],
      'the same sound, right is silent',
      'other',
    ],
    [
      'one side softer',
      () => [left.slice(), times(right, 0.25)],
      'the same sound, right 12.0 dB quieter',
      'other',
    ],
    ['left on both', () => [left.slice(), left.slice()], 'the same sound, left on both sides', 'other'],
    [
      'one channel',
      () => [left.map((value, at) => (value + (right[at] ?? 0)) / 2)],
      'the same sound, left and right mixed into one channel',
      'other',
    ],
    [
      'its begin cut',
      () => [left.slice(rate), right.slice(rate)],
      'the same sound, without its first 1 s',
      'trimmed',
    ],
    [
      'its end cut',
      () => [left.slice(0, 3 * rate), right.slice(0, 3 * rate)],
      'the same sound, without its last 1 s',
      'trimmed',
    ],
    [
      'silence before',
      () => [left, right].map((side) => joined(new Float32Array(rate / 4), side)),
      'the same sound, 250 ms of silence before it',
      'trimmed',
    ],
    [
      'a piece cut out',
      () => [left, right].map((side) => joined(side.subarray(0, rate), side.subarray(1.5 * rate))),
      'the same sound, 500 ms cut out at 1 s',
      'trimmed',
    ],
    [
      'silence put in',
      () =>
        [left, right].map((side) =>
          joined(side.subarray(0, rate), new Float32Array(0.2 * rate), side.subarray(rate)),
        ),
      /^the same sound, 200 ms inserted from (1 s|999|1\.00)/,
      'other',
    ],
    [
      'its first 10 ms',
      () => [left, right].map((side) => changed(side, 0, 0.01, () => 0)),
      'the same sound, silent in its first 10 ms',
      'other',
    ],
    [
      'a dropout',
      () => [left, right].map((side) => changed(side, 2, 2.005, () => 0)),
      /^the same sound, silent from 2 s to 2\.00[45]/,
      'other',
    ],
    [
      'one second softer',
      () => [left, right].map((side) => changed(side, 2, 3, (value) => value / 2)),
      /^the same sound, 6\.0 dB quieter from 2 s to 3 s$/,
      'other',
    ],
    [
      'a fade',
      () => [left, right].map((side) => changed(side, 0, 1, (value, at) => (value * at) / rate)),
      /^the same sound, fading in over (1 s|99\d ms)$/,
      'other',
    ],
    [
      'backwards',
      () => [left, right].map((side) => side.slice().reverse()),
      'the same sound played backwards',
      'mirrored',
    ],
    [
      'an offset',
      () => [left, right].map((side) => side.map((value) => value + 0.02)),
      /^the same sound, an offset of 0\.020 of full scale$/,
      'other',
    ],
  ];
  for (const [name, make, sentence, nature] of sayings)
    it(`tells ${name}: ${String(sentence)}`, () => {
      const explanation = told([left, right], make());
      if (typeof sentence === 'string') expect(words(explanation)).to.equal(sentence);
      else expect(words(explanation)).to.match(sentence);
      expect(explanation.nature).to.equal(nature);
    });

  it('tells one sample that is off by a step from the same samples', () => {
    const off = left.slice();
    off[2 * rate] = (off[2 * rate] ?? 0) + 1 / 32_768;
    const explanation = told([left], [off]);
    expect(words(explanation)).to.equal('one sample off by one step of 16 bits, at 2 s');
    expect(explanation.nature).to.equal('other');
    // A step everywhere is how another program rounds.
    const everywhere = told([left], [left.map((value, at) => value + (at % 3 === 0 ? 1 / 32_768 : 0))]);
    expect([everywhere.nature, words(everywhere)]).to.deep.equal([
      'recompressed',
      'the same sound, rounded otherwise: no sample is off by more than one step of 16 bits',
    ]);
  });

  it('tells fewer bits, and folds away no hiss', () => {
    const eight = left.map((value) => Math.round(value * 127) / 127);
    const explanation = told([left], [eight], { bits: 8 });
    expect([explanation.nature, words(explanation)]).to.deep.equal([
      'other',
      'the same sound, rounded from 16 to 8 bits',
    ]);
  });

  it('tells the same samples at another rate by how they play', () => {
    const explanation = told([left, right], [left, right], { rate: 48_000 });
    expect(words(explanation)).to.equal('the same samples at 48,000 Hz, so that it plays 8.8 % faster');
  });

  it('tells noise and hum that were laid over it, at their levels', () => {
    const random = seeded(9);
    // Even noise of ±a has a power of a²/3.
    const noise = told([left], [left.map((value) => value + (random() - 0.5) * 0.04)]);
    expect(words(noise)).to.match(/^the same sound, noise added, at −38\.[678] dBFS$/);
    const hum = told(
      [left],
      [left.map((value, at) => value + 0.02 * Math.sin((2 * Math.PI * 50 * at) / rate))],
    );
    expect(words(hum)).to.match(/^the same sound, a hum of (49|50|51)[.\d]* Hz added, at −37\.0 dBFS$/);
  });

  it('tells a hum that is hardly heard, and one under what packing with loss leaves', () => {
    const hummed = (level: number): Float32Array =>
      left.map((value, at) => value + level * Math.SQRT2 * Math.sin((2 * Math.PI * 60 * at) / rate));
    const soft = told([left], [rounded(hummed(0.001))]);
    expect(words(soft)).to.match(/^the same sound, a hum of (59|60|61)[.\d]* Hz added, at −60\.\d dBFS$/);
    expect(soft.nature).to.equal('other');
    const random = seeded(21);
    const lossy = hummed(0.01).map((value) => value + (random() - 0.5) * 0.004);
    expect(words(told([left], [rounded(lossy)], { coding: 'Vorbis' }))).to.match(
      /a hum of (59|60|61)[.\d]* Hz added, at −40\.\d dBFS/,
    );
  });

  it('tells a tremolo by its rate', () => {
    const explanation = told(
      [left],
      [left.map((value, at) => value * (0.7 + 0.3 * Math.sin((2 * Math.PI * 5 * at) / rate)))],
    );
    expect(words(explanation)).to.equal('the same sound, a tremolo of 5.0 Hz on it');
  });

  it('tells an echo by when it comes', () => {
    const echoed = left.map((value, at) => 0.6 * value + 0.4 * (left[at - 0.3 * rate] ?? 0));
    expect(words(told([left], [echoed]))).to.match(/an echo of it after 300 ms$/);
  });

  it('calls another sound that, and nothing else', () => {
    for (let seed = 10; seed < 16; seed++) {
      const explanation = told([left], [rounded(music(4, seed))]);
      expect([explanation.nature, words(explanation)], String(seed)).to.deep.equal([
        'other',
        'another sound',
      ]);
    }
  });

  it('takes silence and sounds of a few samples', () => {
    const silence = new Float32Array(rate);
    expect(words(told([silence], [silence]))).to.equal('the same samples');
    expect(words(told([silence], [left.subarray(0, rate)]))).to.equal('a sound where there was silence');
    expect(words(told([left.subarray(0, rate)], [silence]))).to.equal('silence where there was a sound');
    for (const length of [1, 2, 17, 200]) {
      expect(words(told([left.subarray(0, length)], [left.subarray(0, length)]))).to.equal(
        'the same samples',
      );
      expect(() => told([left], [left.subarray(0, length)])).not.to.throw();
    }
  });
});
