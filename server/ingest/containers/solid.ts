import { Readable } from 'node:stream';
import { extract, type Header } from 'tar-stream';
import { ContainerError } from '../../../core/containers/container-error.ts';
import { isTarHeader, type ContainerFormat } from '../../../core/containers/container-format.ts';
import { nameOfBytes } from '../../../core/containers/entry-name.ts';
import { messageOf } from '../../platform/plain-error.ts';
import { asOnly } from './as-only.ts';
import type { ByteSource } from './byte-source.ts';
import { decompress } from './decompress.ts';
import { PieceReader } from './piece-reader.ts';
import type { EntryType } from './placed-entry.ts';
import { runProgram } from './program.ts';
import { readSevenZip } from './seven-zip.ts';

/** An entry as it comes by. Its body is there until the next one is asked for. */
export interface PassingEntry {
  name: string;
  type: EntryType;
  /** In bytes; null where it is known only at the end. */
  size: number | null;
  /** Where a link leads. */
  target: string | null;
  /** Why the body cannot be had. */
  refused: string | null;
  body: AsyncIterable<Buffer>;
}

/**
 * The entries of a container that is read once, from front to back.
 * @param name of the container's file; what lies in a compressed single file is named after it
 * @param passphrase for a locked one
 * @throws ContainerError when it is damaged; what came before counts
 */
export async function* passingEntries(
  format: ContainerFormat,
  source: ByteSource,
  name: string,
  passphrase: string | null,
): AsyncGenerator<PassingEntry> {
  switch (format) {
    case '7z':
    case 'udf':
      yield* readSevenZip(format, source, passphrase);
      return;
    case 'iso':
    case 'cab':
      yield* tarEntries(
        runProgram({
          program: 'bsdtar',
          args: ['--format=pax', '-cf', '-', '@-'],
          input: asOnly(format, source),
        }),
      );
      return;
    case 'zip':
    case 'tar':
    case 'ar':
    case 'cpio':
      throw new RangeError(`passingEntries: a ${format} is read in place`);
    default:
      yield* singleEntries(decompress(format, source), name);
  }
}

/** What a compressed single file unpacks to: the entries of a TAR, or one file. */
async function* singleEntries(stream: AsyncIterable<Buffer>, name: string): AsyncGenerator<PassingEntry> {
  const reader = new PieceReader(stream);
  try {
    if (isTarHeader(await reader.peek(512))) {
      yield* tarEntries(reader.take());
      return;
    }
    yield {
      name: unpackedName(name),
      type: 'file',
      size: null,
      target: null,
      refused: null,
      body: reader.take(),
    };
  } finally {
    await reader.close();
  }
}

/** `harbour.ogg.gz` holds `harbour.ogg`; a file whose name says nothing of its compression holds one of the same name. */
export function unpackedName(name: string): string {
  const file = name.slice(name.lastIndexOf('/') + 1);
  const stem = file.replace(/\.(gz|bz2|xz|zst|lz4|br)$/i, '');
  return stem === '' ? file : stem;
}

/** The entries of a TAR that comes as a stream. */
async function* tarEntries(stream: AsyncIterable<Buffer>): AsyncGenerator<PassingEntry> {
  const input = Readable.from(stream);
  // Names as bytes: they need not be UTF-8.
  const unpacking = extract(namesAsBytes as Parameters<typeof extract>[0]);
  input.on('error', (error) => unpacking.destroy(error)).pipe(unpacking);
  try {
    for await (const entry of unpacking) {
      yield toPassing(entry.header, entry as AsyncIterable<Buffer>);
      entry.resume();
    }
  } catch (error) {
    throw error instanceof ContainerError
      ? error
      : new ContainerError(`its data are damaged: ${messageOf(error)}`);
  } finally {
    input.destroy();
    unpacking.destroy();
  }
}

/** The package's types leave these out. */
const namesAsBytes = { filenameEncoding: 'latin1', allowUnknownFormat: true };

const types: Partial<Record<Header['type'], EntryType>> = {
  file: 'file',
  'contiguous-file': 'file',
  directory: 'folder',
  symlink: 'link',
  link: 'hard link',
};

function toPassing(header: Header, body: AsyncIterable<Buffer>): PassingEntry {
  const pax = (header.pax ?? {}) as Partial<Record<string, string>>;
  const text = (plain: string, extended: string | undefined): string =>
    extended ?? nameOfBytes(Buffer.from(plain, 'latin1'));
  const isSparse = Object.keys(pax).some((key) => key.startsWith('GNU.sparse'));
  return {
    name: text(header.name, pax.path),
    type: types[header.type] ?? 'other',
    size: header.size,
    target: header.linkname ? text(header.linkname, pax.linkpath) : null,
    refused: isSparse ? sparseReason : null,
    body,
  };
}

export const sparseReason = 'it is a sparse file, of which the archive keeps parts only: these are not read';
