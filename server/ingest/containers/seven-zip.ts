import { crc32 } from 'node:zlib';
import { ContainerError } from '../../../core/containers/container-error.ts';
import {
  longLinkReason,
  maximumEntries,
  maximumLinkBytes,
} from '../../../core/containers/unpacking-budget.ts';
import type { ByteSource } from './byte-source.ts';
import { LockedError } from './locked-error.ts';
import { PieceReader } from './piece-reader.ts';
import { runProgram } from './program.ts';
import { archivePath } from './sandbox.ts';
import type { PassingEntry } from './solid.ts';

/** What 7zz reads here, by its own names; it is told which one, and looks for no other. */
export type SevenZipFormat = '7z' | 'udf';

export interface SevenZipEntry {
  name: string;
  isFolder: boolean;
  isLink: boolean;
  isLocked: boolean;
  size: number;
  packedSize: number | null;
  /** Null where the format keeps none. */
  crc: number | null;
}

/**
 * What 7zz says is in an archive, in the order in which it unpacks. The key goes in by standard input, where no list of
 * processes shows it.
 * @param path of a file: 7zz does not read from a pipe
 * @throws LockedError when its directory is locked and the passphrase does not open it
 */
export async function listSevenZip(
  format: SevenZipFormat,
  path: string,
  passphrase: string | null,
): Promise<SevenZipEntry[]> {
  const entries: SevenZipEntry[] = [];
  try {
    for await (const block of blocksOf(format, path, passphrase)) {
      if (entries.push(toEntry(block)) > maximumEntries)
        throw new ContainerError(`it lists more than ${maximumEntries} entries, which are not read`);
    }
  } catch (error) {
    if (error instanceof ContainerError && /encrypted|password/i.test(error.message))
      throw new LockedError(passphrase !== null);
    throw error;
  }
  return entries;
}

const maximumBlockCharacters = 64 * 1024;

/** The listing, a block of lines an entry. */
async function* blocksOf(
  format: SevenZipFormat,
  path: string,
  passphrase: string | null,
): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  let rest = '';
  const listing = runProgram({
    program: '7zz',
    args: ['l', '-slt', '-ba', '-sccUTF-8', `-t${format}`, '--', archivePath],
    input: `${passphrase ?? ''}\n`,
    file: path,
  });
  for await (const piece of listing) {
    rest += decoder.decode(piece, { stream: true }).replaceAll('\r', '');
    const blocks = rest.split(/\n(?=Path = )/);
    rest = blocks.pop() ?? '';
    if (rest.length > maximumBlockCharacters)
      throw new ContainerError('its directory has a name that is too long to be one');
    yield* blocks.flatMap(fromPath);
  }
  yield* fromPath(rest);
}

/** Lines before the first entry speak of the archive. */
function fromPath(block: string): string[] {
  const at = block.startsWith('Path = ') ? 0 : block.indexOf('\nPath = ') + 1;
  return at > 0 || block.startsWith('Path = ') ? [block.slice(at)] : [];
}

function toEntry(block: string): SevenZipEntry {
  const fields = new Map(
    block.split('\n').flatMap((line): [string, string][] => {
      const at = line.indexOf(' =');
      return at < 0 ? [] : [[line.slice(0, at), line.slice(at + 3)]];
    }),
  );
  const count = (name: string): number | null => {
    const value = fields.get(name) ?? '';
    return /^\d+$/.test(value) ? Number(value) : null;
  };
  const attributes = fields.get('Attributes') ?? '';
  const crc = fields.get('CRC') ?? '';
  return {
    name: fields.get('Path') ?? '',
    isFolder: fields.get('Folder') === '+' || /^D|\bd[rwx-]{9}/.test(attributes),
    isLink: /\bl[rwx-]{9}/.test(attributes),
    isLocked: fields.get('Encrypted') === '+',
    size: count('Size') ?? 0,
    packedSize: count('Packed Size'),
    crc: /^[0-9A-F]{8}$/.test(crc) ? Number.parseInt(crc, 16) : null,
  };
}

/**
 * Reads a 7z or a UDF image in one pass: 7zz writes all files one after the other, and the directory says where one ends.
 * @throws LockedError before the first entry where a key is needed, and this is not it
 */
export async function* readSevenZip(
  format: SevenZipFormat,
  source: ByteSource,
  passphrase: string | null,
): AsyncGenerator<PassingEntry> {
  const { path } = source;
  if (path === null) throw new RangeError('readSevenZip: the archive has to lie in a file');
  const entries = await listSevenZip(format, path, passphrase);
  if (entries.some(({ isLocked }) => isLocked)) {
    if (passphrase === null) throw new LockedError(false);
    await tryKey(format, path, entries, passphrase);
  }
  const reader = new PieceReader(
    runProgram({
      program: '7zz',
      args: ['x', '-so', '-bb0', '-sccUTF-8', `-t${format}`, '--', archivePath],
      input: `${passphrase ?? ''}\n`,
      file: path,
      // Each file is checked below.
      mayFail: true,
    }),
  );
  try {
    for (const entry of entries) {
      if (entry.isFolder) continue;
      const body = checked(reader.take(entry.size), entry);
      const isLong = entry.isLink && entry.size > maximumLinkBytes;
      const target = entry.isLink && !isLong ? (await gather(body)).toString('utf8') : null;
      yield {
        name: entry.name,
        type: entry.isLink ? 'link' : 'file',
        size: entry.size,
        target,
        refused: isLong ? longLinkReason : null,
        body,
      };
      await pass(body);
    }
  } finally {
    await reader.close();
  }
}

const probeBytes = 16 * 1024 * 1024;

/** Unpacks the first locked file, up to 16 MiB of it: a wrong key is told before anything is changed. */
async function tryKey(
  format: SevenZipFormat,
  path: string,
  entries: readonly SevenZipEntry[],
  passphrase: string,
): Promise<void> {
  const first = entries.find(({ isLocked, size }) => isLocked && size > 0);
  if (!first) return;
  const probe = new PieceReader(
    runProgram({
      program: '7zz',
      args: ['x', '-so', '-spd', '-sccUTF-8', `-t${format}`, '--', archivePath, first.name],
      input: `${passphrase}\n`,
      file: path,
      mayFail: true,
    }),
  );
  try {
    const isWhole = first.size <= probeBytes;
    const bytes = await probe.peek(isWhole ? first.size : 1);
    const isRight = isWhole
      ? bytes.length === first.size && (first.crc === null || crc32(bytes) === first.crc)
      : bytes.length > 0;
    if (!isRight) throw new LockedError(true);
  } finally {
    await probe.close();
  }
}

async function* checked(body: AsyncIterable<Buffer>, entry: SevenZipEntry): AsyncGenerator<Buffer> {
  let length = 0;
  let crc = 0;
  for await (const piece of body) {
    length += piece.length;
    crc = crc32(piece, crc);
    yield piece;
  }
  if (length < entry.size) throw new ContainerError('its data are damaged: the archive ends within it');
  if (entry.crc !== null && crc !== entry.crc)
    throw new ContainerError('its data are damaged: its checksum is wrong');
}

/** What nobody asked for still has to go by. */
async function pass(body: AsyncIterable<Buffer>): Promise<void> {
  try {
    for await (const piece of body) void piece;
  } catch (error) {
    if (!(error instanceof ContainerError)) throw error;
  }
}

async function gather(body: AsyncIterable<Buffer>): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const piece of body) parts.push(piece);
  return Buffer.concat(parts);
}
