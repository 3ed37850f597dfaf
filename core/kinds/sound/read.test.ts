import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { SoundFacts } from '../../../contract/facts.ts';
import { mp3, wav } from '../../../demo/sounds.ts';
import type { ReadRequest } from '../reading.ts';
import { decodeEnvelope } from './envelope.ts';
import { envelopeOf, readSound } from './read.ts';

const read = async (bytes: Uint8Array, path: string): Promise<SoundFacts> =>
  (await readSound({ bytes, path } as ReadRequest)).facts as SoundFacts;

/** Against Debian's own programs for each format: sox, flac, oggdec (vorbis-tools) and mpg123. */
describe('readSound', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-sound-'));
  const at = (name: string): string => join(folder, name);
  const run = (program: string, ...args: string[]): void =>
    void execFileSync(program, args, { stdio: ['ignore', 'ignore', 'ignore'] });
  before(() => {
    run('sox', '-n', '-r', '44100', '-c', '2', '-b', '16', at('reference.wav'), 'synth', '1.3', 'sine', '440', 'pinknoise', 'gain', '-n', '-3'); // prettier-ignore
    for (const [bits, encoding] of [
      [8, 'unsigned-integer'],
      [16, 'signed-integer'],
      [24, 'signed-integer'],
      [32, 'signed-integer'],
      [32, 'floating-point'],
      [8, 'a-law'],
      [8, 'mu-law'],
    ] as const)
      // prettier-ignore
      run('sox', '-D', at('reference.wav'), '-b', String(bits), '-e', encoding, at(`${encoding}-${bits}.wav`));
    run('flac', '-s', '-f', '-o', at('packed.flac'), at('reference.wav'));
    run('flac', '-s', '-f', '-d', '-o', at('packed.flac.wav'), at('packed.flac'));
    run('oggenc', '-Q', '-o', at('packed.ogg'), at('reference.wav'));
    run('oggdec', '-Q', '-o', at('packed.ogg.wav'), at('packed.ogg'));
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  /** Frames and largest sample as sox reads them. */
  const reference = (name: string): { frames: number; rate: number; peak: number } => {
    const raw = execFileSync('sox', ['-D', at(name), '-t', 'f32', '-'], { maxBuffer: 2 ** 28 });
    const samples = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
    return {
      frames: samples.length / 2,
      rate: 44_100,
      peak: samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0),
    };
  };

  for (const name of [
    'unsigned-integer-8',
    'signed-integer-16',
    'signed-integer-24',
    'signed-integer-32',
    'floating-point-32',
    'a-law-8',
    'mu-law-8',
  ])
    // prettier-ignore
    it(`reads WAV of ${name} as sox does`, async () => {
      const facts = await read(readFileSync(at(`${name}.wav`)), 'x.wav');
      const expected = reference(`${name}.wav`);
      expect(facts).to.include({ sampleRate: expected.rate, channels: 2 });
      expect(facts.seconds * expected.rate).to.be.closeTo(expected.frames, 1e-6);
      expect(facts.peak).to.be.closeTo(expected.peak, 0.01);
    });

  for (const [name, decoded] of [
    ['packed.flac', 'packed.flac.wav'],
    ['packed.ogg', 'packed.ogg.wav'],
  ] as const)
    // prettier-ignore
    it(`reads ${name} as its own decoder does`, async () => {
      const facts = await read(readFileSync(at(name)), name);
      const expected = reference(decoded);
      expect(facts.seconds * expected.rate).to.be.closeTo(expected.frames, 1e-6);
      expect(facts.channels).to.equal(2);
      expect(facts.peak).to.be.closeTo(expected.peak, 0.001);
    });

  it('reads MP3 as mpg123 does, but for the frames that encoders put around', async () => {
    const bytes = await mp3(Float32Array.from({ length: 22_050 }, (_, frame) => 0.5 * Math.sin(frame / 20)));
    execFileSync('mpg123', ['-q', '-w', at('packed.mp3.wav'), '-'], { input: bytes, stdio: ['pipe', 'ignore', 'ignore'] }); // prettier-ignore
    const decoded = await read(readFileSync(at('packed.mp3.wav')), 'x.wav');
    const facts = await read(bytes, 'x.mp3');
    expect(facts).to.include({ sampleRate: 22_050, channels: 1 });
    expect(Math.abs(facts.seconds - decoded.seconds) * 22_050).to.be.at.most(2 * 1152);
    expect(facts.peak).to.be.closeTo(decoded.peak, 0.02);
  });

  it('finds the loop of a smpl chunk, in frames', async () => {
    const bytes = wav(new Float32Array(1000).fill(0.5), { startFrame: 200, endFrame: 899 });
    expect((await read(bytes, 'x.wav')).loops).to.deep.equal([{ startFrame: 200, endFrame: 899 }]);
  });

  for (const name of ['signed-integer-16.wav', 'packed.flac', 'packed.ogg'])
    it(`says that ${name} was cut short`, async () => {
      const bytes = readFileSync(at(name));
      await read(bytes.subarray(0, Math.floor(bytes.length * 0.6)), name).then(
        () => expect.fail('it should not be read'),
        (error: Error) => expect(error.message).to.match(/cut short|could not be decoded/),
      );
    });
});

describe('envelopeOf', () => {
  it('holds the extremes of each slice, and the peak of the loudest channel', () => {
    const left = Float32Array.from({ length: 800 }, (_, frame) => (frame === 401 ? -1 : 0.25));
    const { envelope, peak } = envelopeOf([left]);
    const values = decodeEnvelope(envelope);
    expect(values).to.have.length(800);
    expect(values[400]).to.equal(-1);
    expect(values[401]).to.be.closeTo(0.25, 0.005);
    expect(peak).to.equal(1);
    expect(envelopeOf([left, left.map((sample) => -sample)]).peak).to.equal(1);
  });
});
