import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { identify } from '../../core/kinds/identify.ts';
import { readContent } from '../../core/kinds/read.ts';
import type { Reading } from '../../core/kinds/reading.ts';
import { nodePlatform } from '../../server/decode/platform.ts';
import { hashOf } from '../../server/store/hash.ts';

/** Reads bytes as a build would have them read. @param path tells of the format where the bytes do not */
export async function readBytes(
  bytes: Uint8Array,
  path: string,
  resolve: (reference: string) => Promise<Uint8Array | null> = () => Promise.resolve(null),
): Promise<Reading> {
  const { format } = identify(bytes.subarray(0, 1024), path);
  return readContent(format, {
    bytes,
    size: bytes.length,
    part: (start, end) => bytes.subarray(start, end),
    path,
    platform: nodePlatform,
    resolve,
  });
}

/** Reads a file, with its sisters beside it. */
export function readFile(path: string): Promise<Reading> {
  return readBytes(readFileSync(path), path, async (reference) => {
    try {
      return readFileSync(join(dirname(path), reference));
    } catch {
      // It is not there: that is the answer.
      return null;
    }
  });
}

/** The fingerprint that the store keeps, in hex; null where there is none. */
export function fingerprintOf({ decoded }: Reading): string | null {
  return decoded ? hashOf(Buffer.concat(decoded)).toString('hex') : null;
}
