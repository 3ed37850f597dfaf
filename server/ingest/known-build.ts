import { formats } from '../../core/kinds/formats.ts';
import type { Pool } from '../platform/database/pool.ts';
import { KnownRecords } from '../store/known-records.ts';
import {
  packedAt,
  hashAt,
  targetAt,
  sizeAt,
  roleAt,
  byExtensionAt,
  formatAt,
  unitAt,
  valueBytes,
  digestBytes,
  nothing,
  noDigest,
  noSize,
  stateBytes,
  sourceBytes,
  loadStates,
  loadSources,
  loadUnitsToRead,
  count,
  records,
} from './known-states.ts';
import type { KnownMemory } from './messages.ts';
import { role, type Role } from '../acquire/builds/spans.ts';

/** What lies at a path, as far as a build tells of it. */
export interface PathState {
  role: Role;
  format: string;
  byExtension: boolean;
  size: number | null;
  hash: Buffer | null;
  target: Buffer | null;
  packedHash: Buffer | null;
  /** Digest of the source's file that it came out of. */
  unit: Buffer;
}

export interface KnownContent {
  hash: Buffer;
  format: string;
  byExtension: boolean;
}

const unmet = 0;
const metAsItWas = 1;
const metChanged = 2;
/** On a unit's own record: all that came out of it is as it was. */
const skipped = 3;

const formatNumbers = new Map<string, number>(formats.map(({ name }, index) => [name, index + 1]));
export interface KnownRequest {
  channelId: number;
  /** The channel's newest build; null where there is none. */
  base: { id: number } | null;
  /** Whether the build to come follows it, so that what is as it was needs no row. */
  isBase: boolean;
  /** Whether the build to come is read from where the base was, with the same settings. */
  isSameSource: boolean;
  /** Whether the two leave out the same. */
  isSameChoice: boolean;
}

/**
 * The channel's newest build, in memory that the threads of a job share: what it has at each path, and which of its
 * paths were met again in the build that is coming in. Most of an update is as it was, and costs no more than this.
 *
 * Where it is the base of the new build, paths that are as they were are only marked here: they need no row.
 */
export class KnownBuild {
  readonly memory: KnownMemory;
  private readonly contents: KnownRecords;
  private readonly paths: KnownRecords;
  private readonly sources: KnownRecords;
  private readonly again: KnownRecords;
  private readonly met: Uint8Array;

  constructor(memory: KnownMemory) {
    this.memory = memory;
    this.contents = new KnownRecords(memory.contents, 32);
    this.paths = new KnownRecords(memory.paths, 16, valueBytes);
    this.sources = new KnownRecords(memory.sources, 16, 16);
    this.again = new KnownRecords(memory.again, 16);
    this.met = new Uint8Array(memory.met);
  }

  static async load(database: Pool, request: KnownRequest): Promise<KnownBuild> {
    const { channelId, base, isBase, isSameSource, isSameChoice } = request;
    const [states, sources, again] = await Promise.all([
      base ? loadStates(database, channelId) : [],
      // Files of another source have signatures of their own.
      base && isBase && isSameSource && isSameChoice ? loadSources(database, channelId) : [],
      base ? loadUnitsToRead(database, channelId, base.id) : [],
    ]);
    const contents = KnownRecords.sized(count(states, stateBytes), 32);
    const paths = KnownRecords.sized(count(states, stateBytes), digestBytes, valueBytes);
    for (const { bytes, at } of records(states, stateBytes)) {
      paths.add(bytes, at, bytes, at + digestBytes);
      if (bytes.readBigUInt64LE(at + digestBytes + hashAt) !== 0n)
        contents.add(bytes, at + digestBytes + hashAt);
    }
    for (const { bytes, at } of records(states, stateBytes)) {
      const unit = bytes.subarray(at + digestBytes + unitAt, at + stateBytes);
      paths
        .valueAt(paths.slotOf(bytes.subarray(at, at + digestBytes)))
        .writeInt32LE(paths.slotOf(unit), unitAt);
    }
    const signatures = KnownRecords.sized(count(sources, sourceBytes), digestBytes, digestBytes);
    for (const { bytes, at } of records(sources, sourceBytes))
      signatures.add(bytes, at, bytes, at + digestBytes);
    const unitsToRead = KnownRecords.sized(again.length, digestBytes);
    for (const { digest } of again) unitsToRead.add(digest, 0);
    return new KnownBuild({
      again: unitsToRead.memory,
      isSameChoice,
      contents: contents.memory,
      paths: paths.memory,
      sources: signatures.memory,
      met: new SharedArrayBuffer(paths.slots),
      isBase,
    });
  }

  hasContent(hash: Buffer): boolean {
    return this.contents.has(hash);
  }

  hasPath(digest: Buffer): boolean {
    return this.paths.has(digest);
  }

  /** Whether the source's file is, by its signature, the one that the build was read from, and need not be read. */
  isSameSource(digest: Buffer, signature: string): boolean {
    const slot = this.paths.slotOf(digest);
    if (slot < 0 || this.again.has(digest)) return false;
    return this.sources.get(digest)?.equals(Buffer.from(signature, 'hex')) ?? false;
  }

