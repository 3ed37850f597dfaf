import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Comparison } from '../../../contract/comparisons.ts';
import { compareBytes } from '../../../tests/support/compare.ts';
import { wav } from '../../../demo/sounds.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';
import { writeShownWave } from './write/shown-wave.ts';

const rate = 44_100;

/** A tune of plucked tones over a soft wind: rises and falls, low and high. */
function tune(seconds: number, pitch = 1): Float32Array {
  let seed = 11;
  return Float32Array.from({ length: Math.round(seconds * rate) }, (_, at) => {
    const time = at / rate;
    const beat = Math.floor(time * 3.3);
    const hertz = [220, 330, 294, 440, 392, 262, 523][(beat * 5) % 7] ?? 220;
    seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
    const pluck = Math.exp(-((time * 3.3) % 1) * 5);
    const wind = (seed / 0x3fffffff - 1) * 0.04 * (1 + Math.sin(time));
    return (
      0.35 *
        pluck *
        (Math.sin(2 * Math.PI * hertz * pitch * time) + 0.4 * Math.sin(4 * Math.PI * hertz * pitch * time)) +
      wind
    );
  });
}

const wave = (samples: Float32Array): Uint8Array =>
  writeShownWave({
    sampleRate: rate,
    channels: 1,
    frames: samples.length,
    coding: '',
    bits: 16,
    damage: null,
    samples: { floats: [samples] },
  });

