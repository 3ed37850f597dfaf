import { floatsOf, type DecodedSound } from '../decoded.ts';

/** A WAV of 16 bit PCM, for players that know no other (see `riffChunks` for the format). */
export function writeShownWave(sound: DecodedSound): Uint8Array {
  const { channels, frames, sampleRate } = sound;
  const dataBytes = frames * channels * 2;
  const bytes = new Uint8Array(44 + dataBytes);
  const view = new DataView(bytes.buffer);
  const text = (at: number, letters: string): void =>
    [...letters].forEach((letter, index) => view.setUint8(at + index, letter.charCodeAt(0)));
  text(0, 'RIFF');
  view.setUint32(4, 36 + dataBytes, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sampleRate, true);
  view.setUint32(28, sampleRate * channels * 2, true);
  view.setUint16(32, channels * 2, true);
  view.setUint16(34, 16, true);
  text(36, 'data');
  view.setUint32(40, dataBytes, true);
  floatsOf(sound).forEach((samples, channel) => {
    for (let frame = 0; frame < frames; frame++) {
      const value = Math.max(-1, Math.min(1, samples[frame] ?? 0));
      view.setInt16(
        44 + (frame * channels + channel) * 2,
        Math.round(value < 0 ? value * 32_768 : value * 32_767),
        true,
      );
    }
  });
  return bytes;
}
