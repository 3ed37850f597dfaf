export interface RiffChunk {
  id: string;
  /** Where the chunk's data begin, and how many bytes the header promises. */
  start: number;
  length: number;
}

/**
 * Chunks of a RIFF file (Multimedia Programming Interface and Data Specifications 1.0, IBM and Microsoft,
 * 1991): four letters, a little-endian length, the data, and a pad byte after an odd length.
 */
export function riffChunks(bytes: Uint8Array): RiffChunk[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks: RiffChunk[] = [];
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at + 4, true);
    chunks.push({ id: String.fromCharCode(...bytes.subarray(at, at + 4)), start: at + 8, length });
    at += 8 + length + (length & 1);
  }
  return chunks;
}

/**
 * Loops of a `smpl` chunk (Multimedia Data Standards Update 1.0, 1994): nine 32-bit fields, of which the
 * eighth counts the loops, then 24 bytes a loop with the first and the last sample frame, both played.
 */
export function sampleLoops(
  bytes: Uint8Array,
  chunks: readonly RiffChunk[],
): { startFrame: number; endFrame: number }[] {
  const chunk = chunks.find((candidate) => candidate.id === 'smpl');
  if (!chunk || chunk.start + 36 > bytes.length) return [];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = view.getUint32(chunk.start + 28, true);
  const loops: { startFrame: number; endFrame: number }[] = [];
  for (let i = 0; i < count; i++) {
    const at = chunk.start + 36 + i * 24;
    if (at + 24 > Math.min(bytes.length, chunk.start + chunk.length)) break;
    loops.push({ startFrame: view.getUint32(at + 8, true), endFrame: view.getUint32(at + 12, true) });
  }
  return loops;
}
