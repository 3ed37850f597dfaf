import { ContainerError } from '../../../core/containers/container-error.ts';
import { nameOfBytes } from '../../../core/containers/entry-name.ts';
import { longLinkReason, maximumLinkBytes } from '../../../core/containers/unpacking-budget.ts';
import type { ByteSource } from './byte-source.ts';
import type { EntryType, PlacedEntry } from './placed-entry.ts';

/** What a header of any variant says. */
interface CpioHeader {
  headerBytes: number;
  /** Names and contents are padded to this many bytes. */
  alignment: number;
  device: string;
  inode: number;
  mode: number;
  links: number;
  nameBytes: number;
  size: number;
}

const maximumNameBytes = 4096;
const lastName = 'TRAILER!!!';

/**
 * Goes from header to header of a cpio archive: the portable format (odc, POSIX.1-1988 10.1.2), the newc and crc formats of
 * SVR4 and the old binary one in both byte orders, as cpio(5) of libarchive describes them. Of hard-linked files newc
 * keeps the bytes with the last name only: the names before it are hard links to that one.
 * @throws ContainerError where a header is damaged, or the archive is cut short; what came before counts
 */
export function* listCpio(source: ByteSource): Generator<PlacedEntry> {
  const withoutBytes = new Map<string, PlacedEntry[]>();
  for (let at = 0; at < source.size;) {
    const header = readHeader(Buffer.from(source.read(at, 110)), at);
    const { headerBytes, alignment, nameBytes, size, mode, links } = header;
    if (nameBytes < 1 || nameBytes > maximumNameBytes)
      throw new ContainerError(`the length of a name in its header at byte ${at} is impossible`);
    const written = Buffer.from(source.read(at + headerBytes, nameBytes));
    const offset = at + align(headerBytes + nameBytes, alignment);
    if (written.length < nameBytes || offset + size > source.size) throw cutShort(at);
    const end = written.indexOf(0);
    const name = nameOfBytes(end < 0 ? written : written.subarray(0, end));
    if (name === lastName) {
      yield* emptyFiles(withoutBytes);
      return;
    }
    const type = typeOf(mode);
    const entry: PlacedEntry = {
      name,
      type,
      size: type === 'file' ? size : 0,
      offset,
      headerOffset: at,
      target: null,
      refused: null,
    };
    at = offset + align(size, alignment);
    const file = `${header.device} ${header.inode}`;
    if (type === 'link' && size > maximumLinkBytes) entry.refused = longLinkReason;
    else if (type === 'link') entry.target = nameOfBytes(Buffer.from(source.read(offset, size)));
    if (type === 'file' && links > 1 && size === 0) {
      withoutBytes.set(file, [...(withoutBytes.get(file) ?? []), entry]);
      continue;
    }
    yield entry;
    for (const earlier of withoutBytes.get(file) ?? [])
      yield { ...earlier, type: 'file', size: entry.size, offset: entry.offset };
    withoutBytes.delete(file);
  }
  throw new ContainerError('it is cut short: its last entry is missing');
}

/** Hard-linked files of which no name has any bytes: they are empty. */
function* emptyFiles(withoutBytes: ReadonlyMap<string, PlacedEntry[]>): Generator<PlacedEntry> {
  for (const entries of withoutBytes.values()) yield* entries;
}

function readHeader(bytes: Buffer, at: number): CpioHeader {
  const magic = bytes.toString('latin1', 0, 6);
  if (magic === '070701' || magic === '070702') {
    const field = (index: number): number => digits(bytes, 6 + index * 8, 8, 16, at);
    return {
      headerBytes: 110,
      alignment: 4,
      inode: field(0),
      mode: field(1),
      links: field(4),
      size: field(6),
      device: `${field(7)} ${field(8)}`,
      nameBytes: field(11),
    };
  }
  if (magic === '070707') {
    const field = (offset: number, length: number): number => digits(bytes, offset, length, 8, at);
    return {
      headerBytes: 76,
      alignment: 1,
      device: String(field(6, 6)),
      inode: field(12, 6),
      mode: field(18, 6),
      links: field(36, 6),
      nameBytes: field(59, 6),
      size: field(65, 11),
    };
  }
  if (bytes.length >= 26) {
    const isLittle = bytes.readUInt16LE(0) === 0o070707;
    if (isLittle || bytes.readUInt16BE(0) === 0o070707) {
      const word = (index: number): number =>
        isLittle ? bytes.readUInt16LE(index * 2) : bytes.readUInt16BE(index * 2);
      return {
        headerBytes: 26,
        alignment: 2,
        device: String(word(1)),
        inode: word(2),
        mode: word(3),
        links: word(6),
        nameBytes: word(10),
        // The higher half comes first, in either byte order.
        size: word(11) * 65536 + word(12),
      };
    }
  }
  throw new ContainerError(`its header at byte ${at} is damaged`);
}

function digits(bytes: Buffer, offset: number, length: number, base: 8 | 16, at: number): number {
  const text = bytes.toString('latin1', offset, offset + length);
  const isNumber = text.length === length && (base === 8 ? /^[0-7]+$/ : /^[0-9a-f]+$/i).test(text);
  if (!isNumber) throw new ContainerError(`a number in its header at byte ${at} is damaged`);
  return Number.parseInt(text, base);
}

/** By the upper bits of a mode (POSIX, <sys/stat.h> as Unix numbers them). */
function typeOf(mode: number): EntryType {
  switch (mode & 0o170000) {
    case 0o040000:
      return 'folder';
    case 0o120000:
      return 'link';
    case 0o100000:
    case 0:
      return 'file';
    default:
      return 'other';
  }
}

function align(length: number, to: number): number {
  return Math.ceil(length / to) * to;
}

function cutShort(at: number): ContainerError {
  return new ContainerError(`it is cut short: its header at byte ${at} promises more than is there`);
}
