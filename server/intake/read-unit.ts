import { closeSync, fstatSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { randomUUID } from 'node:crypto';
import { ContainerError } from '../../core/containers/container-error.ts';
import {
  checkEntryName,
  containerMark,
  linkStaysInside,
  unusedName,
} from '../../core/containers/entry-name.ts';
import { UnpackingBudget, maximumDepth } from '../../core/containers/unpacking-budget.ts';
import { headLength, identify, isZip, type Identity } from '../../core/kinds/identify.ts';
import { role } from '../builds/spans.ts';
import { FileSource, MemorySource, type ByteSource } from '../containers/byte-source.ts';
import {
  listZip,
  checkStored,
  packedPart,
  streamEntry,
  unpackEntry,
  type ZipEntry,
} from '../containers/zip.ts';
import { codeOf, messageOf } from '../plain-error.ts';
import { hashOf, startHash } from '../store/hash.ts';
import { largeContentBytes } from '../store/layout.ts';
import type { IntakeCounts, SourceFile } from './messages.ts';
import type { FoundAsset, Recorder } from './recorder.ts';

/** Archives in archives up to this size are unpacked in memory, larger ones into a temporary file. */
const nestedInMemoryBytes = 32 * 1024 * 1024;
const bufferBytes = 1024 * 1024;

export interface UnitContext {
  recorder: Recorder;
  source: string;
  temporary: string;
  counts: IntakeCounts;
  /** Called between entries of an archive; throws to stop. */
  checkpoint(): Promise<void>;
}

/** Reads one file of the source: a leaf, or an archive with all that is in it. Its own row is the last. */
export async function readUnit(context: UnitContext, unit: SourceFile): Promise<void> {
  const found: FoundAsset = {
    path: unit.path,
    unit: unit.path,
    role: role.file,
    format: 'binary',
    byExtension: true,
    size: unit.size,
  };
  if (context.recorder.skipUnchanged(unit)) {
    context.counts.files++;
    context.counts.bytes += unit.size;
    context.counts.readBytes += unit.size;
    return;
  }
  let isWhole = false;
  let file: FileSource | null = null;
  try {
    file = new FileSource(unit.path === '' ? context.source : join(context.source, unit.path));
    const budget = new UnpackingBudget(file.size);
    await readAsset(context, { ...found, size: file.size }, file, budget, 1);
    isWhole = file.signature() === unit.signature;
    if (!isWhole) {
      context.recorder.addProblem({
        path: unit.path,
        unit: unit.path,
        reason: 'it changed while the source was read',
        locked: false,
      });
    }
  } catch (error) {
    if (!isReadFailure(error)) throw error;
    const reason =
      codeOf(error) === 'ENOENT'
        ? 'it vanished while the source was read'
        : `it cannot be read: ${messageOf(error)}`;
    context.counts.files++;
    await context.recorder.addUnreadable(found, reason);
  } finally {
    file?.close();
    context.counts.readBytes += unit.size;
  }
  context.recorder.addSource(unit, isWhole);
}

/** A source's own failing: what it costs is that file. A full disk or a lost database costs the job. */
function isReadFailure(error: unknown): boolean {
  return ['ENOENT', 'EACCES', 'EPERM', 'EIO', 'EISDIR', 'ELOOP', 'ENAMETOOLONG', 'ESTALE'].includes(
    codeOf(error),
  );
}

async function readAsset(
  context: UnitContext,
  found: FoundAsset,
  bytes: ByteSource,
  budget: UnpackingBudget,
  depth: number,
): Promise<void> {
  const head = bytes.read(0, headLength);
  if (isZip(head)) {
    try {
      if (depth > maximumDepth) throw new ContainerError(`it lies more than ${maximumDepth} archives deep`);
      const entries = await listZip(bytes);
      await readEntries(context, found, bytes, entries, budget, depth);
      await context.recorder.addLarge(
        { ...found, role: role.container, format: 'zip', byExtension: false },
        directoryDigest(entries),
        null,
      );
      return;
    } catch (error) {
      if (!(error instanceof ContainerError)) throw error;
      context.recorder.addProblem({
        path: found.path,
        unit: found.unit,
        reason: `the archive was not opened: ${error.message}`,
        locked: false,
      });
    }
  }
  countLeaf(context, found);
  await keep(context, found, bytes, () => identify(bytes.read(0, headLength), found.path));
}

/** Keeps a leaf: in a pack, or in a file of its own where it is large and new. */
async function keep(
  context: UnitContext,
  asset: FoundAsset,
  bytes: ByteSource,
  identifyHead: () => Identity,
): Promise<void> {
  if (bytes.size <= largeContentBytes) {
    await context.recorder.addSmall(asset, bytes.read(0, bytes.size), identifyHead);
    return;
  }
  const hash = hashSource(bytes);
  asset = { ...asset, ...identifyHead() };
  if (await context.recorder.has(hash)) {
    await context.recorder.addLarge(asset, hash, null);
    return;
  }
  const copy = writeTemporary(context.temporary, (write) => {
    for (let at = 0; at < bytes.size; at += bufferBytes) write(bytes.read(at, bufferBytes));
  });
  if (!copy.hash.equals(hash)) {
    context.recorder.addProblem({
      path: asset.path,
      unit: asset.unit,
      reason: 'it changed while it was read: the later state was kept',
      locked: false,
    });
  }
  await context.recorder.addLarge({ ...asset, size: copy.size }, copy.hash, copy.path);
}

async function readEntries(
  context: UnitContext,
  container: FoundAsset,
  source: ByteSource,
  entries: readonly ZipEntry[],
  budget: UnpackingBudget,
  depth: number,
): Promise<void> {
  const prefix = container.path === '' ? '' : container.path + containerMark;
  const taken = new Set<string>();
  for (const entry of entries) {
    if (entry.isFolder) continue;
    await context.checkpoint();
    const name = checkEntryName(entry.name);
    let inner = name.path;
    if (taken.has(inner)) {
      inner = unusedName(inner, taken);
      context.recorder.addProblem({
        path: prefix + inner,
        unit: container.unit,
        reason: `the archive has more than one entry named ${name.path}`,
        locked: false,
      });
    }
    taken.add(inner);
    const found: FoundAsset = {
      path: prefix + inner,
      unit: container.unit,
      role: role.file,
      format: identify(new Uint8Array(0), inner).format,
      byExtension: true,
      size: entry.unpackedBytes,
    };
    try {
      if (name.refused !== null) throw new ContainerError(`it was refused: ${name.refused}`);
      if (entry.isEncrypted) {
        countLeaf(context, found);
        await context.recorder.addUnreadable(found, 'it is locked with a key', true);
      } else {
        await readEntry(context, found, source, entry, budget, depth);
      }
    } catch (error) {
      if (!(error instanceof ContainerError)) throw error;
      countLeaf(context, found);
      await context.recorder.addUnreadable(found, error.message);
    }
  }
}

async function readEntry(
  context: UnitContext,
  found: FoundAsset,
  source: ByteSource,
  entry: ZipEntry,
  budget: UnpackingBudget,
  depth: number,
): Promise<void> {
  if (entry.isLink) {
    const target = new TextDecoder().decode(unpackEntry(source, entry, budget));
    // It may lead anywhere within its archive, and nowhere else.
    if (!linkStaysInside(found.path.split(containerMark).at(-1) ?? '', target)) {
      context.recorder.addProblem({
        path: found.path,
        unit: found.unit,
        reason: `it is a link out of its archive, to ${target}`,
        locked: false,
      });
    }
    await context.recorder.addLink(found.path, found.unit, target);
    return;
  }
  if (entry.method === 0 && entry.unpackedBytes === entry.packedBytes) {
    const part = packedPart(source, entry);
    if (isZip(part.read(0, 4))) {
      // Stored as it is: checked, then read in place.
      checkStored(part, entry);
      await readAsset(context, found, part, budget, depth + 1);
      return;
    }
  }
  let packedHash: Buffer | undefined;
  if (entry.unpackedBytes <= largeContentBytes && entry.packedBytes <= largeContentBytes) {
    packedHash = hashPacked(packedPart(source, entry), entry);
    if (await context.recorder.addUnchanged(found, packedHash)) {
      countLeaf(context, found);
      return;
    }
  }
  if (entry.unpackedBytes <= nestedInMemoryBytes) {
    if (packedHash) found.packedHash = packedHash;
    await readAsset(context, found, new MemorySource(unpackEntry(source, entry, budget)), budget, depth + 1);
    return;
  }
  await readLargeEntry(context, found, source, entry, budget, depth);
}

async function readLargeEntry(
  context: UnitContext,
  found: FoundAsset,
  source: ByteSource,
  entry: ZipEntry,
  budget: UnpackingBudget,
  depth: number,
): Promise<void> {
  const path = join(context.temporary, randomUUID());
  const file = openSync(path, 'wx', 0o600);
  try {
    for await (const piece of streamEntry(source, entry, budget)) {
      writeFully(file, piece);
      await context.checkpoint();
    }
  } catch (error) {
    rmSync(path, { force: true });
    throw error;
  } finally {
    closeSync(file);
  }
  const unpacked = new FileSource(path);
  try {
    await readAsset(context, found, unpacked, budget, depth + 1);
  } finally {
    unpacked.close();
    rmSync(path, { force: true });
  }
}

function countLeaf(context: UnitContext, found: FoundAsset): void {
  context.counts.files++;
  context.counts.bytes += found.size ?? 0;
}

/**
 * Names what an entry unpacks to without unpacking it: the same bytes, method, size and checksum give the same
 * content. The three numbers are laid over the hash of the bytes.
 */
function hashPacked(part: ByteSource, { method, crc, unpackedBytes }: ZipEntry): Buffer {
  const hash = hashOf(part.read(0, part.size));
  const view = new DataView(hash.buffer, hash.byteOffset, hash.byteLength);
  view.setUint32(0, view.getUint32(0) ^ crc);
  view.setUint32(4, view.getUint32(4) ^ unpackedBytes);
  view.setUint16(8, view.getUint16(8) ^ method);
  return hash;
}

/** Tells one packing of a container from another: what its directory says of each entry. Its bytes are not kept. */
function directoryDigest(entries: readonly ZipEntry[]): Buffer {
  const hash = startHash();
  for (const { name, method, crc, packedBytes, unpackedBytes, headerOffset } of entries) {
    hash.update(
      Buffer.from(
        `${JSON.stringify(name)} ${method} ${crc} ${packedBytes} ${unpackedBytes} ${headerOffset}\n`,
      ),
    );
  }
  return hash.digest();
}

function hashSource(bytes: ByteSource): Buffer {
  const hash = startHash();
  for (let at = 0; at < bytes.size; at += bufferBytes) hash.update(bytes.read(at, bufferBytes));
  return hash.digest();
}

function writeTemporary(
  folder: string,
  fill: (write: (piece: Uint8Array) => void) => void,
): { path: string; hash: Buffer; size: number } {
  const path = join(folder, randomUUID());
  const file = openSync(path, 'wx', 0o600);
  const hash = startHash();
  try {
    fill((piece) => {
      hash.update(piece);
      writeFully(file, piece);
    });
    return { path, hash: hash.digest(), size: fstatSync(file).size };
  } finally {
    closeSync(file);
  }
}

function writeFully(file: number, piece: Uint8Array): void {
  for (let at = 0; at < piece.length;) at += writeSync(file, piece, at);
}
