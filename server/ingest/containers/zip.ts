import { Readable } from 'node:stream';
import { crc32, inflateRawSync } from 'node:zlib';
import * as yauzl from 'yauzl';
import { ContainerError } from '../../../core/containers/container-error.ts';
import { maximumEntries, type UnpackingBudget } from '../../../core/containers/unpacking-budget.ts';
import { codeOf, messageOf } from '../../platform/plain-error.ts';
import { decompress, type StreamFormat } from './decompress.ts';
import { PartSource, pieces, type ByteSource } from './byte-source.ts';

/** An entry as the central directory has it (APPNOTE 6.3.10, section 4.3.12). */
export interface ZipEntry {
  name: string;
  isFolder: boolean;
  isLink: boolean;
  isEncrypted: boolean;
  method: number;
  crc: number;
  packedBytes: number;
  unpackedBytes: number;
  /** Where the local header begins. */
  headerOffset: number;
}

const localHeaderBytes = 30;
const stored = 0;
const deflated = 8;
/** Methods by the compressed streams that they are (APPNOTE 4.4.5). */
const streamed: Partial<Record<number, StreamFormat>> = {
  [deflated]: 'deflate',
  12: 'bzip2',
  93: 'zstd',
  95: 'xz',
};

/**
 * The entries of a ZIP in the order in which they lie.
 * @throws ContainerError when the directory is damaged, or entries overlap as only bombs do
 */
export async function listZip(source: ByteSource): Promise<ZipEntry[]> {
  const entries: ZipEntry[] = [];
  try {
    const file = await yauzl.fromRandomAccessReaderPromise(new SourceReader(source), source.size, {
      autoClose: false,
      decodeStrings: false,
      lazyEntries: true,
      validateEntrySizes: false,
    });
    if (file.entryCount > maximumEntries)
      throw new ContainerError(`it lists ${file.entryCount} entries, more than are read`);
    for await (const entry of file.eachEntry()) entries.push(toEntry(entry));
  } catch (error) {
    if (error instanceof ContainerError) throw error;
    throw new ContainerError(`its directory cannot be read: ${messageOf(error)}`);
  }
  entries.sort((a, b) => a.headerOffset - b.headerOffset);
  refuseOverlaps(entries);
  return entries;
}

/** Whether an entry is unpacked at once; others come as a stream only. */
export function isQuick({ method }: ZipEntry): boolean {
  return method === stored || method === deflated;
}

/**
 * One entry unpacked into memory, checked against its size and its CRC-32. What is not compressed comes as a view
 * that the next reading of the source may overwrite.
 * @throws ContainerError
 */
export function unpackEntry(source: ByteSource, entry: ZipEntry, budget: UnpackingBudget): Uint8Array {
  checkMethod(entry);
  budget.spend(entry.unpackedBytes);
  const part = packedPart(source, entry);
  const packed = part.read(0, part.size);
  const bytes = entry.method === stored ? packed : inflate(packed, entry);
  checkUnpacked(entry, bytes.length, crc32(bytes));
  return bytes;
}

/** One entry unpacked piece by piece, for what is too large for memory; checked at the end. */
export async function* streamEntry(
  source: ByteSource,
  entry: ZipEntry,
  budget: UnpackingBudget,
): AsyncGenerator<Buffer> {
  checkMethod(entry);
  budget.spend(entry.unpackedBytes);
  const part = packedPart(source, entry);
  const format = streamed[entry.method];
  let length = 0;
  let crc = 0;
  for await (const bytes of format ? decompress(format, part) : pieces(part)) {
    length += bytes.length;
    if (length > entry.unpackedBytes) throw new ContainerError(sizeLies(entry));
    crc = crc32(bytes, crc);
    yield bytes;
  }
  checkUnpacked(entry, length, crc);
}

/** @throws ContainerError when the checksum of an entry that is not compressed is wrong */
export function checkStored(part: ByteSource, entry: ZipEntry): void {
  let crc = 0;
  for (const piece of pieces(part)) crc = crc32(piece, crc);
  checkUnpacked(entry, part.size, crc);
}

/**
 * Where an entry's packed bytes lie. The local header repeats name and extra field in its own lengths
 * (section 4.3.7), and only it tells where the data begin.
 * @throws ContainerError when its header is not there
 */
export function packedPart(source: ByteSource, entry: ZipEntry): PartSource {
  const header = source.read(entry.headerOffset, localHeaderBytes);
  const view = new DataView(header.buffer, header.byteOffset, header.byteLength);
  if (header.length < localHeaderBytes || view.getUint32(0, true) !== 0x04034b50) {
    throw new ContainerError(`its header is missing at byte ${entry.headerOffset}`);
  }
  const start = entry.headerOffset + localHeaderBytes + view.getUint16(26, true) + view.getUint16(28, true);
  if (start + entry.packedBytes > source.size) throw new ContainerError('the archive is cut short within it');
  return new PartSource(source, start, entry.packedBytes);
}

