import { join } from 'node:path';
import { ContainerError } from '../../core/containers/container-error.ts';
import {
  containerAccess,
  containerOf,
  type ContainerFormat,
} from '../../core/containers/container-format.ts';
import { UnpackingBudget, maximumDepth } from '../../core/containers/unpacking-budget.ts';
import { headLength, identify } from '../../core/kinds/identify.ts';
import { role } from '../acquire/builds/spans.ts';
import { FileSource, hashSource, type ByteSource } from './containers/byte-source.ts';
import { isPlacedFormat } from './containers/placed-listers.ts';
import { LockedError } from './containers/locked-error.ts';
import { codeOf, messageOf } from '../platform/plain-error.ts';
import { largeContentBytes } from '../store/large-content.ts';
import { leaveOut } from './entry-finding.ts';
import type { SourceFile } from './messages.ts';
import { readBySheet, sheetFor } from './read-by-sheet.ts';
import { readSolid } from './read-solid.ts';
import { readPlaced } from './read-placed.ts';
import { readZip } from './read-zip.ts';
import type { FoundAsset } from './recorder.ts';
import { SpillFile } from './spill.ts';
import {
  countLeaf,
  type OpenContainer,
  type Share,
  type UnitContext,
  type Unpacked,
} from './unit-context.ts';

const bufferBytes = 1024 * 1024;
const whole: Share = { index: 0, of: 1 };

/**
 * Reads one file of the source: a leaf, or an archive with all that is in it. Its own row is the last.
 * @returns whether it stayed the same meanwhile
 */
