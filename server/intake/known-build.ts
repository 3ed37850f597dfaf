import { formats } from '../../core/kinds/formats.ts';
import { select, type Queryable } from '../database/rows.ts';
import { KnownRecords } from '../store/known-records.ts';
import type { KnownMemory } from './messages.ts';
import { openEnd, role, type Role } from '../builds/spans.ts';

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

/**
 * A record's value: packed hash, hash, digest of a link's target, size (a double, -1 for none), slot of the unit's own
 * record, role, format, manner.
 */
const packedAt = 0;
const hashAt = 32;
const targetAt = 64;
const sizeAt = 80;
const unitAt = 88;
const roleAt = 92;
const formatAt = 93;
const mannerAt = 94;
const valueBytes = 95;

const unmet = 0;
const metAsItWas = 1;
const metChanged = 2;
/** On a unit's own record: all that came out of it is as it was. */
const skipped = 3;

const formatNumbers = new Map<string, number>(formats.map(({ name }, index) => [name, index]));
const nothing = Buffer.alloc(32);
const noDigest = nothing.subarray(0, 16);

export interface KnownRequest {
  channelId: number;
  /** The channel's newest build; null where there is none. */
  base: { id: number; source: string } | null;
  /** Whether the build to come follows it, so that what is as it was needs no row. */
  isBase: boolean;
  /** Where the build to come is read from. */
  source: string;
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
  private readonly met: Uint8Array;

  constructor(memory: KnownMemory) {
    this.memory = memory;
    this.contents = new KnownRecords(memory.contents, 32);
    this.paths = new KnownRecords(memory.paths, 16, valueBytes);
    this.sources = new KnownRecords(memory.sources, 16, 16);
    this.met = new Uint8Array(memory.met);
  }

  /** @param source of the build to come: files of another source have signatures of their own */
  static async load(
    database: Queryable,
    { channelId, base, isBase, source }: KnownRequest,
  ): Promise<KnownBuild> {
    const isSameSource = isBase && base?.source === source;
    const [states, sources] = await Promise.all([
      base ? loadStates(database, channelId) : [],
      isSameSource ? loadSources(database, channelId, base.id) : [],
    ]);
    const contents = states.flatMap(({ value }) => {
      const hash = value.subarray(hashAt, hashAt + 32);
      return hash.equals(nothing) ? [] : [{ key: hash }];
    });
    const paths = KnownRecords.of(states, 16, valueBytes);
    for (const { key, unit } of states) {
      paths.valueAt(paths.slotOf(key)).writeInt32LE(paths.slotOf(unit), unitAt);
    }
    return new KnownBuild({
      contents: KnownRecords.of(contents, 32).memory,
      paths: paths.memory,
      sources: KnownRecords.of(sources, 16, 16).memory,
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
    if (slot < 0 || hangsOnOthers(this.paths.valueAt(slot)[formatAt])) return false;
    return this.sources.get(digest)?.equals(Buffer.from(signature, 'hex')) ?? false;
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

  /** The content at a path that was met as it was; null where it was not. */
  unchangedContent(digest: Buffer): Buffer | null {
    const slot = this.paths.slotOf(digest);
    if (slot < 0 || !this.isUnchanged(slot)) return null;
    return contentOf(this.paths.valueAt(slot))?.hash ?? null;
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
      counts.bytes += Math.max(0, value.readDoubleLE(sizeAt));
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
      !hangsOnOthers(value[formatAt]) &&
      value[roleAt] === state.role &&
      value[formatAt] === (formatNumbers.get(state.format) ?? 0) &&
      value[mannerAt] === (state.byExtension ? 1 : 0) &&
      value.readDoubleLE(sizeAt) === (state.size ?? -1) &&
      value.readInt32LE(unitAt) === this.paths.slotOf(state.unit) &&
      (state.hash ?? nothing).equals(value.subarray(hashAt, hashAt + 32)) &&
      (state.target ?? noDigest).equals(value.subarray(targetAt, targetAt + 16)) &&
      (state.packedHash ?? nothing).equals(value.subarray(packedAt, packedAt + 32))
    );
  }
}

/** What such a content is depends on files that it names: it is looked at in every build. */
function hangsOnOthers(format: number | undefined): boolean {
  return formats[format ?? 0]?.name === 'gltf';
}

function contentOf(value: Buffer): KnownContent | null {
  if (value[roleAt] !== role.file || value.readBigUInt64LE(hashAt) === 0n) return null;
  return {
    hash: Buffer.from(value.subarray(hashAt, hashAt + 32)),
    format: formats[value[formatAt] ?? 0]?.name ?? 'binary',
    byExtension: value[mannerAt] === 1,
  };
}

interface StateRow {
  /** Digest, packed hash, hash, target and unit in one: a field each took most of the time of loading. */
  record: Buffer;
  size: number | null;
  role: number;
  format: string;
  byExtension: number;
}

async function loadStates(
  database: Queryable,
  channelId: number,
): Promise<{ key: Buffer; value: Buffer; unit: Buffer }[]> {
  // A content that the store has lost counts as unknown, so that it is stored again.
  const rows = await select<StateRow>(
    database,
    `SELECT CONCAT(s.path_digest, COALESCE(s.packed_hash, ?), IF(l.hash IS NULL, COALESCE(s.hash, ?), ?),
         COALESCE(s.target_digest, ?), s.unit_digest) AS record,
       s.size, s.role, s.format, s.by_extension AS byExtension
       FROM asset_spans s LEFT JOIN lost_contents l ON l.hash = s.hash
      WHERE s.channel_id = ? AND s.last_sequence = ?`,
    [nothing, nothing, nothing, noDigest, channelId, openEnd],
  );
  return rows.map(({ record, size, role: what, format, byExtension }) => {
    const value = Buffer.alloc(valueBytes);
    record.copy(value, 0, 16, 16 + sizeAt);
    value.writeDoubleLE(size ?? -1, sizeAt);
    value[roleAt] = what;
    value[formatAt] = formatNumbers.get(format) ?? 0;
    value[mannerAt] = byExtension;
    return { key: record.subarray(0, 16), value, unit: record.subarray(16 + sizeAt) };
  });
}

/** Signatures of the source's files, but for those in which the build before had a problem: they are read again. */
async function loadSources(
  database: Queryable,
  channelId: number,
  buildId: number,
): Promise<{ key: Buffer; value: Buffer }[]> {
  return select(
    database,
    `SELECT f.path_digest AS \`key\`, f.signature AS value FROM source_files f
      WHERE f.channel_id = ? AND f.path_digest NOT IN (SELECT q.unit_digest FROM problems q WHERE q.build_id = ?)`,
    [channelId, buildId],
  );
}
