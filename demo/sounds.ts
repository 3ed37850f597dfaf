import { createRequire } from 'node:module';
import { createMp3Encoder, createOggEncoder } from 'wasm-media-encoders';
import { seedOf, seeded } from './seeded.ts';

export const sampleRate = 22_050;

/** A struck bell: partials that die away, the higher the sooner. */
export function bell(frequency: number, seconds: number): Float32Array {
  return render(seconds, (t) =>
    [1, 2.01, 2.76, 5.4].reduce(
      (sum, ratio, index) =>
        sum + (Math.sin(2 * Math.PI * frequency * ratio * t) * Math.exp(-t * (2 + index * 2))) / (index + 2),
      0,
    ),
  );
}

/** Water at the planks: filtered noise that swells. */
export function water(name: string, seconds: number): Float32Array {
  const random = seeded(seedOf(name));
  let smooth = 0;
  return render(seconds, (t) => {
    smooth += 0.08 * (random() * 2 - 1 - smooth);
    return smooth * 1.6 * (0.6 + 0.4 * Math.sin(2 * Math.PI * 0.5 * t));
  });
}

/** A call of a bird: a tone that slides. */
export function call(from: number, to: number, seconds: number): Float32Array {
  let phase = 0;
  return render(seconds, (t) => {
    const along = t / seconds;
    phase += (from + (to - from) * along * along) / sampleRate;
    return 0.6 * Math.sin(2 * Math.PI * phase) * Math.sin(Math.PI * along);
  });
}

/** A slow tune of a few notes over a drone, `bars` bars of two seconds. */
export function tune(name: string, bars: number): Float32Array {
  const random = seeded(seedOf(name));
  const notes = Array.from({ length: bars * 4 }, () => [0, 3, 5, 7, 10, 12][Math.floor(random() * 6)] ?? 0);
  return render(bars * 2, (t) => {
    const index = Math.min(notes.length - 1, Math.floor(t * 2));
    const into = t * 2 - index;
    const pitch = 220 * 2 ** ((notes[index] ?? 0) / 12);
    return (
      0.3 * Math.sin(2 * Math.PI * pitch * t) * Math.exp(-into * 3) + 0.12 * Math.sin(2 * Math.PI * 110 * t)
    );
  });
}

function render(seconds: number, at: (t: number) => number): Float32Array {
  return Float32Array.from({ length: Math.round(seconds * sampleRate) }, (_, index) =>
    Math.max(-1, Math.min(1, at(index / sampleRate))),
  );
}

/** PCM of 16 bits; a loop becomes a `smpl` chunk. */
export function wav(samples: Float32Array, loop?: { startFrame: number; endFrame: number }): Uint8Array {
  const dataBytes = samples.length * 2;
  const loopBytes = loop ? 8 + 60 : 0;
  const file = Buffer.alloc(44 + dataBytes + loopBytes);
  file.write('RIFF', 0, 'latin1');
  file.writeUInt32LE(36 + dataBytes + loopBytes, 4);
  file.write('WAVEfmt ', 8, 'latin1');
  file.writeUInt32LE(16, 16);
  file.writeUInt16LE(1, 20);
  file.writeUInt16LE(1, 22);
  file.writeUInt32LE(sampleRate, 24);
  file.writeUInt32LE(sampleRate * 2, 28);
  file.writeUInt16LE(2, 32);
  file.writeUInt16LE(16, 34);
  file.write('data', 36, 'latin1');
  file.writeUInt32LE(dataBytes, 40);
  samples.forEach((sample, index) => file.writeInt16LE(Math.round(sample * 32_767), 44 + index * 2));
  if (loop) {
    const at = 44 + dataBytes;
    file.write('smpl', at, 'latin1');
    file.writeUInt32LE(60, at + 4);
    file.writeUInt32LE(Math.round(1e9 / sampleRate), at + 8 + 8);
    file.writeUInt32LE(60, at + 8 + 12);
    file.writeUInt32LE(1, at + 8 + 28);
    file.writeUInt32LE(loop.startFrame, at + 8 + 36 + 8);
    file.writeUInt32LE(loop.endFrame, at + 8 + 36 + 12);
  }
  return file;
}

export async function ogg(samples: Float32Array): Promise<Uint8Array> {
  const encoder = await createOggEncoder();
  encoder.configure({ channels: 1, sampleRate, vbrQuality: 4, oggSerialNo: 7 });
  return join([encoder.encode([samples]).slice(), encoder.finalize().slice()]);
}

export async function mp3(samples: Float32Array): Promise<Uint8Array> {
  const encoder = await createMp3Encoder();
  encoder.configure({ channels: 1, sampleRate, bitrate: 64 });
  return join([encoder.encode([samples]).slice(), encoder.finalize().slice()]);
}

/** What of the FLAC encoder is used here; the package's own types describe a class that it builds at run time. */
interface FlacEncoderLibrary {
  isReady(): boolean;
  on(event: 'ready', listener: () => void): void;
  create_libflac_encoder(
    rate: number,
    channels: number,
    bits: number,
    level: number,
    total: number,
    verify: boolean,
  ): number;
  init_encoder_stream(encoder: number, write: (bytes: Uint8Array) => void): number;
  FLAC__stream_encoder_process_interleaved(encoder: number, samples: Int32Array, frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
  FLAC__stream_encoder_delete(encoder: number): void;
}

export async function flac(samples: Float32Array): Promise<Uint8Array> {
  const load = createRequire(import.meta.url)('libflacjs') as (variant: string) => FlacEncoderLibrary;
  const library = load('min');
  if (!library.isReady()) await new Promise<void>((resolve) => library.on('ready', resolve));
  const pieces: Uint8Array[] = [];
  const encoder = library.create_libflac_encoder(sampleRate, 1, 16, 5, samples.length, false);
  library.init_encoder_stream(encoder, (bytes) => pieces.push(bytes.slice()));
  library.FLAC__stream_encoder_process_interleaved(
    encoder,
    Int32Array.from(samples, (sample) => Math.round(sample * 32_767)),
    samples.length,
  );
  library.FLAC__stream_encoder_finish(encoder);
  library.FLAC__stream_encoder_delete(encoder);
  return join(pieces);
}

function join(pieces: readonly Uint8Array[]): Uint8Array {
  return Buffer.concat(pieces);
}
