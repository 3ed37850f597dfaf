import decodeWav from '@audio/decode-wav';
import { identify } from '../identify.ts';
import { ReadError, readingOf, type Reader } from '../reading.ts';
import { extremesOf, pcm16Of, type Pcm16 } from './pcm.ts';
import { promisedFrames } from './promised-length.ts';
import { riffChunks, sampleLoops } from './riff.ts';

const envelopeSlices = 400;

export const readSound: Reader = async ({ bytes, path }) => {
  const { format } = identify(bytes.subarray(0, 1024), path);
  const chunks = format === 'wav' ? riffChunks(bytes) : [];
  const plain = pcm16Of(bytes, chunks);
  const { frames, sampleRate, channels, envelope, peak } = plain
    ? measurePcm(plain)
    : measure(await decodeAll(bytes, format));
  if (channels === 0 || frames === 0) throw new ReadError('no sound could be decoded from it');
  const promised = promisedFrames(bytes, format);
  if (promised !== null && frames < promised) {
    throw new ReadError(
      promised === Infinity
        ? `the file is cut short: its last page is missing, ${frames} sample frames could be decoded`
        : `the file is cut short: its header promises ${promised} sample frames, ${frames} could be decoded`,
    );
  }
  return readingOf({
    kind: 'sound',
    seconds: frames / sampleRate,
    sampleRate,
    channels,
    peak,
    loops: format === 'wav' ? sampleLoops(bytes, chunks) : [],
    envelope,
  });
};

interface Measured {
  frames: number;
  sampleRate: number;
  channels: number;
  envelope: string;
  peak: number;
}

function measure({ channelData, sampleRate }: { channelData: Float32Array[]; sampleRate: number }): Measured {
  const frames = channelData[0]?.length ?? 0;
  return { frames, sampleRate, channels: channelData.length, ...envelopeOf(channelData) };
}

/** The same, without making numbers of every sample first. */
function measurePcm(pcm: Pcm16): Measured {
  let peak = 0;
  const envelope = envelopeText(pcm.frames, (from, to) => {
    const found = extremesOf(pcm, from, to);
    peak = Math.max(peak, found.peak);
    return found;
  });
  return { frames: pcm.frames, sampleRate: pcm.sampleRate, channels: pcm.channels, envelope, peak };
}

async function decodeAll(
  bytes: Uint8Array,
  format: string,
): Promise<{ channelData: Float32Array[]; sampleRate: number }> {
  try {
    // The other package would come to the same, after five times as long: most of a game's sounds are short.
    // It slices and expects a copy, which a subclass of Uint8Array need not give.
    if (format === 'wav') return decodeWav(new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength));
    const { default: decode } = await import('audio-decode');
    return await decode(bytes);
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new ReadError(`it could not be decoded as ${format}: ${reason}`);
  }
}

/** Lowest and highest value of the mixed-down signal in each slice of time, and the largest of any channel. */
export function envelopeOf(channelData: readonly Float32Array[]): { envelope: string; peak: number } {
  const mixed = mixDown(channelData);
  let peak = 0;
  const envelope = envelopeText(mixed.length, (from, to) => {
    const found = extremes(mixed, from, to);
    // Of one channel this is the peak as well; of more, they may cancel out in the mix.
    peak = Math.max(peak, -found.low, found.high);
    return found;
  });
  if (channelData.length > 1) {
    for (const channel of channelData) {
      const { low, high } = extremes(channel, 0, channel.length);
      peak = Math.max(peak, -low, high);
    }
  }
  return { envelope, peak };
}

/** Lowest and highest value of each slice of time as signed bytes, in Base64. */
function envelopeText(
  frames: number,
  extremesAt: (from: number, to: number) => { low: number; high: number },
): string {
  const slices = Math.min(envelopeSlices, frames);
  const envelope = new Int8Array(slices * 2);
  for (let slice = 0; slice < slices; slice++) {
    const { low, high } = extremesAt(
      Math.floor((slice * frames) / slices),
      Math.floor(((slice + 1) * frames) / slices),
    );
    envelope[slice * 2] = Math.max(-127, Math.round(low * 127));
    envelope[slice * 2 + 1] = Math.min(127, Math.round(high * 127));
  }
  return btoa(String.fromCharCode(...new Uint8Array(envelope.buffer)));
}

function mixDown(channelData: readonly Float32Array[]): Float32Array {
  const [first = new Float32Array(0), ...others] = channelData;
  if (others.length === 0) return first;
  const mixed = Float32Array.from(first);
  for (const channel of others) {
    for (let frame = 0; frame < mixed.length; frame++)
      mixed[frame] = (mixed[frame] ?? 0) + (channel[frame] ?? 0);
  }
  return mixed.map((sum) => sum / channelData.length);
}

function extremes(samples: Float32Array, from: number, to: number): { low: number; high: number } {
  let low = Infinity;
  let high = -Infinity;
  for (let frame = from; frame < to; frame++) {
    const sample = samples[frame] ?? 0;
    if (sample < low) low = sample;
    if (sample > high) high = sample;
  }
  return { low, high };
}
