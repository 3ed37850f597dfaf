import { expect } from 'chai';
import { momentaryLoudness } from '../loudness.ts';
import { extremesOf, floorDecibels, toneLevels } from './lanes.ts';

const rate = 48_000;
const sine = (hertz: number, height: number, seconds: number): Float32Array =>
  Float32Array.from(
    { length: seconds * rate },
    (_, at) => height * Math.sin((2 * Math.PI * hertz * at) / rate),
  );

describe('Lanes of a sound', () => {
  it('has lowest and highest sample of each slice', () => {
    expect([...extremesOf(Float32Array.of(0, 1, -1, 0.5, 0.25, -0.25), 3)]).to.deep.equal([
      0, 1, -1, 0.5, -0.25, 0.25,
    ]);
    expect([...extremesOf(new Float32Array(0), 1)]).to.deep.equal([0, 0]);
  });

  it('shows a tone in its row, at its level: 997 Hz at −20 dB', () => {
    const { values, tones, width, height } = toneLevels(sine(997, 0.1, 1), rate, 20, 96);
    const column = Array.from({ length: height }, (_, row) => values[row * width + 10] ?? 0);
    const strongest = column.indexOf(Math.max(...column));
    expect(tones[strongest]).to.be.within(930, 1070);
    expect((1 - Math.max(...column) / 255) * floorDecibels).to.be.closeTo(20, 1.5);
    // An octave away nothing of it is left.
    const octave = tones.findIndex((tone) => tone < 2050);
    expect(column[octave]).to.be.below(90);
  });

  it('has the momentary loudness of a standard tone: 1 kHz in both channels at −23 dBFS is −23 LUFS (EBU Tech 3341, test 1)', () => {
    const tone = sine(1000, 10 ** (-23 / 20), 2);
    const loudness = momentaryLoudness([tone, tone], rate);
    expect(loudness.length).to.equal(17);
    for (const value of loudness.slice(1)) expect(value).to.be.closeTo(-23, 0.1);
    expect(momentaryLoudness([new Float32Array(rate)], rate)[0]).to.equal(-Infinity);
  });
});
