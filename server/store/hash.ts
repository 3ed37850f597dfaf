import { Blake3Hasher, blake3 } from '@napi-rs/blake-hash';

/** BLAKE3-256 of bytes: the identity of a content. 32 bytes. */
export function hashOf(bytes: Uint8Array): Buffer {
  return blake3(view(bytes));
}

/** BLAKE3-256 of bytes that come in pieces. */
export function startHash(): { update(piece: Uint8Array): void; digest(): Buffer } {
  const hasher = new Blake3Hasher();
  return { update: (piece) => void hasher.update(view(piece)), digest: () => hasher.digestBuffer() };
}

/** The key of a path in the tables. 16 bytes. */
export function pathDigest(path: string): Buffer {
  return digestOf(path);
}

/** The first 16 bytes of the BLAKE3 of a text's UTF-8. */
export function digestOf(text: string): Buffer {
  return blake3(text).subarray(0, 16);
}

/** The same bytes as the package wants them. */
function view(bytes: Uint8Array): Buffer {
  return Buffer.isBuffer(bytes) ? bytes : Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
