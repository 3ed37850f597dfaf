import { ContainerError } from '../../../core/containers/container-error.ts';
import { isTarHeader } from '../../../core/containers/container-format.ts';
import { nameOfBytes } from '../../../core/containers/entry-name.ts';
import type { ByteSource } from './byte-source.ts';
import type { EntryType, PlacedEntry } from './placed-entry.ts';
import { sparseReason } from './solid.ts';

const blockBytes = 512;
/** What extends a header: names and attributes, no contents. */
const maximumExtensionBytes = 4 * 1024 * 1024;
const typeNames: Partial<Record<string, EntryType>> = {
  '\0': 'file',
  '0': 'file',
  '7': 'file',
  '1': 'hard link',
  '2': 'link',
  '5': 'folder',
};

/** What extended headers say of the next entry (or, from a global one, of all that follow). */
type Extension = Map<string, Buffer>;

/**
 * Goes from header to header of a TAR that is not compressed, over the contents: these are read in place, in any order.
 * POSIX pax and ustar; long names, links and numbers in base 256 as GNU tar writes them (its manual, "Basic Tar Format").
 * @throws ContainerError where a header is damaged, or the archive is cut short; what came before counts
 */
export function* listTar(source: ByteSource): Generator<PlacedEntry> {
  let global: Extension = new Map();
  let next: Extension = new Map();
  let begin = 0;
  for (let at = 0; ;) {
    const header = source.read(at, blockBytes);
    if (header.length === 0) return;
    if (header.length < blockBytes) throw cutShort(at);
    // Two blocks of zeros end it; some programs write one, or none.
    if (header.every((byte) => byte === 0)) return;
    if (!isTarHeader(header))
      throw new ContainerError(`its header at byte ${at} is damaged: the checksum is wrong`);
    const block = Buffer.from(header);
    const type = String.fromCharCode(block[156] ?? 0);
    const offset = at + blockBytes;
    const written = numberAt(block, 124, 12);
    if (type === 'x' || type === 'g' || type === 'L' || type === 'K') {
      if (written > maximumExtensionBytes)
        throw new ContainerError(`its header at byte ${at} is too large to be one`);
      const bytes = Buffer.from(source.read(offset, written));
      if (bytes.length < written) throw cutShort(at);
      if (type === 'L') next.set('path', untilNul(bytes));
      else if (type === 'K') next.set('linkpath', untilNul(bytes));
      else if (type === 'x') next = new Map([...next, ...records(bytes)]);
      else global = new Map([...global, ...records(bytes)]);
      at = offset + padded(written);
      continue;
    }
    const entry = toEntry(block, type, new Map([...global, ...next]), written);
    const size = entry.type === 'file' || entry.type === 'other' ? entry.size : 0;
    if (offset + size > source.size) throw cutShort(at);
    yield { ...entry, size, offset, headerOffset: begin };
    next = new Map();
    at = offset + padded(size);
    begin = at;
  }
}

function toEntry(
  block: Buffer,
  type: string,
  extension: Extension,
  written: number,
): Pick<PlacedEntry, 'name' | 'type' | 'size' | 'target' | 'refused'> {
  const plain = untilNul(block.subarray(0, 100));
  const isPosix = block.toString('latin1', 257, 263) === 'ustar\0';
  const prefix = isPosix ? untilNul(block.subarray(345, 500)) : Buffer.alloc(0);
  const path =
    extension.get('path') ?? (prefix.length > 0 ? Buffer.concat([prefix, Buffer.from('/'), plain]) : plain);
  const linkPath = extension.get('linkpath') ?? untilNul(block.subarray(157, 257));
  const size = extension.get('size');
  const isSparse = type === 'S' || [...extension.keys()].some((key) => key.startsWith('GNU.sparse'));
  const name = nameOfBytes(path);
  return {
    name,
    // Old programs write a folder as a file whose name ends with a slash.
    type: isSparse
      ? 'file'
      : (type === '\0' || type === '0') && name.endsWith('/')
        ? 'folder'
        : (typeNames[type] ?? 'other'),
    size: size ? Number(size.toString('latin1')) : written,
    target: linkPath.length > 0 ? nameOfBytes(linkPath) : null,
    refused: isSparse ? sparseReason : null,
  };
}

/** Records of a pax header: their length in decimal, a space, `key=value` and a line feed. */
function records(bytes: Buffer): Extension {
  const found: Extension = new Map();
  for (let at = 0; at < bytes.length;) {
    const space = bytes.indexOf(0x20, at);
    const length = Number(bytes.toString('latin1', at, space));
    if (space < 0 || !(length > 0) || at + length > bytes.length) break;
    const equals = bytes.indexOf(0x3d, space);
    if (equals > 0 && equals < at + length)
      found.set(bytes.toString('utf8', space + 1, equals), bytes.subarray(equals + 1, at + length - 1));
    at += length;
  }
  return found;
}

/** Octal digits, or (its highest bit set) base 256. @throws ContainerError when it is neither */
function numberAt(block: Buffer, at: number, length: number): number {
  const field = block.subarray(at, at + length);
  if (((field[0] ?? 0) & 0x80) !== 0) {
    let value = BigInt((field[0] ?? 0) & 0x7f);
    for (const byte of field.subarray(1)) value = value * 256n + BigInt(byte);
    if (value > BigInt(Number.MAX_SAFE_INTEGER))
      throw new ContainerError('a size in its headers is impossible');
    return Number(value);
  }
  const digits = field.toString('latin1').replaceAll('\0', ' ').trim();
  if (digits === '') return 0;
  if (!/^[0-7]+$/.test(digits)) throw new ContainerError('a size in its headers is no number');
  return Number.parseInt(digits, 8);
}

function padded(size: number): number {
  return Math.ceil(size / blockBytes) * blockBytes;
}

function untilNul(bytes: Buffer): Buffer {
  const end = bytes.indexOf(0);
  return end < 0 ? bytes : bytes.subarray(0, end);
}

function cutShort(at: number): ContainerError {
  return new ContainerError(`it is cut short: its header at byte ${at} promises more than is there`);
}
