import { expect } from 'chai';
import { seeded } from '../../../demo/seeded.ts';
import { BandEnergies, bands, windowSize } from './band-energies.ts';
import type { DecodedSound, Samples } from './decoded.ts';

function noise(sort: 'floats' | 'short' | 'long', channels: number, frames: number): Samples {
  const random = seeded(5);
  const values = (length: number, scale: number): number[] =>
    Array.from({ length }, () => (random() * 2 - 1) * scale);
  if (sort === 'floats')
    return { floats: Array.from({ length: channels }, () => Float32Array.from(values(frames, 1))) };
  return {
    integers:
      sort === 'short'
        ? Int16Array.from(values(frames * channels, 32_000))
        : Int32Array.from(values(frames * channels, 2e9)),
  };
}

function soundOf(sampleRate: number, channels: number, frames: number, samples: Samples): DecodedSound {
  return { sampleRate, channels, frames, samples, coding: 'PCM', bits: null, damage: null };
}

describe('Energies of bands', () => {
  for (const [sampleRate, channels, frames, sort] of [
    [44_100, 1, 9000, 'floats'],
    [48_000, 2, 1000, 'floats'],
    [44_100, 2, 3000, 'short'],
    [96_000, 3, 9000, 'long'],
    [22_050, 1, 700, 'short'],
    [8000, 1, 4000, 'short'],
  ] as const)
    it(`are the same from the kernel, over both ends: ${sort}, ${channels} channels, ${sampleRate} Hz`, () => {
      const sound = soundOf(sampleRate, channels, frames, noise(sort, channels, frames));
      const [fast, plain] = [new BandEnergies(sound), new BandEnergies(sound, null)];
      for (let from = -1500; from < frames + 500; from += 333) {
        const [a, b] = [new Float64Array(bands), new Float64Array(bands)];
        fast.add(from, a);
        plain.add(from, b);
        b.forEach((energy, band) =>
          expect(a[band], `band ${band} from ${from}`).to.be.closeTo(energy, energy * 1e-11 + 1e-11),
        );
      }
    });

  it('of a tone lie in its band: half of the power of its amplitude, under the window (Parseval)', () => {
    const floats = Float32Array.from(
      { length: windowSize },
      (_, at) => 0.5 * Math.cos((2 * Math.PI * 43 * at) / windowSize),
    );
    const energies = new Float64Array(bands);
    const sum = new BandEnergies(soundOf(44_100, 1, windowSize, { floats: [floats] })).add(0, energies);
    // A tone of amplitude 0.5 under a Hann window: (0.5 / 2)^2 times the sum of the window's squares, by its size.
    const expected = 0.0625 * windowSize * (0.375 * windowSize);
    expect(sum).to.be.closeTo(expected, expected * 1e-6);
    expect(energies.filter((energy) => energy > expected * 0.01)).to.have.length.within(1, 2);
  });
});