/** What a method unpacks one byte to, at the most; deflate by its format (zlib's technical notes), the others in practice. */
const largestRatio: Partial<Record<number, number>> = { [stored]: 1, [deflated]: 1032 };
const otherRatio = 1_000_000;

/** Whether an entry's size is one that its packed bytes can unpack to: a directory may claim anything. */
export function isPossibleSize({ method, packedBytes, unpackedBytes }: ZipEntry): boolean {
  const overhead = 64;
  return unpackedBytes <= packedBytes * (largestRatio[method] ?? otherRatio) + overhead;
}

function checkMethod(entry: ZipEntry): void {
  const { method } = entry;
  if (method !== stored && !streamed[method])
    throw new ContainerError(`it is packed by method ${method}, which is not read`);
  if (!isPossibleSize(entry)) throw new ContainerError(sizeLies(entry));
}

function toEntry(entry: yauzl.Entry): ZipEntry {
  const name = nameOf(entry);
  // The upper half of the attributes is a Unix mode where Unix (3) made the entry (section 4.4.2).
  const mode = entry.versionMadeBy >> 8 === 3 ? entry.externalFileAttributes >>> 16 : 0;
  return {
    name,
    isFolder: /[/\\]$/.test(name),
    isLink: (mode & 0o170000) === 0o120000,
    isEncrypted: (entry.generalPurposeBitFlag & 1) !== 0,
    method: entry.compressionMethod,
    crc: entry.crc32,
    packedBytes: entry.compressedSize,
    unpackedBytes: entry.uncompressedSize,
    headerOffset: entry.relativeOffsetOfLocalHeader,
  };
}

const utf8Flag = 0x800;
const utf8 = new TextDecoder('utf-8', { fatal: true });

/**
 * A name without the UTF-8 flag is CP437 (appendix D.1). Programs on Unix write UTF-8 all the same: what decodes as
 * UTF-8 is taken for it, since text in CP437 with letters above 127 hardly ever does.
 */
function nameOf({ generalPurposeBitFlag, fileNameRaw, extraFields }: yauzl.Entry): string {
  let flags = generalPurposeBitFlag;
  try {
    utf8.decode(fileNameRaw);
    flags |= utf8Flag;
  } catch {
    // No UTF-8: the flag decides, as it stands.
  }
  return yauzl.getFileNameLowLevel(flags, fileNameRaw, extraFields, true);
}

function refuseOverlaps(entries: readonly ZipEntry[]): void {
  let end = 0;
  for (const entry of entries) {
    if (entry.headerOffset < end) throw new ContainerError('its entries overlap: taken for a bomb');
    end = entry.headerOffset + localHeaderBytes + entry.packedBytes;
  }
}

function inflate(packed: Uint8Array, entry: ZipEntry): Buffer {
  try {
    return inflateRawSync(packed, { maxOutputLength: Math.max(1, entry.unpackedBytes) });
  } catch (error) {
    if (codeOf(error) === 'ERR_BUFFER_TOO_LARGE') throw new ContainerError(sizeLies(entry));
    throw new ContainerError(`its data are damaged: ${messageOf(error)}`);
  }
}

function checkUnpacked(entry: ZipEntry, length: number, crc: number): void {
  if (length !== entry.unpackedBytes) throw new ContainerError(sizeLies(entry));
  if (crc !== entry.crc) {
    const written = (value: number): string => value.toString(16).padStart(8, '0');
    throw new ContainerError(
      `its checksum is wrong: the archive says ${written(entry.crc)}, its data give ${written(crc)}`,
    );
  }
}

function sizeLies(entry: ZipEntry): string {
  return `it does not unpack to the ${entry.unpackedBytes.toLocaleString('en')} bytes that the archive says`;
}

/** The package's way to read from something that is not a file. */
class SourceReader extends yauzl.RandomAccessReader {
  private readonly source: ByteSource;

  constructor(source: ByteSource) {
    super();
    this.source = source;
  }

  override _readStreamForRange(start: number, end: number): Readable {
    return Readable.from(pieces(new PartSource(this.source, start, end - start)));
  }

  // The package's types leave out the count of bytes that its callback wants.
  override read(
    buffer: Buffer,
    offset: number,
    length: number,
    position: number,
    callback: (error: Error | null, bytesRead?: number) => void,
  ): void {
    const bytes = this.source.read(position, length);
    buffer.set(bytes, offset);
    callback(null, bytes.length);
  }
}
