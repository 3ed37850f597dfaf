import { narrowest, type Samples } from './decoded.ts';

export interface PcmLayout {
  bits: number;
  /** Bytes that a sample takes: 24 bits may lie in four. */
  sampleBytes: number;
  isBigEndian: boolean;
  /** Of 8 bits: WAV counts from 0, AIFF has a sign. */
  isSigned: boolean;
  isFloat: boolean;
}

/**
 * Samples as they lie in a file.
 * @param bytes whole samples; what is left over is not looked at
 */
export function pcmSamples(bytes: Uint8Array, channels: number, layout: PcmLayout): Samples {
  const { sampleBytes, isBigEndian, isFloat } = layout;
  const count = Math.floor(bytes.length / sampleBytes / channels) * channels;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (isFloat) return floatSamples(view, channels, count / channels, sampleBytes, isBigEndian);
  if (sampleBytes === 2) {
    // Most of a game's sounds: read as they lie where they begin at an even place.
    if (!isBigEndian && bytes.byteOffset % 2 === 0)
      return { integers: new Int16Array(bytes.buffer, bytes.byteOffset, count) };
    return { integers: Int16Array.from({ length: count }, (_, at) => view.getInt16(at * 2, !isBigEndian)) };
  }
  if (sampleBytes === 1)
    return {
      integers: Int16Array.from(
        { length: count },
        (_, at) => (layout.isSigned ? view.getInt8(at) : view.getUint8(at) - 128) << 8,
      ),
    };
  const wide = new Int32Array(count);
  for (let at = 0; at < count; at++)
    wide[at] =
      sampleBytes === 3
        ? isBigEndian
          ? (view.getInt16(at * 3) << 16) | (view.getUint8(at * 3 + 2) << 8)
          : (view.getInt16(at * 3 + 1, true) << 16) | (view.getUint8(at * 3) << 8)
        : view.getInt32(at * 4, !isBigEndian);
  return { integers: narrowest(wide) };
}

function floatSamples(
  view: DataView,
  channels: number,
  frames: number,
  sampleBytes: number,
  isBigEndian: boolean,
): Samples {
  const floats = Array.from({ length: channels }, () => new Float32Array(frames));
  for (let frame = 0; frame < frames; frame++)
    floats.forEach((samples, channel) => {
      const at = (frame * channels + channel) * sampleBytes;
      samples[frame] =
        sampleBytes === 8 ? view.getFloat64(at, !isBigEndian) : view.getFloat32(at, !isBigEndian);
    });
  return { floats };
}

/** G.711: 8 bits of A-law as 13 bits with a sign, here in the highest of 16 (ITU-T G.711, table 1a). */
export function aLawSample(code: number): number {
  const bits = code ^ 0x55;
  const segment = (bits >> 4) & 7;
  const step = bits & 15;
  const magnitude = segment === 0 ? (step << 4) + 8 : ((step << 4) + 0x108) << (segment - 1);
  return bits & 0x80 ? magnitude : -magnitude;
}

/** G.711: 8 bits of µ-law as 14 bits with a sign, here in the highest of 16 (ITU-T G.711, table 2a). */
export function muLawSample(code: number): number {
  const bits = ~code & 0xff;
  const magnitude = ((((bits & 15) << 3) + 0x84) << ((bits >> 4) & 7)) - 0x84;
  return bits & 0x80 ? -magnitude : magnitude;
}
