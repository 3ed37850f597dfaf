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

/**
 * Marked places of a `cue ` chunk with the words that a `labl` of the list `adtl` gives them (the specification of 1991):
 * a count, then 24 bytes to each with its number and, last, its sample frame.
 */
export function cuePoints(
  bytes: Uint8Array,
  chunks: readonly RiffChunk[],
): { frame: number; label: string }[] {
  const chunk = chunks.find(({ id }) => id === 'cue ');
  if (!chunk || chunk.start + 4 > bytes.length) return [];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const labels = cueLabels(bytes, view, chunks);
  const cues: { frame: number; label: string }[] = [];
  for (let cue = 0; cue < view.getUint32(chunk.start, true); cue++) {
    const at = chunk.start + 4 + cue * 24;
    if (at + 24 > Math.min(bytes.length, chunk.start + chunk.length)) break;
    cues.push({ frame: view.getUint32(at + 20, true), label: labels.get(view.getUint32(at, true)) ?? '' });
  }
  return cues;
}

function cueLabels(bytes: Uint8Array, view: DataView, chunks: readonly RiffChunk[]): Map<number, string> {
  const labels = new Map<number, string>();
  const text = (from: number, to: number): string =>
    new TextDecoder('windows-1252').decode(bytes.subarray(from, to));
  for (const { id, start, length } of chunks) {
    if (id !== 'LIST' || text(start, start + 4) !== 'adtl') continue;
    const end = Math.min(bytes.length, start + length);
    for (let at = start + 4; at + 12 <= end;) {
      const size = view.getUint32(at + 4, true);
      if (text(at, at + 4) === 'labl')
        labels.set(
          view.getUint32(at + 8, true),
          text(at + 12, Math.min(end, at + 8 + size)).replace(/\0.*$/s, ''),
        );
      at += 8 + size + (size & 1);
    }
  }
  return labels;
}
