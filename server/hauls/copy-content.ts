import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { StagedFile } from '../decode/operations.ts';
import { PlainError } from '../platform/plain-error.ts';
import { hashOf, startHash } from '../store/hash.ts';
import { readLocal, streamLocal, type LocalContent } from '../store/local-content.ts';

/** Smaller contents are copied at once: streams take longer than that. */
const mostBytesAtOnce = 4 * 1024 * 1024;

/**
 * Copies a content as it lay to where it waits for its place, and reads it again from there.
 * @throws PlainError where what was read again is another content
 */
export async function copyContent(
  content: LocalContent,
  file: string,
  signal: AbortSignal,
): Promise<StagedFile> {
  if (content.size <= mostBytesAtOnce) return copyAtOnce(content, file);
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
  if (blake3 !== content.hash) throw otherContent();
  return { ending: '', file, bytes, sha256: sha256.digest('hex'), blake3 };
}

async function copyAtOnce(content: LocalContent, file: string): Promise<StagedFile> {
  const bytes = await readLocal(content);
  await writeFile(file, bytes);
  const blake3 = hashOf(await readFile(file)).toString('hex');
  if (blake3 !== content.hash) throw otherContent();
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  return { ending: '', file, bytes: bytes.length, sha256, blake3 };
}

function otherContent(): PlainError {
  return new PlainError('what was written is not what the store has');
}