export async function readUnit(context: UnitContext, unit: SourceFile): Promise<boolean> {
  const found: FoundAsset = {
    path: unit.path,
    unit: unit.path,
    role: role.file,
    format: 'binary',
    byExtension: true,
    size: unit.size,
  };
  const share = unit.share ?? whole;
  const isFirst = share.index === 0;
  const readBytes = Math.floor(unit.size / share.of);
  // What comes out of a container may be in a file beside it, which changes by itself.
  const isAlone = !sheetFor(context, unit.path)?.usesSisters;
  if (context.unlocking === null && isAlone && context.recorder.skipUnchanged(unit)) {
    if (isFirst) context.counts.files++;
    if (isFirst) context.counts.bytes += unit.size;
    context.counts.readBytes += readBytes;
    return true;
  }
  let isWhole = false;
  let file: FileSource | null = null;
  try {
    file = new FileSource(placeOf(context.source, unit));
    const budget = new UnpackingBudget(file.size);
    await new Reading(context, budget, share).readAsset(
      { ...found, size: file.size },
      { bytes: file, file: null },
      1,
    );
    isWhole = file.signature() === unit.signature;
    if (!isWhole && isFirst) {
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
    if (isFirst) {
      context.counts.files++;
      await context.recorder.addUnreadable(found, reason);
    }
  } finally {
    file?.close();
    context.counts.readBytes += readBytes;
  }
  // Where threads share it, it is done when all of them are.
  if (share.of === 1) context.recorder.addSource(unit, isWhole);
  return isWhole;
}

function placeOf(source: string, { path, rawPath }: SourceFile): string | Buffer {
  if (rawPath) return Buffer.concat([Buffer.from(`${source}/`), Buffer.from(rawPath, 'hex')]);
  return path === '' ? source : join(source, path);
}

/** A source's own failing: what it costs is that file. A full disk or a lost database costs the job. */
function isReadFailure(error: unknown): boolean {
  return ['ENOENT', 'EACCES', 'EPERM', 'EIO', 'EISDIR', 'ELOOP', 'ENAMETOOLONG', 'ESTALE'].includes(
    codeOf(error),
  );
}

/** Opens a container that is in the store already, by its sheet: what comes out of it is recorded, and not itself. */
export async function readStored(context: UnitContext, found: FoundAsset, bytes: ByteSource): Promise<void> {
  await new Reading(context, new UnpackingBudget(bytes.size), whole).openBySheet(found, bytes, 1);
}

/** The reading of one unit, with the limits that hold for all that is in it. */
class Reading {
  private readonly context: UnitContext;
  private readonly budget: UnpackingBudget;
  private readonly share: Share;

  constructor(context: UnitContext, budget: UnpackingBudget, share: Share) {
    this.context = context;
    this.budget = budget;
    this.share = share;
  }

  /** @param outer what it came out of */
  async readAsset(
    found: FoundAsset,
    unpacked: Unpacked,
    depth: number,
    outer: OpenContainer | null = null,
  ): Promise<void> {
    const { context } = this;
    const { bytes } = unpacked;
    // Threads share what lies outermost; it is read by bytes and not by depth what comes out of it.
    const share = depth === 1 ? this.share : whole;
    const format = containerOf((offset, length) => bytes.read(offset, length), found.path);
    if (format && (await this.readContainer(found, bytes, format, depth, share))) return;
    if (share.index > 0) return;
    if (context.unlocking?.isWithin(found.path) === false) return;
    if (context.choice.isLeftOut(found.path)) {
      leaveOut({ context }, bytes.size);
      return;
    }
    countLeaf(context, found);
    await this.keep(found, unpacked);
    await this.openBySheet(found, bytes, depth, outer);
  }

  /** A container of the game’s own is kept as a file, so that another sheet can open it, and what is in it besides. */
  async openBySheet(
    found: FoundAsset,
    bytes: ByteSource,
    depth: number,
    outer: OpenContainer | null = null,
  ): Promise<void> {
    const { context, budget } = this;
    const sheet = sheetFor(context, found.path);
    if (!sheet || !context.choice.isOpened(found.path)) return;
    try {
      if (depth > maximumDepth) throw new ContainerError(`it lies more than ${maximumDepth} archives deep`);
      const readInner: OpenContainer['readInner'] = (inner, unpacked) =>
        this.readAsset(inner, unpacked, depth + 1);
      const opened = { context, found, source: bytes, budget, depth, share: whole, readInner };
      await readBySheet(opened, sheet, outer);
    } catch (error) {
      if (!(error instanceof ContainerError)) throw error;
      const reason = `the archive was not opened: ${error.message}`;
      // A key may be what is missing: whoever has it is asked for it.
      context.recorder.addProblem({ path: found.path, unit: found.unit, reason, locked: sheet.usesKeyring });
    }
  }

  /** @returns whether nothing is left to do: false for what is to be kept as a leaf */
  private async readContainer(
    found: FoundAsset,
    bytes: ByteSource,
    format: ContainerFormat,
    depth: number,
    share: Share,
  ): Promise<boolean> {
    const { context, budget } = this;
    const isPlaced = containerAccess[format] === 'random';
    if (!isPlaced && share.index > 0) return true;
    if (!context.choice.isOpened(found.path)) {
      if (share.index === 0) leaveOut({ context }, bytes.size);
      return true;
    }
    try {
      if (depth > maximumDepth) throw new ContainerError(`it lies more than ${maximumDepth} archives deep`);
      const packedHash = isPlaced || depth > 1 ? null : hashSource(bytes);
      if (packedHash && context.unlocking === null && context.recorder.skipSame(found, packedHash))
        return true;
      const container: OpenContainer = {
        context,
        found,
        source: bytes,
        budget,
        depth,
        share: isPlaced ? share : whole,
        readInner: (inner, unpacked) => this.readAsset(inner, unpacked, depth + 1, container),
      };
      const digest = await this.readEntries(container, format);
      if (share.index > 0) return true;
      const row = { ...found, role: role.container, format, byExtension: false };
      await context.recorder.addLarge(packedHash ? { ...row, packedHash } : row, digest, null);
      return true;
    } catch (error) {
      if (!(error instanceof ContainerError)) throw error;
      if (share.index > 0) return true;
      if (error instanceof LockedError) {
        countLeaf(context, found);
        await context.recorder.addUnreadable(
          { ...found, format, packedHash: hashSource(bytes) },
          error.message,
          true,
        );
        return true;
      }
      context.recorder.addProblem({
        path: found.path,
        unit: found.unit,
        reason: `the archive was not opened: ${error.message}`,
        locked: false,
      });
      return false;
    }
  }

  private async readEntries(container: OpenContainer, format: ContainerFormat): Promise<Buffer> {
    const { source: bytes } = container;
    if (format === 'zip') return readZip(container);
    if (isPlacedFormat(format)) return readPlaced(container, format);
    // 7zz wants a file of its own to read from.
    if (bytes.path !== null || (format !== '7z' && format !== 'udf')) return readSolid(container, format);
    const copy = new SpillFile(this.context.temporary);
    try {
      for (let at = 0; at < bytes.size; at += bufferBytes) copy.write(bytes.read(at, bufferBytes));
      const file = new FileSource(copy.end().path);
      try {
        return await readSolid({ ...container, source: file }, format);
      } finally {
        file.close();
      }
    } finally {
      copy.remove();
    }
  }

  /** Keeps a leaf: in a pack, or in a file of its own where it is large and new. */
  private async keep(asset: FoundAsset, { bytes, file }: Unpacked): Promise<void> {
    const { recorder, holeMark, temporary } = this.context;
    const identifyHead = (): ReturnType<typeof identify> => identify(bytes.read(0, headLength), asset.path);
    if (holeMark && hasHole(bytes, holeMark)) {
      await recorder.addUnreadable(asset, 'parts of it could not be read from the device');
      return;
    }
    if (bytes.size <= largeContentBytes) {
      await recorder.addSmall(asset, bytes.read(0, bytes.size), identifyHead);
      return;
    }
    asset = { ...asset, ...identifyHead() };
    if (file) {
      await recorder.addLarge(asset, file.hash, (await recorder.has(file.hash)) ? null : file.path);
      return;
    }
    // Where the build before has as much at this path, it is likely the same: then it need not be written.
    const hash = recorder.hadSize(asset) ? hashSource(bytes) : null;
    if (hash && (await recorder.has(hash))) {
      await recorder.addLarge(asset, hash, null);
      return;
    }
    const copy = new SpillFile(temporary);
    try {
      for (let at = 0; at < bytes.size; at += bufferBytes) copy.write(bytes.read(at, bufferBytes));
      const { path, hash: written, size } = copy.end();
      await recorder.addLarge({ ...asset, size }, written, (await recorder.has(written)) ? null : path);
    } finally {
      copy.remove();
    }
  }
}

/** The mark stands at the beginning of every sector that a device did not give: parts of it overlap those that are read. */
function hasHole(bytes: ByteSource, mark: Buffer): boolean {
  for (let at = 0; at < bytes.size; at += bufferBytes) {
    const piece = bytes.read(at, bufferBytes + mark.length);
    if (Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength).includes(mark)) return true;
  }
  return false;
}
