/** Sides that the format has room for: 24 bits (WebP Container Specification, “Animation”). */
const mostPixelsOfSide = 16_384;
const mostMilliseconds = 0xff_ffff;
const encoder = new TextEncoder();
const decoder = new TextDecoder('latin1');

/** Chunks of a frame that hold its picture. */
const pictureChunks: ReadonlySet<string> = new Set(['ALPH', 'VP8 ', 'VP8L']);

/**
 * Puts still WebP pictures one after the other into an animated one, that goes round without end. Each is a whole picture, and
 * nothing is coded anew. WebP Container Specification (RIFF, VP8X, ANIM, ANMF).
 * @param stills files of one size
 * @param milliseconds how long each is shown
 * @throws RangeError where a still is none, or a number has no room
 */
export function animatedWebp(
  stills: readonly Uint8Array[],
  { width, height, milliseconds }: { width: number; height: number; milliseconds: number },
): Uint8Array {
  if (stills.length === 0) throw new RangeError('an animation needs a frame');
  for (const side of [width, height])
    if (!Number.isInteger(side) || side < 1 || side > mostPixelsOfSide)
      throw new RangeError(`a side of ${side} pixels cannot be written`);
  if (!Number.isInteger(milliseconds) || milliseconds < 1 || milliseconds > mostMilliseconds)
    throw new RangeError(`a frame of ${milliseconds} ms cannot be written`);
  const frames = stills.map((still, at) => {
    const chunks = chunksOf(still).filter(({ name }) => pictureChunks.has(name));
    if (!chunks.some(({ name }) => name !== 'ALPH')) throw new RangeError(`frame ${at} is no WebP picture`);
    // Whole pictures, each in the place of the one before, whose alpha is not blended with it.
    const head = [...u24(0), ...u24(0), ...u24(width - 1), ...u24(height - 1), ...u24(milliseconds), 0b10];
    return chunk('ANMF', join([new Uint8Array(head), ...chunks.map(({ name, body }) => chunk(name, body))]));
  });
  const alphaAndAnimation = 0b0001_0010;
  const body = join([
    encoder.encode('WEBP'),
    chunk('VP8X', new Uint8Array([alphaAndAnimation, 0, 0, 0, ...u24(width - 1), ...u24(height - 1)])),
    // A clear ground, round and round.
    chunk('ANIM', new Uint8Array(6)),
    ...frames,
  ]);
  return chunk('RIFF', body);
}

function chunksOf(file: Uint8Array): { name: string; body: Uint8Array }[] {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  if (file.length < 12 || decoder.decode(file.subarray(8, 12)) !== 'WEBP') return [];
  const chunks: { name: string; body: Uint8Array }[] = [];
  for (let at = 12; at + 8 <= file.length;) {
    const length = view.getUint32(at + 4, true);
    const end = at + 8 + length;
    if (end > file.length) break;
    chunks.push({ name: decoder.decode(file.subarray(at, at + 4)), body: file.subarray(at + 8, end) });
    at = end + (length % 2);
  }
  return chunks;
}

/** A chunk has an even number of bytes. */
function chunk(name: string, body: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(8 + body.length + (body.length % 2));
  bytes.set(encoder.encode(name));
  new DataView(bytes.buffer).setUint32(4, body.length, true);
  bytes.set(body, 8);
  return bytes;
}

function u24(value: number): number[] {
  return [value & 255, (value >> 8) & 255, (value >> 16) & 255];
}

function join(parts: readonly Uint8Array[]): Uint8Array {
  const joined = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    joined.set(part, at);
    at += part.length;
  }
  return joined;
}
