import { startsWith } from '../bytes.ts';
import { extensionOf } from '../kinds/formats.ts';

/** Bytes from anywhere; fewer than asked for at the end. */
export type ReadBytes = (offset: number, length: number) => Uint8Array;

/**
 * How a container is read: `random` ones have a directory or headers that tell where each entry lies, so that entries are
 * read in place and in any order; `sequential` ones are read once from front to back; `stream` ones hold one compressed
 * stream, which may itself be a TAR.
 */
export type ContainerAccess = 'random' | 'sequential' | 'stream';

/** The table of containers, by the names that the table of formats gives them. */
export const containerAccess = {
  zip: 'random',
  tar: 'random',
  ar: 'random',
  '7z': 'sequential',
  iso: 'sequential',
  udf: 'sequential',
  cab: 'sequential',
  cpio: 'random',
  gzip: 'stream',
  bzip2: 'stream',
  xz: 'stream',
  zstd: 'stream',
  lz4: 'stream',
  brotli: 'stream',
} as const satisfies Record<string, ContainerAccess>;

export type ContainerFormat = keyof typeof containerAccess;

/** Where a disc image's volume descriptors begin (ECMA-119 6.2.1 and ECMA-167 2/8.3.1). */
const discDescriptorsAt = 16 * 2048;
const tarBlockBytes = 512;

/**
 * Tells a container by its bytes; Brotli alone, which has no signature, by its name.
 * Signatures: ZIP (APPNOTE 4.3.7, 4.3.16), gzip (RFC 1952), xz (The .xz File Format 1.1.0), Zstandard (RFC 8878), LZ4 (LZ4
 * Frame Format 1.6.3), ISO 9660 (ECMA-119 8.1.3), UDF (ECMA-167 3/9.1), 7z, CAB, ar, cpio and bzip2 (magic numbers as the
 * programs that made the formats write them; common practice, no standard), TAR (POSIX pax, by its checksum).
 */
export function containerOf(read: ReadBytes, path: string): ContainerFormat | null {
  const head = read(0, tarBlockBytes);
  if (startsWith(head, 'PK\x03\x04') || startsWith(head, 'PK\x05\x06')) return 'zip';
  if (startsWith(head, '7z\xbc\xaf\x27\x1c')) return '7z';
  if (startsWith(head, '\x1f\x8b\x08')) return 'gzip';
  if (startsWith(head, '\xfd7zXZ\0')) return 'xz';
  if (startsWith(head, '\x28\xb5\x2f\xfd')) return 'zstd';
  if (startsWith(head, '\x04\x22\x4d\x18')) return 'lz4';
  // A block of data, or the end of an empty stream.
  if (/^BZh[1-9](1AY&SY|\x17rE8P\x90)/.test(latin1.decode(head.subarray(0, 10)))) return 'bzip2';
  if (startsWith(head, 'MSCF\0\0\0\0')) return 'cab';
  if (startsWith(head, '!<arch>\n')) return 'ar';
  if (startsWith(head, '070701') || startsWith(head, '070702') || startsWith(head, '070707')) return 'cpio';
  if (startsWith(head, '\xc7\x71') && (head[4] ?? 0) + (head[5] ?? 0) > 0 && isOldCpio(head)) return 'cpio';
  if (isTarHeader(head)) return 'tar';
  const descriptor = read(discDescriptorsAt, 6);
  if (startsWith(descriptor, 'CD001', 1)) return 'iso';
  if (startsWith(descriptor, 'BEA01', 1)) return 'udf';
  if (extensionOf(path) === 'br' && head.length > 0) return 'brotli';
  return null;
}

/** Whether a block is a header of TAR: its checksum is right, and it is not empty (POSIX pax, "ustar Interchange Format"). */
export function isTarHeader(block: Uint8Array): boolean {
  if (block.length < tarBlockBytes || block[0] === 0) return false;
  const digits = /^[ 0]*([0-7]+)[ \0]/.exec(`${latin1.decode(block.subarray(148, 156))}\0`);
  return digits?.[1] !== undefined && Number.parseInt(digits[1], 8) === tarChecksum(block);
}

/** The sum of a header's bytes, those of the checksum itself taken as spaces. */
export function tarChecksum(block: Uint8Array): number {
  let sum = 8 * 32;
  for (let at = 0; at < tarBlockBytes; at++) if (at < 148 || at >= 156) sum += block[at] ?? 0;
  return sum;
}

const latin1 = new TextDecoder('latin1');

/** The old binary header: 26 bytes, with the length of the name at byte 20, which a NUL ends. Little endian. */
function isOldCpio(head: Uint8Array): boolean {
  const nameBytes = (head[20] ?? 0) + (head[21] ?? 0) * 256;
  return nameBytes > 1 && nameBytes < 4096 && (nameBytes + 26 > head.length || head[25 + nameBytes] === 0);
}
