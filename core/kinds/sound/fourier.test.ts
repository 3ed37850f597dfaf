import { expect } from 'chai';
import { seeded } from '../../../demo/seeded.ts';
import { correlation, correlationAnywhere, fourier } from './fourier.ts';

describe('Fourier transforms of sounds', () => {
  const random = seeded(21);
  const noise = (length: number): Float32Array => Float32Array.from({ length }, () => random() * 2 - 1);

  it('add up products as one does by hand, at every place', () => {
    for (const [length, places] of [
      [1, 1],
      [5, 3],
      [100, 57],
      [333, 1025],
    ] as const) {
      const [stretch, long] = [noise(length), noise(length + places - 1)];
      const found = correlation(stretch, long, places);
      expect(found).to.have.length(places);
      for (let place = 0; place < places; place++) {
        let sum = 0;
        for (let at = 0; at < length; at++) sum += (stretch[at] ?? 0) * (long[at + place] ?? 0);
        expect(found[place], `${length}, place ${place}`).to.be.closeTo(sum, 1e-9);
      }
    }
  });

  it('add them up at every shift, also where only ends meet', () => {
    const [one, other] = [noise(40), noise(73)];
    const found = correlationAnywhere(one, other);
    expect(found).to.have.length(40 + 73 - 1);
    for (let shift = -39; shift < 73; shift++) {
      let sum = 0;
      for (let at = 0; at < 40; at++) sum += (one[at] ?? 0) * (other[at + shift] ?? 0);
      expect(found[shift + 39], String(shift)).to.be.closeTo(sum, 1e-9);
    }
  });

  it('find a sound in itself by one place alone where every frequency counts alike', () => {
    const sound = noise(64);
    const later = new Float32Array(100);
    later.set(sound, 30);
    const found = correlationAnywhere(sound, later, true);
    expect(found.indexOf(Math.max(...found))).to.equal(30 + 63);
  });

  it('are made once for a size, and give each caller numbers of its own', () => {
    expect(fourier(64)).to.equal(fourier(64));
    const [first, second] = [fourier(64).createComplexArray(), fourier(64).createComplexArray()];
    expect(first).not.to.equal(second);
  });
});
