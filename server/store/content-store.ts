import type { Value } from '../platform/database/rows.ts';
import type { Pool } from '../platform/database/pool.ts';
import type { Derivation } from './derivatives.ts';
import type { LocalContent } from './local-content.ts';
import { PackStore } from './pack-store.ts';
import { RemoteCopies } from './remote-copies.ts';
import { parseS3Address, S3Files } from './s3-files.ts';

/** Bytes that are to be kept, with their BLAKE3. */
export interface NewContent {
  hash: Buffer;
  bytes: Uint8Array;
}

/** A content that is not what was stored. */
export interface BrokenContent {
  hash: Buffer;
  reason: string;
}

/**
 * Keeps contents by their hash, each once. How and where is its own affair: who uses it gets contents that lie on this machine
 * and never learns what they lie in.
 */
export interface ContentStore {
  /** Those of some contents that it has, by hex hash: they can be read on this machine from now on. */
  ensureLocal(hashes: readonly string[]): Promise<Map<string, LocalContent>>;
  /** One of them. @throws NotFoundError */
  getLocal(hash: string): Promise<LocalContent>;
  /** All of a content. @throws NotFoundError where it has none, PlainError where it has lost a part of it */
  read(hash: string): Promise<Buffer>;
  /** Keeps contents that are not there yet. They are safe from a power cut when the store is closed. */
  putMany(contents: Iterable<NewContent>): Promise<void>;
  /** Takes contents away that nothing names any more. @returns bytes that were freed at once */
  delete(hashes: readonly Buffer[]): Promise<number>;
  /** Frees the room that deleted contents left behind. @returns bytes that were freed */
  tidy(signal: AbortSignal): Promise<number>;
  /** Forgets what a crash or a power cut has lost, so that it is stored again when it is met again. */
  mend(): Promise<void>;
  /** Forgets contents that are broken: they are stored again when they are met again. */
  forget(hashes: readonly Buffer[]): Promise<void>;
  /** Reads every content, and finds those that are not as they were stored. @param onChecked after each, with its size */
  check(signal: AbortSignal, onChecked: (bytes: number) => void): Promise<BrokenContent[]>;
  /** What lies there and belongs to nothing: a crash leaves it. */
  strays(): Promise<{ count: number; bytes: number }>;
  /** What was made of a content before, by the same means; null where it was not. */
  getDerivative(derivation: Derivation): Promise<LocalContent | null>;
  /** Keeps what was made of a content, for as long as the content is there. */
  putDerivative(derivation: Derivation, bytes: Uint8Array): Promise<void>;
  /** Writes contents that come in with a build, in the same transaction as what names them. */
  openWriter(): ContentWriter;
  /** Makes all that was put safe. Another one may be put afterwards. */
  close(): Promise<void>;
}

/** Puts contents where they stay; their rows, of `contentsTable`, are for the caller to write. One thread has one. */
export interface ContentWriter {
  /** @param contents small ones @returns their rows */
  append(contents: readonly NewContent[], jobId: number): Promise<Value[][]>;
  /** Takes a file over that holds a large content. */
  keepFile(path: string, hash: Buffer): void;
  /** Makes large contents safe that were taken over. @returns their rows */
  sync(contents: readonly { hash: Buffer; size: number }[], jobId: number): Promise<Value[][]>;
  /** Makes all that was appended outlast a power cut. */
  seal(): Promise<void>;
}

const defaultCacheGigabytes = 20;

/**
 * @param folder where contents lie, or copies of those that lie in the object store that `WORVEL_STORE` names
 * @throws PlainError for an address that is none
 */
export function openStore(
  pool: Pool,
  folder: string,
  environment: NodeJS.ProcessEnv = process.env,
): ContentStore {
  const { WORVEL_STORE: address, WORVEL_STORE_CACHE_GB: gigabytes } = environment;
  if (!address) return new PackStore(pool, folder);
  const remote = new S3Files(parseS3Address(address), environment);
  const mostBytes = (Number(gigabytes) || defaultCacheGigabytes) * 1024 ** 3;
  return new PackStore(pool, folder, new RemoteCopies(remote, folder, mostBytes));
}
