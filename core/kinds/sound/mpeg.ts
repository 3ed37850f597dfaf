/** Kilobits a second by their index, of MPEG 1 and of MPEG 2 and 2.5, layers I to III (ISO/IEC 11172-3, 2.4.2.3; 13818-3). */
const rates = [
  [
    [0, 32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448],
    [0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384],
    [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  ],
  [
    [0, 32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256],
    [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
    [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
  ],
] as const;
const sampleRates = [44_100, 48_000, 32_000] as const;

/**
 * Walks through the frames of an MPEG audio stream.
 * @returns where something lies between or behind them that is no frame, and why; null where all is well
 */
export function checkMpegFrames(bytes: Uint8Array): string | null {
  let at = behindTag(bytes);
  const end = bytes.length - trailingTag(bytes);
  let frames = 0;
  while (at < end) {
    const length = frameLength(bytes, at);
    if (length === null) {
      // Players skip what lies before the first frame, and zeros.
      if (frames === 0 || bytes[at] === 0) {
        at++;
        continue;
      }
      return `the file is damaged: at byte ${at}, after ${frames} frames, there should be another one`;
    }
    if (at + length > bytes.length)
      return `the file is cut short: the frame at byte ${at} should have ${length} bytes, and the file ends at byte ${bytes.length}`;
    at += length;
    frames++;
  }
  return frames === 0 ? 'no frame of MPEG audio was found in it' : null;
}

/** Length of an ID3v2 tag at the beginning: four times seven bits (ID3 2.4.0, section 3.1). */
function behindTag(bytes: Uint8Array): number {
  const [i, d, three] = bytes;
  if (i !== 0x49 || d !== 0x44 || three !== 0x33) return 0;
  return 10 + (((bytes[6] ?? 0) << 21) | ((bytes[7] ?? 0) << 14) | ((bytes[8] ?? 0) << 7) | (bytes[9] ?? 0));
}

function trailingTag(bytes: Uint8Array): number {
  const at = bytes.length - 128;
  return at > 0 && bytes[at] === 0x54 && bytes[at + 1] === 0x41 && bytes[at + 2] === 0x47 ? 128 : 0;
}

/** Bytes of the frame that begins there; null where none does. */
function frameLength(bytes: Uint8Array, at: number): number | null {
  const [sync = 0, kind = 0, rates4 = 0] = bytes.subarray(at, at + 3);
  if (sync !== 0xff || (kind & 0xe0) !== 0xe0) return null;
  const version = (kind >> 3) & 3;
  const layer = 4 - ((kind >> 1) & 3);
  const rateIndex = rates4 >> 4;
  const sampleIndex = (rates4 >> 2) & 3;
  if (version === 1 || layer === 4 || rateIndex === 0 || rateIndex === 15 || sampleIndex === 3) return null;
  const bitRate = (rates[version === 3 ? 0 : 1][layer - 1]?.[rateIndex] ?? 0) * 1000;
  const sampleRate = (sampleRates[sampleIndex] ?? 44_100) / (version === 3 ? 1 : version === 2 ? 2 : 4);
  const padding = (rates4 >> 1) & 1;
  if (layer === 1) return (Math.floor((12 * bitRate) / sampleRate) + padding) * 4;
  const slots = layer === 3 && version !== 3 ? 72 : 144;
  return Math.floor((slots * bitRate) / sampleRate) + padding;
}