describe('comparing sounds', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-sounds-'));
  after(() => rmSync(folder, { recursive: true, force: true }));
  const base = tune(6);
  const at = (name: string): string => join(folder, name);
  const made = (program: string, ...args: string[]): void =>
    void execFileSync(program, args, { cwd: folder, stdio: ['ignore', 'ignore', 'ignore'] });
  before(() => writeFileSync(at('base.wav'), wave(base)));
  const against = async (name: string): Promise<Comparison> =>
    compareBytes({ bytes: wave(base), path: 'a.wav' }, { bytes: readFileSync(at(name)), path: name });
  const sox = async (name: string, ...effects: string[]): Promise<Comparison> => {
    made('sox', '-D', 'base.wav', name, ...effects);
    return against(name);
  };
  const detailOf = ({ detail }: Comparison) => {
    if (detail?.kind !== 'sound') throw new Error('no detail of a sound');
    return detail;
  };

  it('tells what sox made louder, shifted, trimmed and filtered, and by how much', async () => {
    const louder = await sox('quieter.wav', 'vol', '-4dB');
    expect(louder.nature).to.equal('louder');
    expect(louder.sentence).to.equal('The same sound, 4.0 dB quieter.');
    const later = await sox('later.wav', 'pad', '0.25', 'trim', '0', '6');
    expect([later.nature, detailOf(later).shiftSeconds]).to.deep.equal(['trimmed', 0.25]);
    expect(later.sentence).to.equal('The same sound, 250 ms of silence before it, without its last 250 ms.');
    const shorter = await sox('shorter.wav', 'trim', '1.5');
    expect(shorter.nature).to.equal('trimmed');
    expect(shorter.sentence).to.equal('The same sound, without its first 1.5 s.');
    // More of it at its end is no trimming.
    writeFileSync(at('longer.wav'), wave(tune(8)));
    const longer = await against('longer.wav');
    expect(longer.nature).to.equal('other');
    expect(longer.sentence).to.equal('The same sound, 2 s of something new at its end.');
    const dull = await sox('dull.wav', 'lowpass', '-2', '1200');
    expect(dull.nature).to.equal('filtered');
    expect(dull.sentence).to.equal('The same sound, cut off above 1.2 kHz.');
  });

  it('knows a sound again that was packed with loss, or at another rate', async () => {
    made('oggenc', '-Q', '-q', '4', '-o', 'base.ogg', 'base.wav');
    made('ffmpeg', '-y', '-i', 'base.wav', '-b:a', '128k', 'base.mp3');
    made('opusenc', '--quiet', '--bitrate', '96', 'base.wav', 'base.opus');
    made('flac', '-s', '-f', '-o', 'base.flac', 'base.wav');
    for (const name of ['base.ogg', 'base.mp3', 'base.opus']) {
      const comparison = await against(name);
      expect(comparison.nature, `${name}: ${comparison.sentence}`).to.equal('recompressed');
      expect(detailOf(comparison).likeness, name).to.be.above(0.95);
    }
    expect((await against('base.flac')).nature).to.equal('same');
    // Half of the rate holds half of the tones.
    const slower = await sox('slower.wav', 'rate', '-v', '22050');
    expect([slower.nature, slower.sentence]).to.deep.equal([
      'rescaled',
      'The same sound at 22,050 Hz instead of 44,100.',
    ]);
  });

  it('says from which second to which a sound is another one', async () => {
    const changed = new Float32Array(base);
    const other = tune(6, 1.26);
    for (let sample = 2 * rate; sample < 3.5 * rate; sample++) changed[sample] = other[sample] ?? 0;
    writeFileSync(at('changed.wav'), wave(changed));
    const comparison = await against('changed.wav');
    expect(comparison.nature).to.equal('other');
    const { ranges } = detailOf(comparison);
    expect(ranges.at(0)?.from).to.be.closeTo(2, 0.3);
    expect(ranges.at(-1)?.to).to.be.closeTo(3.5, 0.3);
    // The same beneath loss: what is packed with loss hides no change.
    made('oggenc', '-Q', '-q', '5', '-o', 'changed.ogg', 'changed.wav');
    const packed = await against('changed.ogg');
    expect(packed.nature).to.equal('other');
    writeFileSync(at('else.wav'), wave(tune(6, 0.7)));
    expect((await against('else.wav')).nature).to.equal('other');
  });

  it('finds a click of a hundredth of a second in what else is the same to the sample', async () => {
    const clicked = new Float32Array(base);
    // A thousandth of full scale: less than a thousandth of a thousandth of all that is heard.
    for (let sample = 3 * rate; sample < 3.01 * rate; sample++)
      clicked[sample] = (clicked[sample] ?? 0) + (sample % 2 === 0 ? 0.004 : -0.004);
    writeFileSync(at('clicked.wav'), wave(clicked));
    const comparison = await against('clicked.wav');
    expect([comparison.nature, comparison.sentence]).to.deep.equal([
      'other',
      'The same sound, a click at 3 s.',
    ]);
  });

  it('lays a sound that only fades on itself where its begin was cut off', async () => {
    let seed = 5;
    const strike = Float32Array.from({ length: rate * 3 }, (_, sample) => {
      const time = sample / rate;
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const rattle = (seed / 0x3fffffff - 1) * 0.3;
      return Math.exp(-time * 2) * (0.6 * Math.sin(2 * Math.PI * 180 * time) + rattle * Math.exp(-time * 3));
    });
    const cut = strike.subarray(Math.round(rate * 0.1));
    const { sentence } = await compareBytes(
      { bytes: wave(strike), path: 'a.wav' },
      { bytes: wave(cut), path: 'a.wav' },
    );
    expect(sentence).to.equal('The same sound, without its first 100 ms.');
  });

  it('is not merely packed otherwise where the loop or the number of channels is another one', async () => {
    const looped = (startFrame: number): Uint8Array => wav(base, { startFrame, endFrame: base.length - 1 });
    const { nature, sentence } = await compareBytes(
      { bytes: looped(22_050), path: 'a.wav' },
      { bytes: looped(11_025), path: 'a.wav' },
    );
    expect(nature).to.equal('other');
    expect(sentence).to.match(/^The same samples, loop 0\.500 to .* instead of 1\.000 to .* s\.$/);
    const stereo = await sox('stereo.wav', 'channels', '2');
    expect([stereo.nature, stereo.sentence]).to.deep.equal([
      'other',
      'The same sound, the same on left and right, 2 channels instead of 1.',
    ]);
    // Nor do the fingerprints take them for one.
    const fingerprints = await Promise.all(
      [22_050, 11_025].map(async (frame) => fingerprintOf(await readBytes(looped(frame), 'a.wav'))),
    );
    expect(fingerprints[0]).to.not.equal(fingerprints[1]);
  });

  it('measures loudness before and after', async () => {
    const { newLoudness, oldLoudness } = detailOf(await sox('minus6.wav', 'vol', '-6dB'));
    expect((newLoudness ?? 0) - (oldLoudness ?? 0)).to.be.closeTo(-6, 0.02);
  });

  it('says which sound cannot be read', async () => {
    const failure = await compareBytes(
      { bytes: wave(base), path: 'a.wav' },
      { bytes: wave(base).subarray(0, 40), path: 'b.wav' },
    ).catch(String);
    expect(failure).to.match(/ReadError/);
  });
});
