import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { identify } from '../../core/kinds/identify.ts';
import { readContent } from '../../core/kinds/read.ts';
import type { Reading, ReadRequest } from '../../core/kinds/reading.ts';
import { filmSource } from '../../server/decode/films/film-source.ts';
import { nodePlatform } from '../../server/decode/platform.ts';
import { hashOf } from '../../server/store/hash.ts';

/** Reads bytes as a build would have them read. @param path tells of the format where the bytes do not */
export async function readBytes(
  bytes: Uint8Array,
  path: string,
  resolve: (reference: string) => Promise<Uint8Array | null> = () => Promise.resolve(null),
): Promise<Reading> {
  const { format } = identify(bytes.subarray(0, 1024), path);
  return readContent(format, contentOf(bytes, path, resolve));
}

/** Bytes as readers are handed them. */
function contentOf(
  bytes: Uint8Array,
  path: string,
  resolve: (reference: string) => Promise<Uint8Array | null>,
): Omit<ReadRequest, 'raster'> {
  return {
    bytes,
    size: bytes.length,
    part: (start, end) => bytes.subarray(start, end),
    path,
    platform: nodePlatform,
    resolve,
  };
}

/** The same for a reader of one kind, with its sisters beside it; pictures are not decoded. */
export function requestOf(path: string): ReadRequest {
  const beside = (reference: string): Promise<Uint8Array | null> => {
    try {
      return Promise.resolve(readFileSync(join(dirname(path), reference)));
    } catch {
      // It is not there: that is the answer.
      return Promise.resolve(null);
    }
  };
  return {
    ...contentOf(new Uint8Array(readFileSync(path)), path, beside),
    raster: () => Promise.reject(new Error('pictures are not decoded here')),
  };
}

/** Reads a file, with its sisters beside it; films are taken apart, too. */
export function readFile(path: string): Promise<Reading> {
  const { bytes, resolve } = requestOf(path);
  const { format } = identify(bytes.subarray(0, 1024), path);
  const content = { hash: '0'.repeat(64), file: path, offset: 0, size: bytes.length };
  return readContent(format, { ...contentOf(bytes, path, resolve), film: filmSource(content, format) });
}

/** The fingerprint that the store keeps, in hex; null where there is none. */
export function fingerprintOf({ decoded }: Reading): string | null {
  return decoded ? hashOf(Buffer.concat(decoded)).toString('hex') : null;
}