  /** Whether a container of the source is, by the hash of its bytes, the one that the build has. */
  isSameContainer(digest: Buffer, packedHash: Buffer): boolean {
    const value = this.paths.get(digest);
    return (
      value?.[roleAt] === role.container &&
      this.memory.isBase &&
      this.memory.isSameChoice &&
      !this.again.has(digest) &&
      packedHash.equals(value.subarray(packedAt, packedAt + 32))
    );
  }

  /** The size of the content at a path, in bytes; null where there is none. */
  sizeAt(digest: Buffer): number | null {
    const size = this.paths.get(digest)?.readBigUInt64BE(sizeAt) ?? noSize;
    return size === noSize ? null : Number(size);
  }

  /** The content at a path, when the packed bytes that it comes out of are still these; null otherwise. */
  recallPacked(digest: Buffer, packedHash: Buffer): KnownContent | null {
    const value = this.paths.get(digest);
    return value && packedHash.equals(value.subarray(packedAt, packedAt + 32)) ? contentOf(value) : null;
  }

  /** The same, when the content is still this one. */
  recallContent(digest: Buffer, hash: Buffer): KnownContent | null {
    const value = this.paths.get(digest);
    return value && hash.equals(value.subarray(hashAt, hashAt + 32)) ? contentOf(value) : null;
  }

  /** Remembers that a path was met. @returns whether it is as it was, and needs no row */
  meet(digest: Buffer, state: PathState): boolean {
    const slot = this.paths.slotOf(digest);
    if (slot < 0) return false;
    const isAsItWas = this.memory.isBase && this.isSame(this.paths.valueAt(slot), state);
    this.met[slot] = isAsItWas ? metAsItWas : metChanged;
    return isAsItWas;
  }

  /** Remembers a path that was met before the job was interrupted. */
  meetAgain(digest: Buffer, isAsItWas: boolean): void {
    const slot = this.paths.slotOf(digest);
    if (slot >= 0) this.met[slot] = isAsItWas ? metAsItWas : metChanged;
  }

  /** Remembers that a file of the source, and so all that came out of it, is as it was. */
  skip(unit: Buffer): void {
    const slot = this.paths.slotOf(unit);
    if (slot >= 0) this.met[slot] = skipped;
  }

  /** The content at a path that was met as it was, with its size; null where it was not. */
  unchangedState(digest: Buffer): (KnownContent & { size: number | null }) | null {
    const slot = this.paths.slotOf(digest);
    if (slot < 0 || !this.isUnchanged(slot)) return null;
    const content = contentOf(this.paths.valueAt(slot));
    return content && { ...content, size: this.sizeAt(digest) };
  }

  isUnchangedContainer(digest: Buffer): boolean {
    const slot = this.paths.slotOf(digest);
    return slot >= 0 && this.isUnchanged(slot) && this.paths.valueAt(slot)[roleAt] === role.container;
  }

  /** Digests of the paths that were not met: what the new build has no more. */
  gone(): Buffer[] {
    const gone: Buffer[] = [];
    for (const slot of this.paths.filledSlots()) {
      if (this.met[slot] === unmet && !this.isUnchanged(slot)) gone.push(this.paths.keyAt(slot));
    }
    return gone;
  }

  /** Of the paths that were met as they were: files, containers, bytes of the files. */
  countUnchanged(): { files: number; containers: number; bytes: number } {
    const counts = { files: 0, containers: 0, bytes: 0 };
    for (const slot of this.paths.filledSlots()) {
      if (!this.isUnchanged(slot)) continue;
      const value = this.paths.valueAt(slot);
      if (value[roleAt] === role.container) counts.containers++;
      if (value[roleAt] !== role.file) continue;
      counts.files++;
      const size = value.readBigUInt64BE(sizeAt);
      if (size !== noSize) counts.bytes += Number(size);
    }
    return counts;
  }

  private isUnchanged(slot: number): boolean {
    if (this.met[slot] === metAsItWas || this.met[slot] === skipped) return true;
    const unitSlot = this.paths.valueAt(slot).readInt32LE(unitAt);
    return unitSlot >= 0 && this.met[unitSlot] === skipped;
  }

  private isSame(value: Buffer, state: PathState): boolean {
    return (
      value[roleAt] === state.role &&
      value[formatAt] === (formatNumbers.get(state.format) ?? 0) &&
      value[byExtensionAt] === (state.byExtension ? 1 : 0) &&
      value.readBigUInt64BE(sizeAt) === (state.size === null ? noSize : BigInt(state.size)) &&
      value.readInt32LE(unitAt) === this.paths.slotOf(state.unit) &&
      (state.hash ?? nothing).equals(value.subarray(hashAt, hashAt + 32)) &&
      (state.target ?? noDigest).equals(value.subarray(targetAt, targetAt + 16)) &&
      (state.packedHash ?? nothing).equals(value.subarray(packedAt, packedAt + 32))
    );
  }
}

function contentOf(value: Buffer): KnownContent | null {
  if (value[roleAt] !== role.file || value.readBigUInt64LE(hashAt) === 0n) return null;
  return {
    hash: Buffer.from(value.subarray(hashAt, hashAt + 32)),
    format: formats[(value[formatAt] ?? 0) - 1]?.name ?? 'binary',
    byExtension: value[byExtensionAt] === 1,
  };
}
