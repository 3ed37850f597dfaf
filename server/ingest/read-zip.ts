import { ContainerError } from '../../core/containers/container-error.ts';
import { containerOf } from '../../core/containers/container-format.ts';
import { linkStaysInside } from '../../core/containers/entry-name.ts';
import { longLinkReason, maximumLinkBytes } from '../../core/containers/unpacking-budget.ts';
import type { ArchiveKey } from '../acquire/keyring/archive-key.ts';
import { MemorySource } from './containers/byte-source.ts';
import { LockedError } from './containers/locked-error.ts';
import { LockedZip } from './containers/zip-locked.ts';
import {
  checkStored,
  isPossibleSize,
  isQuick,
  listZip,
  packedPart,
  streamEntry,
  unpackEntry,
  type ZipEntry,
} from './containers/zip.ts';
import { hashSource } from './containers/byte-source.ts';
import { hashOf, startHash } from '../store/hash.ts';
import { largeContentBytes } from '../store/large-content.ts';
import { EntryFinder } from './entry-finding.ts';
import { mostSisterBytes, sheetFor } from './read-by-sheet.ts';
import type { FoundAsset } from './recorder.ts';
import { nestedInMemoryBytes, spill } from './spill.ts';
import { countLeaf, type OpenContainer } from './unit-context.ts';

/** Reads a ZIP, or the share of it that is this thread's. @returns what tells one packing of it from another */
export async function readZip(container: OpenContainer): Promise<Buffer> {
  const { context, source, share } = container;
  const entries = await listZip(source);
  const finder = new EntryFinder(container);
  const locked = new LockedZip(source, context.keys);
  container.another = (inner) => {
    const entry = entries.find(({ name }) => name === inner);
    const isWanted = entry && !entry.isFolder && !entry.isLink && !entry.isEncrypted;
    return isWanted && isPossibleSize(entry) && entry.unpackedBytes <= mostSisterBytes
      ? unpackEntry(source, entry, container.budget)
      : null;
  };
  try {
    for (const entry of entries) {
      if (entry.isFolder) continue;
      const isMine = Math.floor((entry.headerOffset / source.size) * share.of) === share.index;
      if (isMine) await context.checkpoint();
      // A size that cannot be is no size: it is not counted, and not shown.
      const isLongLink = entry.isLink && entry.unpackedBytes > maximumLinkBytes;
      const size = isPossibleSize(entry) && !isLongLink ? entry.unpackedBytes : null;
      const named = finder.find(entry.name, size, isMine);
      if (!named) continue;
      const { found, inner, refused } = named;
      try {
        if (refused !== null) throw new ContainerError(`it was refused: ${refused}`);
        if (entry.isEncrypted) await readLocked(container, found, entry, locked);
        else await readEntry(container, found, inner, entry);
      } catch (error) {
        await finder.listUnreadable(found, error);
      }
    }
  } finally {
    await locked.close();
  }
  return directoryDigest(entries);
}

async function readEntry(
  container: OpenContainer,
  found: FoundAsset,
  inner: string,
  entry: ZipEntry,
): Promise<void> {
  const { context, source, budget } = container;
  if (entry.isLink) {
    if (entry.unpackedBytes > maximumLinkBytes) throw new ContainerError(longLinkReason);
    const target = new TextDecoder().decode(unpackEntry(source, entry, budget));
    await addLink(container, found, inner, target);
    return;
  }
  if (entry.method === 0 && entry.unpackedBytes === entry.packedBytes) {
    const part = packedPart(source, entry);
    if (containerOf((offset, length) => part.read(offset, length), found.path)) {
      // Stored as it is: checked, then read in place.
      checkStored(part, entry);
      await container.readInner(found, { bytes: part, file: null });
      return;
    }
  }
  let packedHash: Buffer | undefined;
  if (entry.unpackedBytes <= largeContentBytes && entry.packedBytes <= largeContentBytes) {
    packedHash = hashPacked(source, entry);
    if (!sheetFor(context, found.path) && (await context.recorder.addUnchanged(found, packedHash))) {
      countLeaf(context, found);
      return;
    }
  }
  if (entry.unpackedBytes <= nestedInMemoryBytes && isQuick(entry)) {
    if (packedHash) found.packedHash = packedHash;
    await container.readInner(found, {
      bytes: new MemorySource(unpackEntry(source, entry, budget)),
      file: null,
    });
    return;
  }
  await spill(container, packedHash ? { ...found, packedHash } : found, streamEntry(source, entry, budget));
}

/** Tries the keys that may fit, one after the other: a wrong one may pass the format's own check by chance. */
async function readLocked(
  container: OpenContainer,
  found: FoundAsset,
  entry: ZipEntry,
  locked: LockedZip,
): Promise<void> {
  const { budget } = container;
  // The bytes are all that tells one locked content from another.
  found.packedHash = hashPacked(container.source, entry);
  if (container.context.unlocking?.isAnother(found.path, found.packedHash)) throw new LockedError('another');
  let failure: ContainerError = new LockedError(container.context.keys.length > 0);
  const keys: ArchiveKey[] = await locked.keysFor(entry);
  if (keys.length > 0) budget.spend(entry.unpackedBytes);
  for (const key of keys) {
    try {
      const size = entry.unpackedBytes;
      await spill(container, { ...found, size }, locked.stream(entry, key), size);
      locked.remember(key);
      return;
    } catch (error) {
      if (!(error instanceof ContainerError)) throw error;
      failure = error;
    }
  }
  throw failure;
}

/** Lists a link, which may lead anywhere within its archive, and nowhere else. */
export async function addLink(
  { context }: OpenContainer,
  found: FoundAsset,
  inner: string,
  target: string,
): Promise<void> {
  if (Buffer.byteLength(target) > maximumLinkBytes) throw new ContainerError(longLinkReason);
  if (!linkStaysInside(inner, target)) {
    context.recorder.addProblem({
      path: found.path,
      unit: found.unit,
      reason: `it is a link out of its archive, to ${target}`,
      locked: false,
    });
  }
  await context.recorder.addLink(found.path, found.unit, target);
}

/**
 * Names what an entry unpacks to without unpacking it: the same bytes, method, size and checksum give the same
 * content. The three numbers are laid over the hash of the bytes.
 */
function hashPacked(source: OpenContainer['source'], entry: ZipEntry): Buffer {
  const { method, crc, unpackedBytes } = entry;
  const part = packedPart(source, entry);
  const hash = part.size <= largeContentBytes ? hashOf(part.read(0, part.size)) : hashSource(part);
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
