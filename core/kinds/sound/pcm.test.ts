import decodeWav from '@audio/decode-wav';
import { expect } from 'chai';
import { extremesOf, pcm16Of } from './pcm.ts';
import { envelopeOf } from './read.ts';
import { riffChunks } from './riff.ts';

/** A WAV of two channels of 16 bit numbers, its data at an odd place where `pad` is odd. */
function stereo(frames: number, pad: number): Uint8Array {
  const extra = Buffer.alloc(8 + pad);
  extra.write('LIST', 0, 'latin1');
  extra.writeUInt32LE(pad, 4);
  const data = Buffer.alloc(frames * 4);
  for (let frame = 0; frame < frames; frame++) {
    data.writeInt16LE(Math.round(Math.sin(frame / 9) * 32767), frame * 4);
    data.writeInt16LE(frame % 50 === 0 ? -32768 : Math.round(Math.cos(frame / 5) * 20_000), frame * 4 + 2);
  }
  const format = Buffer.alloc(24);
  format.write('fmt ', 0, 'latin1');
  format.writeUInt32LE(16, 4);
  format.writeUInt16LE(1, 8);
  format.writeUInt16LE(2, 10);
  format.writeUInt32LE(22_050, 12);
  format.writeUInt32LE(88_200, 16);
  format.writeUInt16LE(4, 20);
  format.writeUInt16LE(16, 22);
  const head = Buffer.alloc(8);
  head.write('data', 0, 'latin1');
  head.writeUInt32LE(data.length, 4);
  const body = Buffer.concat([Buffer.from('WAVE'), format, extra, head, data]);
  const riff = Buffer.alloc(8);
  riff.write('RIFF', 0, 'latin1');
  riff.writeUInt32LE(body.length, 4);
  return new Uint8Array(Buffer.concat([riff, body]));
}

describe('pcm16Of', () => {
  for (const shift of [0, 1]) {
    it(`tells what the decoder for all codings tells, from ${shift === 0 ? 'an even' : 'an odd'} place in memory`, () => {
      const file = stereo(4000, 2);
      const bytes = new Uint8Array(file.length + shift).subarray(shift);
      bytes.set(file);
      const pcm = pcm16Of(bytes, riffChunks(bytes));
      const { channelData, sampleRate } = decodeWav(bytes.slice());
      expect(pcm).to.include({ channels: 2, frames: 4000, sampleRate });
      if (!pcm) return;
      const whole = extremesOf(pcm, 0, 4000);
      expect(whole.peak).to.be.closeTo(envelopeOf(channelData).peak, 1e-6);
      const [left = new Float32Array(0), right = new Float32Array(0)] = channelData;
      const mean = [...left].map((value, frame) => (value + (right[frame] ?? 0)) / 2);
      expect(whole.low).to.be.closeTo(Math.min(...mean), 1e-6);
      expect(whole.high).to.be.closeTo(Math.max(...mean), 1e-6);
    });
  }

  it('leaves other codings to the decoder', () => {
    const bytes = stereo(10, 2);
    bytes[34] = 24;
    expect(pcm16Of(bytes, riffChunks(bytes))).to.equal(null);
  });
});
