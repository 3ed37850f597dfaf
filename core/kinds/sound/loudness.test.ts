import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { integratedLoudness, truePeak, weightingFilters } from './loudness.ts';
import { writeShownWave } from './write/shown-wave.ts';

const sampleRate = 48_000;
const amplitude = (decibels: number): number => 10 ** (decibels / 20);

/** A sine of 1 kHz in steps of [dBFS, seconds]. */
function tones(steps: readonly (readonly [number, number])[], rate = sampleRate): Float32Array {
  const values: number[] = [];
  for (const [level, seconds] of steps)
    for (let at = 0; at < Math.round(seconds * rate); at++)
      values.push(amplitude(level) * Math.sin((2 * Math.PI * 1000 * values.length) / rate));
  return Float32Array.from(values);
}

/** EBU Tech 3341, "Loudness Metering", table 1: its test signals made from their description (from memory). */
describe('loudness after ITU-R BS.1770', () => {
  it('has the published factors of the two filters at 48 kHz', () => {
    // Tables 1 and 2 of annex 1 of BS.1770-4.
    const published = [
      [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585],
      [1, -2, 1, -1.99004745483398, 0.99007225036621],
    ];
    weightingFilters(48_000).forEach((filter, at) =>
      filter.forEach((factor, part) => expect(factor).to.be.closeTo(published[at]?.[part] ?? 0, 1e-8)),
    );
  });

  it('meets signals 1 to 6 of EBU Tech 3341 within a tenth of a unit', () => {
    const stereo = (steps: [number, number][], expected: number): void => {
      const tone = tones(steps);
      expect(integratedLoudness([tone, tone], sampleRate), JSON.stringify(steps)).to.be.closeTo(
        expected,
        0.1,
      );
    };
    stereo([[-23, 20]], -23);
    stereo([[-33, 20]], -33);
    stereo(
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    );
    stereo(
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    );
    stereo(
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    );
    const channels = [-28, -28, -24, -30, -30].map((level) => tones([[level, 20]]));
    expect(integratedLoudness(channels, sampleRate)).to.be.closeTo(-23, 0.1);
  });

  it('meets signals 15 to 19 of EBU Tech 3341 for the true peak: 0.2 above, 0.4 below', () => {
    const sine = (share: number, level: number, degrees: number): number | null =>
      truePeak([
        Float32Array.from(
          { length: sampleRate / 10 },
          // Faded in and out: an edge rings, and is no part of what is measured.
          (_, at) =>
            Math.min(1, at / 480, (sampleRate / 10 - 1 - at) / 480) *
            level *
            Math.sin((2 * Math.PI * at) / share + (degrees * Math.PI) / 180),
        ),
      ]);
    for (const [share, level, degrees, expected] of [
      [4, 0.5, 0, -6],
      [4, 0.5, 45, -6],
      [6, 0.5, 60, -6],
      [8, 0.5, 67.5, -6],
      [4, 1.41, 45, 3],
    ] as const)
      expect(sine(share, level, degrees), `${share} ${degrees}`).to.be.within(expected - 0.4, expected + 0.2);
  });

  it('agrees with ffmpeg’s ebur128 on sounds of several rates', () => {
    const folder = mkdtempSync(join(tmpdir(), 'worvel-loudness-'));
    try {
      for (const rate of [22_050, 44_100, 48_000]) {
        let seed = 5;
        const noise = Float32Array.from({ length: rate * 6 }, (_, at) => {
          seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
          const swell = 0.15 + 0.2 * Math.sin(at / rate) ** 2;
          return swell * (seed / 0x3fffffff - 1) + 0.1 * Math.sin(at / 9);
        });
        const path = join(folder, `${rate}.wav`);
        writeFileSync(
          path,
          writeShownWave({
            sampleRate: rate,
            channels: 1,
            frames: noise.length,
            coding: '',
            bits: 16,
            damage: null,
            samples: { floats: [noise] },
          }),
        );
        const { stderr } = spawnSync(
          'ffmpeg',
          ['-nostats', '-i', path, '-filter_complex', 'ebur128=peak=true', '-f', 'null', '-'],
          { encoding: 'utf8' },
        );
        const summary = stderr.slice(stderr.lastIndexOf('Summary'));
        const [, loudness] = /I:\s+(-?[\d.]+) LUFS/.exec(summary) ?? [];
        const [, peak] = /Peak:\s+(-?[\d.]+) dBFS/.exec(summary) ?? [];
        // ffmpeg plays a single channel from one loudspeaker, as we do.
        expect(integratedLoudness([noise], rate), `${rate}`).to.be.closeTo(Number(loudness), 0.1);
        expect(truePeak([noise]), `${rate}`).to.be.closeTo(Number(peak), 0.5);
      }
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });

  it('says nothing of silence', () => {
    expect(integratedLoudness([new Float32Array(48_000)], 48_000)).to.equal(null);
    expect(truePeak([new Float32Array(48_000)])).to.equal(null);
    expect(integratedLoudness([tones([[-20, 0.05]])], 48_000)).to.be.a('number');
  });
});
