import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { StagedFile } from '../decode/operations.ts';
import { PlainError } from '../platform/plain-error.ts';
import { startHash } from '../store/hash.ts';
import { streamLocal, type LocalContent } from '../store/local-content.ts';

/**
 * Copies a content as it lay to where it waits for its place, and reads it again from there.
 * @throws PlainError where what was read again is another content
 */
export async function copyContent(
  content: LocalContent,
  file: string,
  signal: AbortSignal,
): Promise<StagedFile> {
  const sha256 = createHash('sha256');
  let bytes = 0;
  const counting = new Transform({
    transform(piece: Buffer, _, done) {
      bytes += piece.length;
      sha256.update(piece);
      done(null, piece);
    },
  });
  await pipeline(streamLocal(content), counting, createWriteStream(file), { signal });
  const hash = startHash();
  for await (const piece of createReadStream(file, { signal })) hash.update(piece as Buffer);
  const blake3 = hash.digest().toString('hex');
  if (blake3 !== content.hash) throw new PlainError('what was written is not what the store has');
  return { ending: '', file, bytes, sha256: sha256.digest('hex'), blake3 };
}
