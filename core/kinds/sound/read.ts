import decode from 'audio-decode';
import { identify } from '../identify.ts';
import { ReadError, type Reader } from '../reading.ts';
import { promisedFrames } from './promised-length.ts';
import { riffChunks, sampleLoops } from './riff.ts';

const envelopeSlices = 400;

export const readSound: Reader = async ({ bytes, path }) => {
  const { format } = identify(bytes.subarray(0, 1024), path);
  const { channelData, sampleRate } = await decodeAll(bytes, format);
  const frames = channelData[0]?.length ?? 0;
  if (channelData.length === 0 || frames === 0) throw new ReadError('no sound could be decoded from it');
  const promised = promisedFrames(bytes, format);
  if (promised !== null && frames < promised) {
    throw new ReadError(
      promised === Infinity
        ? `the file is cut short: its last page is missing, ${frames} sample frames could be decoded`
        : `the file is cut short: its header promises ${promised} sample frames, ${frames} could be decoded`,
    );
  }
  const { envelope, peak } = envelopeOf(channelData);
  return {
    facts: {
      kind: 'sound',
      seconds: frames / sampleRate,
      sampleRate,
      channels: channelData.length,
      peak,
      loops: format === 'wav' ? sampleLoops(bytes, riffChunks(bytes)) : [],
      envelope,
    },
    preview: null,
  };
};

async function decodeAll(
  bytes: Uint8Array,
  format: string,
): Promise<{ channelData: Float32Array[]; sampleRate: number }> {
  try {
    return await decode(bytes);
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new ReadError(`it could not be decoded as ${format}: ${reason}`);
  }
}

/** Lowest and highest value of the mixed-down signal in each slice of time, and the largest of any channel. */
export function envelopeOf(channelData: readonly Float32Array[]): { envelope: string; peak: number } {
  const frames = channelData[0]?.length ?? 0;
  const slices = Math.min(envelopeSlices, frames);
  const envelope = new Int8Array(slices * 2);
  let peak = 0;
  for (let slice = 0; slice < slices; slice++) {
    const end = Math.floor(((slice + 1) * frames) / slices);
    let low = Infinity;
    let high = -Infinity;
    for (let frame = Math.floor((slice * frames) / slices); frame < end; frame++) {
      let sum = 0;
      for (const channel of channelData) {
        const sample = channel[frame] ?? 0;
        sum += sample;
        if (Math.abs(sample) > peak) peak = Math.abs(sample);
      }
      const mixed = sum / channelData.length;
      if (mixed < low) low = mixed;
      if (mixed > high) high = mixed;
    }
    envelope[slice * 2] = Math.max(-127, Math.round(low * 127));
    envelope[slice * 2 + 1] = Math.min(127, Math.round(high * 127));
  }
  return { envelope: btoa(String.fromCharCode(...new Uint8Array(envelope.buffer))), peak };
}
