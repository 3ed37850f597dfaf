import { md5 } from 'hash-wasm';
import { narrowest } from './decoded.ts';

export interface StreamInfo {
  sampleRate: number;
  channels: number;
  bits: number;
  /** 0 where the encoder did not know. */
  frames: number;
  /** MD5 of the samples before they were packed; all zeros where the encoder left it out. */
  md5: string;
}

/** STREAMINFO (RFC 9639, section 8.2); null where the file ends before it. */
export function streamInfo(bytes: Uint8Array): StreamInfo | null {
  if (bytes.length < 42) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const packed = view.getUint32(18);
  return {
    sampleRate: packed >>> 12,
    channels: ((packed >>> 9) & 7) + 1,
    bits: ((packed >>> 4) & 31) + 1,
    frames: (packed & 15) * 2 ** 32 + view.getUint32(22),
    md5: hex(bytes.subarray(26, 42)),
  };
}

/**
 * The integers that a decoder made floats of: it divides them by the greatest positive one.
 * @returns them with their sign in the highest bit, and whether the file's own MD5 of them agrees
 */
export async function flacIntegers(
  channelData: readonly Float32Array[],
  { bits, md5: promised }: StreamInfo,
): Promise<{ integers: Int16Array | Int32Array; isWhole: boolean }> {
  const isPromised = /[^0]/.test(promised);
  if (bits === 16) {
    const integers = shortsOf(channelData);
    const stored = new Uint8Array(integers.buffer);
    return { integers, isWhole: !isPromised || (await md5(stored)) === promised };
  }
  const channels = channelData.length;
  const frames = channelData[0]?.length ?? 0;
  const full = 2 ** (bits - 1);
  const wide = new Int32Array(frames * channels);
  const sampleBytes = Math.ceil(bits / 8);
  const stored = new Uint8Array(frames * channels * sampleBytes);
  channelData.forEach((samples, channel) => {
    for (let frame = 0; frame < frames; frame++) {
      const sample = samples[frame] ?? 0;
      const value = Math.round(sample * (full - 1));
      const at = frame * channels + channel;
      wide[at] = value << (32 - bits);
      for (let byte = 0; byte < sampleBytes; byte++) stored[at * sampleBytes + byte] = value >> (byte * 8);
    }
  });
  return { integers: narrowest(wide), isWhole: !isPromised || (await md5(stored)) === promised };
}

/** Most of all: integers of 16 bits are stored as they are. */
function shortsOf(channelData: readonly Float32Array[]): Int16Array<ArrayBuffer> {
  const channels = channelData.length;
  const shorts = new Int16Array((channelData[0]?.length ?? 0) * channels);
  for (const [channel, samples] of channelData.entries())
    for (let frame = 0, at = channel; frame < samples.length; frame++, at += channels)
      shorts[at] = Math.round((samples[frame] ?? 0) * 32_767);
  return shorts;
}

function hex(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}
