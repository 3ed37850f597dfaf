import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { SoundFacts } from '../../../contract/facts.ts';
import { mp3, wav } from '../../../demo/sounds.ts';
import { fingerprintOf, readBytes, readFile } from '../../../tests/support/read.ts';
import { identify } from '../identify.ts';
import { floatsOf } from './decoded.ts';
import { seeded } from '../../../demo/seeded.ts';
import { decodeEnvelope, envelopeOf } from './envelope.ts';
import { decodeSound } from './read.ts';
import { soundSignatureParts } from './signature.ts';

const factsOf = async (bytes: Uint8Array, path: string): Promise<SoundFacts> =>
  (await readBytes(bytes, path)).facts as SoundFacts;

/** Against Debian's own programs for each format: sox, flac, oggdec (vorbis-tools), opusdec (opus-tools) and mpg123. */
describe('readSound', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-sound-'));
  const at = (name: string): string => join(folder, name);
  const run = (program: string, ...args: string[]): void =>
    void execFileSync(program, args, { cwd: folder, stdio: ['ignore', 'ignore', 'ignore'] });
  const waves: Record<string, string[]> = {
    'pcm8.wav': ['-b', '8', '-e', 'unsigned-integer'],
    'pcm16.wav': ['-b', '16', '-e', 'signed-integer'],
    'pcm24.wav': ['-b', '24', '-e', 'signed-integer'],
    'pcm32.wav': ['-b', '32', '-e', 'signed-integer'],
    'float.wav': ['-b', '32', '-e', 'floating-point'],
    'a-law.wav': ['-b', '8', '-e', 'a-law'],
    'mu-law.wav': ['-b', '8', '-e', 'mu-law'],
    'ms-adpcm.wav': ['-e', 'ms-adpcm'],
    'pcm8.aiff': ['-b', '8'],
    'pcm16.aiff': ['-b', '16'],
    'pcm24.aiff': ['-b', '24'],
    'float.aifc': ['-b', '32', '-e', 'floating-point'],
  };
  before(() => {
    run(
      'sox',
      '-n',
      '-r',
      '44100',
      '-c',
      '2',
      '-b',
      '16',
      'reference.wav',
      'synth',
      '1.3',
      'sine',
      '440',
      'pinknoise',
      'gain',
      '-n',
      '-3',
    );
    for (const [name, options] of Object.entries(waves)) run('sox', '-D', 'reference.wav', ...options, name);
    run('sox', '-D', 'reference.wav', '-e', 'ima-adpcm', 'ima-adpcm.wav');
    for (const bits of ['16', '24']) {
      run('flac', '-s', '-f', '-o', `packed${bits}.flac`, `pcm${bits}.wav`);
      run('flac', '-s', '-f', '-d', '-o', `packed${bits}.flac.wav`, `packed${bits}.flac`);
    }
    run('oggenc', '-Q', '-o', 'packed.ogg', 'reference.wav');
    run('oggdec', '-Q', '-b', '16', '-o', 'packed.ogg.wav', 'packed.ogg');
    run('opusenc', '--quiet', 'reference.wav', 'packed.opus');
    run('opusdec', '--quiet', '--no-dither', '--rate', '48000', 'packed.opus', 'packed.opus.wav');
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  /** Interleaved 32 bit integers as sox reads them. */
  const soxSamples = (name: string): Int32Array => {
    const raw = execFileSync('sox', ['-D', at(name), '-t', 's32', '-'], {
      maxBuffer: 2 ** 28,
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    return new Int32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
  };
  const decode = (name: string) => {
    const bytes = readFileSync(at(name));
    return decodeSound(bytes, identify(bytes.subarray(0, 1024), name).format);
  };
  /** The largest difference of any sample, full scale being 1. */
  const greatest = async (name: string, reference: string): Promise<number> => {
    const sound = await decode(name);
    const theirs = soxSamples(reference);
    expect(sound.frames * sound.channels, 'samples').to.equal(theirs.length);
    let most = 0;
    if ('integers' in sound.samples) {
      const shift = sound.samples.integers instanceof Int16Array ? 65_536 : 1;
      sound.samples.integers.forEach(
        (sample, index) => (most = Math.max(most, Math.abs(sample * shift - (theirs[index] ?? 0)))),
      );
    } else {
      sound.samples.floats.forEach((samples, channel) =>
        samples.forEach(
          (sample, frame) =>
            (most = Math.max(
              most,
              Math.abs(sample * 2 ** 31 - (theirs[frame * sound.channels + channel] ?? 0)),
            )),
        ),
      );
    }
    return most / 2 ** 31;
  };

  for (const name of Object.keys(waves))
    it(`reads ${name} as sox does, sample by sample`, async () => {
      // Of floats sox makes integers of 32 bits, which floats of 24 cannot hold.
      expect(await greatest(name, name)).to.be.at.most(name.startsWith('float') ? 2 ** -23 : 0);
    });

  it('reads IMA ADPCM as sox does, but for how the two round a step', async () => {
    expect(await greatest('ima-adpcm.wav', 'ima-adpcm.wav')).to.be.at.most(1 / 512);
  });

  for (const name of ['packed16.flac', 'packed24.flac'])
    it(`reads ${name} as flac does, sample by sample`, async () => {
      expect(await greatest(name, `${name}.wav`)).to.equal(0);
    });

  for (const name of ['packed.ogg', 'packed.opus'])
    it(`reads ${name} as its own decoder does, within 1 in 2^14`, async () => {
      expect(await greatest(name, `${name}.wav`)).to.be.at.most(2 ** -14);
    });

  it('reads MP3 as mpg123 does, but for the frames that encoders put around', async () => {
    const bytes = await mp3(Float32Array.from({ length: 22_050 }, (_, frame) => 0.5 * Math.sin(frame / 20)));
    execFileSync('mpg123', ['-q', '-w', at('packed.mp3.wav'), '-'], {
      input: bytes,
      stdio: ['pipe', 'ignore', 'ignore'],
    });
    const decoded = await factsOf(readFileSync(at('packed.mp3.wav')), 'x.wav');
    const { facts, damage } = await readBytes(bytes, 'x.mp3');
    expect(facts).to.include({ sampleRate: 22_050, channels: 1, coding: 'MP3' });
    expect(damage).to.equal(null);
    expect(Math.abs((facts as SoundFacts).seconds - decoded.seconds) * 22_050).to.be.at.most(2 * 1152);
    expect((facts as SoundFacts).peak).to.be.closeTo(decoded.peak, 0.02);
  });

  it('gives the same samples the same fingerprint, whatever packs them', async () => {
    const fingerprint = async (name: string) => fingerprintOf(await readFile(at(name)));
    const wanted = await fingerprint('pcm16.wav');
    expect(wanted).to.not.equal(null);
    for (const name of [
      'packed16.flac',
      'pcm16.aiff',
      'pcm24.wav',
      'packed24.flac',
      'pcm24.aiff',
      'pcm32.wav',
    ])
      expect(await fingerprint(name), name).to.equal(wanted);
    expect(await fingerprint('pcm8.aiff')).to.equal(await fingerprint('pcm8.wav'));
    for (const name of ['pcm8.wav', 'packed.ogg', 'a-law.wav'])
      expect(await fingerprint(name), name).to.not.equal(wanted);
  });

  it('finds sounds alike that were packed with loss, and others unlike', async () => {
    run(
      'sox',
      '-n',
      '-r',
      '44100',
      '-c',
      '2',
      'other.wav',
      'synth',
      '1.3',
      'square',
      '90',
      'brownnoise',
      'gain',
      '-n',
      '-3',
    );
    const signature = async (name: string): Promise<Uint8Array> =>
      (await readFile(at(name))).signature ?? new Uint8Array();
    const distance = (a: Uint8Array, b: Uint8Array): number =>
      a.reduce((sum, value, index) => sum + Math.abs(value - (b[index] ?? 0)), 0);
    const whole = await signature('pcm16.wav');
    for (const name of ['packed.ogg', 'packed.opus'])
      expect(distance(whole, await signature(name)), name).to.be.lessThan(
        distance(whole, await signature('other.wav')) / 4,
      );
  });

  it('tells a long sound’s loudness as a short one’s, though it looks at some of it only', async () => {
    const loudness = async (seconds: number): Promise<number> => {
      const samples = Float32Array.from(
        { length: 22_050 * seconds },
        (_, frame) => 0.5 * Math.sin((2 * Math.PI * 440 * frame) / 22_050),
      );
      return (await readBytes(wav(samples), 'x.wav')).signature?.[soundSignatureParts.loudness] ?? 0;
    };
    expect(Math.abs((await loudness(2)) - (await loudness(150)))).to.be.at.most(1);
  });

  it('finds the loop of a smpl chunk, in frames, and the places that a cue chunk marks', async () => {
    const bytes = wav(new Float32Array(1000).fill(0.5), { startFrame: 200, endFrame: 899 });
    expect((await factsOf(bytes, 'x.wav')).loops).to.deep.equal([{ startFrame: 200, endFrame: 899 }]);
    // By hand, after the specification: number, place in the list, 'data', 0, 0, frame.
    const cue = Buffer.alloc(8 + 4 + 24);
    cue.write('cue ', 0, 'latin1');
    cue.writeUInt32LE(28, 4);
    cue.writeUInt32LE(1, 8);
    cue.writeUInt32LE(7, 12);
    cue.writeUInt32LE(640, 32);
    const label = Buffer.alloc(8 + 4 + 8 + 4 + 6);
    label.write('LIST', 0, 'latin1');
    label.writeUInt32LE(22, 4);
    label.write('adtllabl', 8, 'latin1');
    label.writeUInt32LE(10, 16);
    label.writeUInt32LE(7, 20);
    label.write('gate\0', 24, 'latin1');
    expect((await factsOf(Buffer.concat([bytes, cue, label]), 'x.wav')).cues).to.deep.equal([
      { frame: 640, label: 'gate' },
    ]);
  });

  it('finds a loop that comments tell of (common practice, no published source)', async () => {
    run(
      'oggenc',
      '-Q',
      '-c',
      'LOOPSTART=1000',
      '-c',
      'LOOPLENGTH=20000',
      '-o',
      'looped.ogg',
      'reference.wav',
    );
    expect((await factsOf(readFileSync(at('looped.ogg')), 'x.ogg')).loops).to.deep.equal([
      { startFrame: 1000, endFrame: 20_999 },
    ]);
  });

  it('reads MIDI as events', async () => {
    // Standard MIDI Files 1.0: one track, a quarter of 96 ticks, half a second each; two notes of a quarter.
    const events = [
      0x00, 0x90, 60, 100, 0x60, 0x80, 60, 0, 0x00, 0x90, 64, 100, 0x60, 0x80, 64, 0, 0x00, 0xff, 0x2f, 0,
    ];
    const bytes = Buffer.from([
      ...Buffer.from('MThd'),
      0,
      0,
      0,
      6,
      0,
      0,
      0,
      1,
      0,
      96,
      ...Buffer.from('MTrk'),
      0,
      0,
      0,
      events.length,
      ...events,
    ]);
    expect(await factsOf(bytes, 'x.mid')).to.include({ notes: 2, channels: 1, seconds: 1 });
  });

  describe('that is damaged or cut short', () => {
    for (const name of ['pcm16.wav', 'pcm16.aiff', 'packed16.flac', 'packed.ogg', 'packed.opus'])
      it(`says that ${name} was cut short, with the facts of what is there`, async () => {
        const bytes = readFileSync(at(name));
        const { facts, damage, decoded } = await readBytes(
          bytes.subarray(0, Math.floor(bytes.length * 0.6)),
          name,
        ).catch((error: Error) => ({ facts: null, damage: error.message, decoded: null }));
        expect(damage).to.match(/cut short|could not be decoded/);
        expect(decoded).to.equal(null);
        if (facts !== null || name.startsWith('pcm'))
          expect(facts).to.include({ kind: 'sound', channels: 2 });
      });

    for (const name of ['packed16.flac', 'packed.ogg', 'packed.opus'])
      it(`says that ${name} has other bytes than it had`, async () => {
        const bytes = Buffer.from(readFileSync(at(name)));
        const middle = Math.floor(bytes.length / 2);
        for (let place = middle; place < middle + 40; place++) bytes[place] = (bytes[place] ?? 0) ^ 0x55;
        const damage = await readBytes(bytes, name).then(
          (reading) => reading.damage,
          (error: Error) => error.message,
        );
        expect(damage).to.match(/damaged|could not be decoded|cut short/);
      });

    it('says where an MP3 has no frame where there should be one, and where it ends', async () => {
      const bytes = Buffer.from(
        await mp3(Float32Array.from({ length: 44_100 }, (_, frame) => 0.5 * Math.sin(frame / 20))),
      );
      expect((await readBytes(bytes.subarray(0, bytes.length - 30), 'x.mp3')).damage).to.match(
        /^the file is cut short: the frame at byte \d+/,
      );
      const holed = Buffer.from(bytes);
      holed.fill(0x11, 1000, 2500);
      expect((await readBytes(holed, 'x.mp3')).damage).to.match(
        /^the file is damaged: at byte \d+, after \d+ frames/,
      );
      writeFileSync(at('x.mp3'), bytes);
    });
  });
});

describe('envelopeOf', () => {
  it('holds the extremes of each slice, and the peak of the loudest channel', () => {
    const left = Float32Array.from({ length: 800 }, (_, frame) => (frame === 401 ? -1 : 0.25));
    const { envelope, peak } = envelopeOf({ channels: 1, frames: 800, samples: { floats: [left] } });
    const values = decodeEnvelope(envelope);
    expect(values).to.have.length(800);
    expect(values[400]).to.equal(-1);
    expect(values[401]).to.be.closeTo(0.25, 0.005);
    expect(peak).to.equal(1);
    expect(
      envelopeOf({ channels: 2, frames: 800, samples: { floats: [left, left.map((sample) => -sample)] } })
        .peak,
    ).to.equal(1);
  });

  it('tells of integers what it tells of the same as floats', () => {
    const integers = Int16Array.from({ length: 2000 }, (_, index) =>
      Math.round(Math.sin(index / 9) * (index % 50 === 0 ? 32_767 : 20_000)),
    );
    const sound = { channels: 2, frames: 1000, samples: { integers } };
    const floats = floatsOf({ ...sound, sampleRate: 1, coding: '', bits: 16, damage: null });
    expect(envelopeOf({ ...sound, samples: { floats } })).to.deep.include({
      envelope: envelopeOf(sound).envelope,
    });
  });

  it('is the same from the kernel, of every sort of samples, also where a slice is larger than its buffers', () => {
    const random = seeded(4);
    const noise = (length: number, scale: number): number[] =>
      Array.from({ length }, () => (random() * 2 - 1) * scale);
    for (const [channels, frames] of [
      [2, 9000],
      [3, 350],
      [40, 700_000 / 40],
    ] as const)
      for (const samples of [
        { floats: Array.from({ length: channels }, () => Float32Array.from(noise(frames, 1))) },
        { integers: Int16Array.from(noise(frames * channels, 32_768)) },
        { integers: Int32Array.from(noise(frames * channels, 2 ** 31)) },
      ]) {
        const sound = { channels, frames, samples };
        expect(envelopeOf(sound)).to.deep.equal(envelopeOf(sound, null));
      }
    const long = { channels: 2, frames: 40_000_000, samples: { integers: new Int16Array(80_000_000) } };
    long.samples.integers[70_000_001] = -32_768;
    expect(envelopeOf(long).peak).to.equal(1);
  });
});
