import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WaveFile } from 'wavefile';
import { fileOf, writeBytes } from '../../../../tests/support/write.ts';
import { decodeWave } from '../wav.ts';
import { writeWave } from './wave.ts';

/** Sounds that nobody here made: Debian’s package sonic-pi-samples (CC0). */
const samples = '/usr/share/sonic-pi/samples';

describe('Writing sounds', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-write-'));
  after(() => rmSync(folder, { recursive: true, force: true }));
  const file = (name: string, bytes: Uint8Array): string => {
    writeFileSync(join(folder, name), bytes);
    return join(folder, name);
  };
  /** Samples of 32 bits, as a program of Debian’s reads them. */
  const bySox = (path: string): Buffer =>
    execFileSync('sox', ['-D', path, '-t', 'raw', '-e', 'signed', '-b', '32', '-'], {
      maxBuffer: 256 * 1024 ** 2,
    });

  it('writes FLAC as WAV and back, sample for sample as sox reads them', async () => {
    for (const name of readdirSync(samples)
      .filter((one) => /^(bd|elec)_.*\.flac$/.test(one))
      .slice(0, 6)) {
      const source = readFileSync(join(samples, name));
      const wave = await writeBytes(source, name, { settings: { sounds: { as: 'wav' } } });
      expect(wave.proof, name).to.deep.equal({ verdict: 'the same', sentence: '' });
      const path = file('x.wav', fileOf(wave, '.wav'));
      expect(bySox(path).equals(bySox(join(samples, name))), name).to.equal(true);
      const again = await writeBytes(fileOf(wave, '.wav'), 'x.wav', { settings: { sounds: { as: 'flac' } } });
      expect(again.proof.verdict, name).to.equal('the same');
      const packed = file('x.flac', fileOf(again, '.flac'));
      execFileSync('flac', ['-t', '-s', packed]);
      expect(bySox(packed).equals(bySox(path)), name).to.equal(true);
    }
  });

  it('writes Ogg Vorbis and Opus that oggdec and opusdec read in full length, and says that they are packed with loss', async () => {
    const source = readFileSync(join(samples, 'elec_plip.flac'));
    const frames = bySox(join(samples, 'elec_plip.flac')).length / 4;
    const ogg = await writeBytes(source, 'x.flac', { settings: { sounds: { as: 'ogg' } } });
    expect(ogg.losses).to.deep.equal(['the exact samples']);
    expect(ogg.proof.sentence).to.match(/^The same sound/);
    execFileSync('oggdec', ['-Q', '-o', join(folder, 'ogg.wav'), file('x.ogg', fileOf(ogg, '.ogg'))]);
    expect(bySox(join(folder, 'ogg.wav')).length / 4).to.be.closeTo(frames, 64);
    const opus = await writeBytes(source, 'x.flac', { settings: { sounds: { as: 'opus' } } });
    execFileSync('opusdec', ['--quiet', file('x.opus', fileOf(opus, '.opus')), join(folder, 'opus.wav')], {
      stdio: 'ignore',
    });
    const seconds = bySox(join(folder, 'opus.wav')).length / 4 / 48_000;
    expect(seconds).to.be.closeTo(frames / 44_100, 0.01);
  });

  it('keeps loops and marked places in a WAV, as an independent package reads them', () => {
    const integers = Int16Array.from({ length: 2000 }, (_, at) => Math.round(9000 * Math.sin(at / 9)));
    const sound = {
      sampleRate: 22_050,
      channels: 1,
      frames: 2000,
      coding: 'PCM',
      bits: 16,
      damage: null,
      samples: { integers },
    };
    const bytes = writeWave(sound, 16, {
      loops: [{ startFrame: 100, endFrame: 1899 }],
      cues: [{ frame: 700, label: 'bell' }],
    });
    const read = new WaveFile(bytes);
    const { loops } = read.smpl as unknown as { loops: { dwStart: number; dwEnd: number }[] };
    expect(loops.map(({ dwStart, dwEnd }) => [dwStart, dwEnd])).to.deep.equal([[100, 1899]]);
    expect(read.listCuePoints().map((point) => (point as { label?: string }).label)).to.deep.equal(['bell']);
    expect([...(read.getSamples(false, Int16Array) as unknown as Int16Array)].slice(0, 50)).to.deep.equal([
      ...integers.subarray(0, 50),
    ]);
  });

  it('keeps the first loop in comments of FLAC, in sample frames with its length', async () => {
    const integers = Int16Array.from({ length: 4000 }, (_, at) => Math.round(9000 * Math.sin(at / 7)));
    const sound = {
      sampleRate: 44_100,
      channels: 1,
      frames: 4000,
      coding: 'PCM',
      bits: 16,
      damage: null,
      samples: { integers },
    };
    const loops = [
      { startFrame: 256, endFrame: 3071 },
      { startFrame: 0, endFrame: 9 },
    ];
    const wave = writeWave(sound, 16, { loops, cues: [] });
    const written = await writeBytes(wave, 'x.wav', { settings: { sounds: { as: 'flac' } } });
    expect(written.losses).to.deep.equal(['loops beside the first']);
    const path = file('loop.flac', fileOf(written, '.flac'));
    const said = execFileSync('metaflac', ['--export-tags-to=-', path], { encoding: 'utf8' });
    expect(said).to.contain('LOOPSTART=256').and.to.contain('LOOPLENGTH=2816');
  });

  it('keeps 8, 16, 24 and 32 bits and floats to the bit, and says what fewer bits cost', async () => {
    const integers = Int32Array.from({ length: 999 }, (_, at) => (at * 4_301_237) | 0);
    const sound = {
      sampleRate: 8000,
      channels: 1,
      frames: 999,
      coding: 'PCM',
      bits: 32,
      damage: null,
      samples: { integers },
    };
    const deep = decodeWave(writeWave(sound, 32, { loops: [], cues: [] }));
    expect('integers' in deep.samples && [...deep.samples.integers]).to.deep.equal([...integers]);
    const wave = writeWave(sound, 32, { loops: [], cues: [] });
    const less = await writeBytes(wave, 'x.wav', { settings: { sounds: { as: 'flac', bits: '16' } } });
    expect(less.losses).to.deep.equal(['more than 16 bits to a sample']);
    expect(less.proof.sentence).to.match(/^Its samples differ by at most -9\d dB of full scale\.$/);
  });

  it('says why what has no samples cannot be written', async () => {
    const cut = readFileSync(join(samples, 'elec_plip.flac')).subarray(0, 30);
    const reason = await writeBytes(cut, 'x.flac', { settings: { sounds: { as: 'wav' } } }).then(
      () => 'nothing',
      (error: Error) => error.message,
    );
    expect(reason).to.not.equal('nothing');
    const notes = new TextEncoder().encode('MThd\0\0\0\u0006\0\0\0\u0001\0\u0060');
    const told = await writeBytes(notes, 'x.mid', { settings: {} }).then(
      () => 'nothing',
      (error: Error) => error.message,
    );
    expect(told).to.equal('this is MIDI, which has notes and no samples: it can be taken out as it lay');
  });
});
