import { formats } from '../../core/kinds/formats.ts';
import type { Pool } from '../database/pool.ts';
import { change, select, selectOne } from '../database/rows.ts';
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
 * A record's value, as the database puts it together: packed hash, hash, digest of a link's target, size (64 bits, big
 * endian, all ones for none), role, manner, number of the format from 1; then the slot of the unit's own record.
 */
const packedAt = 0;
const hashAt = 32;
const targetAt = 64;
const sizeAt = 80;
const roleAt = 88;
const mannerAt = 89;
const formatAt = 90;
const unitAt = 91;
const valueBytes = 95;
const digestBytes = 16;

const unmet = 0;
const metAsItWas = 1;
const metChanged = 2;
/** On a unit's own record: all that came out of it is as it was. */
const skipped = 3;

const formatNumbers = new Map<string, number>(formats.map(({ name }, index) => [name, index + 1]));
const nothing = Buffer.alloc(32);
const noDigest = nothing.subarray(0, 16);
const noSize = 2n ** 64n - 1n;

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
    if (slot < 0 || hangsOnOthers(this.paths.valueAt(slot)[formatAt]) || this.again.has(digest)) return false;
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

  /** The content at a path that was met as it was; null where it was not. */
  unchangedContent(digest: Buffer): Buffer | null {
    return this.unchangedState(digest)?.hash ?? null;
  }

  /** The same, with its size. */
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
      !hangsOnOthers(value[formatAt]) &&
      value[roleAt] === state.role &&
      value[formatAt] === (formatNumbers.get(state.format) ?? 0) &&
      value[mannerAt] === (state.byExtension ? 1 : 0) &&
      value.readBigUInt64BE(sizeAt) === (state.size === null ? noSize : BigInt(state.size)) &&
      value.readInt32LE(unitAt) === this.paths.slotOf(state.unit) &&
      (state.hash ?? nothing).equals(value.subarray(hashAt, hashAt + 32)) &&
      (state.target ?? noDigest).equals(value.subarray(targetAt, targetAt + 16)) &&
      (state.packedHash ?? nothing).equals(value.subarray(packedAt, packedAt + 32))
    );
  }
}

/** What such a content is depends on files that it names: it is looked at in every build. */
function hangsOnOthers(format: number | undefined): boolean {
  return formats[(format ?? 0) - 1]?.name === 'gltf';
}

function contentOf(value: Buffer): KnownContent | null {
  if (value[roleAt] !== role.file || value.readBigUInt64LE(hashAt) === 0n) return null;
  return {
    hash: Buffer.from(value.subarray(hashAt, hashAt + 32)),
    format: formats[(value[formatAt] ?? 0) - 1]?.name ?? 'binary',
    byExtension: value[mannerAt] === 1,
  };
}

/** A state as it comes: the path's digest, then its value, with the unit's digest in the place of its slot. */
const stateBytes = digestBytes + unitAt + digestBytes;
const sourceBytes = 2 * digestBytes;

/** Many records to a row: a row and field each took ten times as long. */
type Packed = { records: Buffer | null }[];

/** Records that one row holds, about. */
const recordsPerRow = 20_000;

async function loadStates(database: Pool, channelId: number): Promise<Packed> {
  const isOpen = 's.channel_id = ? AND s.last_sequence = ?';
  const total = await selectOne<{ count: number }>(
    database,
    `SELECT COUNT(*) AS count FROM asset_spans s WHERE ${isOpen}`,
    [channelId, openEnd],
  );
  // A content that the store has lost counts as unknown, so that it is stored again.
  return loadPacked(
    database,
    `SELECT GROUP_CONCAT(CONCAT(s.path_digest, COALESCE(s.packed_hash, ?), IF(l.hash IS NULL, COALESCE(s.hash, ?), ?),
         COALESCE(s.target_digest, ?), UNHEX(LPAD(HEX(COALESCE(s.size, ${noSize})), 16, '0')),
         UNHEX(LPAD(HEX(s.role * 65536 + s.by_extension * 256 + FIELD(s.format, ?)), 6, '0')), s.unit_digest)
         SEPARATOR '') AS records
       FROM asset_spans s LEFT JOIN lost_contents l ON l.hash = s.hash
      WHERE ${isOpen} AND s.path_digest BETWEEN ? AND ?`,
    [nothing, nothing, nothing, noDigest, formats.map(({ name }) => name), channelId, openEnd],
    total?.count ?? 0,
  );
}

async function loadSources(database: Pool, channelId: number): Promise<Packed> {
  const total = await selectOne<{ count: number }>(
    database,
    'SELECT COUNT(*) AS count FROM source_files WHERE channel_id = ?',
    [channelId],
  );
  return loadPacked(
    database,
    `SELECT GROUP_CONCAT(CONCAT(f.path_digest, f.signature) SEPARATOR '') AS records FROM source_files f
      WHERE f.channel_id = ? AND f.path_digest BETWEEN ? AND ?`,
    [channelId],
    total?.count ?? 0,
  );
}

/** Files of the source that are read even if they are the same: where something could not be read, or has been lost. */
async function loadUnitsToRead(
  database: Pool,
  channelId: number,
  buildId: number,
): Promise<{ digest: Buffer }[]> {
  return select(
    database,
    `SELECT q.unit_digest AS digest FROM problems q WHERE q.build_id = ?
      UNION SELECT s.unit_digest FROM lost_contents l JOIN asset_spans s ON s.hash = l.hash AND s.channel_id = ?
        WHERE s.last_sequence = ?`,
    [buildId, channelId, openEnd],
  );
}

/** Asks for one range of digests after the other: grouping them in one question made the database sort all records. */
async function loadPacked(
  database: Pool,
  sql: string,
  values: NonNullable<Parameters<typeof select>[2]>,
  total: number,
): Promise<Packed> {
  const connection = await database.getConnection();
  const packed: Packed = [];
  try {
    await change(connection, 'SET SESSION group_concat_max_len = 1073741824');
    const ranges = Math.min(256, Math.ceil(total / recordsPerRow));
    for (let range = 0; range < ranges; range++) {
      const low = Buffer.alloc(digestBytes);
      low[0] = Math.ceil((range * 256) / ranges);
      const high = Buffer.alloc(digestBytes, 0xff);
      high[0] = Math.ceil(((range + 1) * 256) / ranges) - 1;
      packed.push(...(await select<Packed[number]>(connection, sql, [...values, low, high])));
    }
    return packed;
  } finally {
    connection.release();
  }
}

function count(packed: Packed, recordBytes: number): number {
  return packed.reduce((sum, { records: bytes }) => sum + (bytes?.length ?? 0) / recordBytes, 0);
}

function* records(packed: Packed, recordBytes: number): Generator<{ bytes: Buffer; at: number }> {
  for (const { records: bytes } of packed) {
    if (!bytes) continue;
    for (let at = 0; at < bytes.length; at += recordBytes) yield { bytes, at };
  }
}
