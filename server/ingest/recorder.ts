import type { ContentWriter } from '../store/content-store.ts';
import { contentsTable } from '../store/contents-table.ts';
import { bulkLoad } from '../platform/database/bulk-load.ts';
import type { SourceFile } from './messages.ts';
import type { Connection } from '../platform/database/pool.ts';
import { change, select, type Value } from '../platform/database/rows.ts';
import { hashOf, pathDigest } from '../store/hash.ts';
import { role, type Role } from '../acquire/builds/spans.ts';
import { unsettled } from './containers/file-signature.ts';
import { assetsTable, pathsTable, problemsTable, sourcesTable } from './intake-tables.ts';
import type { KnownBuild } from './known-build.ts';
import { largeContentBytes } from '../store/large-content.ts';

export interface FoundAsset {
  path: string;
  /** The source's file that it came out of. */
  unit: string;
  role: Role;
  format: string;
  byExtension: boolean;
  size: number | null;
  /** BLAKE3 of the compressed bytes that it was unpacked from, with their method and checksum. */
  packedHash?: Buffer;
}

interface PendingAsset extends FoundAsset {
  digest: Buffer;
  unitDigest: Buffer;
  hash: Buffer | null;
  target: string | null;
}

export interface FoundProblem {
  path: string;
  unit: string;
  reason: string;
  locked: boolean;
}

/** A large content that lies in the store, and has no row yet. */
interface LargeFile {
  hash: Buffer;
  size: number;
}

/** Stands for the unit of a path that is itself one, with all that came out of it as it was. */
export const skippedUnit = Buffer.alloc(16);

const flushBytes = 8 * 1024 * 1024;
const flushRows = 4000;

/**
 * Gathers what a worker found and brings it in by the batch: contents that the store lacks into the worker's
 * pack, then all rows in one transaction. Asks the database which contents are known, so that any number of
 * workers and processes may do the same at once.
 */
export class Recorder {
  private readonly connection: Connection;
  private readonly writer: ContentWriter;
  private readonly jobId: number;
  private readonly known: KnownBuild;
  private unitMemo = { path: '', digest: pathDigest('') };
  private assets: PendingAsset[] = [];
  /** Pairs of path digest and unit digest. */
  private met: Buffer[] = [];
  private sources: Value[][] = [];
  private problems: FoundProblem[] = [];
  private small = new Map<string, { hash: Buffer; bytes: Uint8Array }>();
  private large: LargeFile[] = [];
  private pendingBytes = 0;

  constructor(connection: Connection, writer: ContentWriter, jobId: number, known: KnownBuild) {
    this.connection = connection;
    this.writer = writer;
    this.jobId = jobId;
    this.known = known;
  }

  /**
   * @param bytes the whole content; copied where it is new
   * @param identify asked where the build before had something else at this path
   */
  async addSmall(
    asset: FoundAsset,
    bytes: Uint8Array,
    identify: () => Pick<FoundAsset, 'format' | 'byExtension'>,
  ): Promise<void> {
    if (bytes.length > largeContentBytes)
      throw new RangeError('addSmall: this content needs a file of its own');
    const hash = hashOf(bytes);
    const digest = pathDigest(asset.path);
    const known = this.known.recallContent(digest, hash);
    if (known) {
      await this.push({ ...asset, ...known, target: null }, digest);
      return;
    }
    if (!this.known.hasContent(hash)) {
      const key = hash.toString('latin1');
      if (!this.small.has(key)) {
        this.small.set(key, { hash, bytes: Buffer.from(bytes) });
        this.pendingBytes += bytes.length;
      }
    }
    await this.push({ ...asset, ...identify(), hash, target: null }, digest);
  }

  /** Adds an asset whose packed bytes are those of the build before. @returns false where they are not */
  async addUnchanged(asset: FoundAsset, packedHash: Buffer): Promise<boolean> {
    const digest = pathDigest(asset.path);
    const known = this.known.recallPacked(digest, packedHash);
    if (!known) return false;
    await this.push({ ...asset, ...known, packedHash, target: null }, digest);
    return true;
  }

  /** Passes over a file that is still the one that the build before was read from. @returns whether it is */
  skipUnchanged({ path, signature, isSettled }: SourceFile): boolean {
    const digest = pathDigest(path);
    if (!isSettled || !this.known.isSameSource(digest, signature)) return false;
    this.known.skip(digest);
    return true;
  }

  /** Says that all that came out of a file of the source has been added. */
  addSource({ path, signature, isSettled }: SourceFile, isWhole: boolean): void {
    const state = isWhole && isSettled ? signature : unsettled;
    this.sources.push([this.jobId, pathDigest(path), Buffer.from(state, 'hex')]);
  }

  /** @param file where the content was written to; null where the store is known to have it */
  async addLarge(asset: FoundAsset, hash: Buffer, file: string | null): Promise<void> {
    if (file !== null) {
      this.writer.keepFile(file, hash);
      this.large.push({ hash, size: asset.size ?? 0 });
    }
    await this.push({ ...asset, hash, target: null });
  }

  /** Adds an asset with the content of another one of the same build, such as a hard link. */
  async addCopy(asset: FoundAsset, of: string): Promise<void> {
    await this.flush();
    const digest = pathDigest(of);
    const [row] = await select<{
      hash: Buffer | null;
      size: number | null;
      format: string;
      byExtension: number;
    }>(
      this.connection,
      `SELECT hash, size, format, by_extension AS byExtension FROM intake_assets
        WHERE job_id = ? AND path_digest = ? AND role = ?`,
      [this.jobId, digest, role.file],
    );
    const known = row?.hash
      ? { ...row, hash: row.hash, byExtension: row.byExtension === 1 }
      : this.known.unchangedState(digest);
    if (!known) {
      await this.addUnreadable(asset, `it is a hard link to ${of}, which could not be read`);
      return;
    }
    await this.push({ ...asset, ...known, target: null });
  }

  /** Passes over a container of the source whose bytes are those of the build before. @returns whether they are */
  skipSame({ path }: FoundAsset, packedHash: Buffer): boolean {
    const digest = pathDigest(path);
    if (!this.known.isSameContainer(digest, packedHash)) return false;
    this.known.skip(digest);
    this.met.push(digest, skippedUnit);
    return true;
  }

  /** Whether the build before has a content of this size at the path: it may be the same one. */
  hadSize({ path, size }: FoundAsset): boolean {
    return size !== null && this.known.sizeAt(pathDigest(path)) === size;
  }

  async addUnreadable(asset: FoundAsset, reason: string, locked = false): Promise<void> {
    this.problems.push({ path: asset.path, unit: asset.unit, reason, locked });
    await this.push({ ...asset, hash: null, target: null });
  }

  async addLink(path: string, unit: string, target: string): Promise<void> {
    const size = null;
    await this.push({
      path,
      unit,
      role: role.link,
      format: 'binary',
      byExtension: false,
      size,
      hash: null,
      target,
    });
  }

  addProblem(problem: FoundProblem): void {
    this.problems.push(problem);
  }

  async has(hash: Buffer): Promise<boolean> {
    return this.known.hasContent(hash) || (await this.stored([hash])).size > 0;
  }

  async flush(): Promise<void> {
    const { assets, problems, large, met, sources } = this;
    const small = [...this.small.values()];
    this.assets = [];
    this.problems = [];
    this.met = [];
    this.sources = [];
    this.large = [];
    this.small = new Map();
    this.pendingBytes = 0;
    if (assets.length + problems.length + met.length + sources.length === 0) return;

    const known = await this.stored([...small, ...large].map(({ hash }) => hash));
    const fresh = small.filter(({ hash }) => !known.has(hash.toString('latin1')));
    const newLarge = new Map(large.map((file) => [file.hash.toString('latin1'), file]));
    for (const key of newLarge.keys()) if (known.has(key)) newLarge.delete(key);
    const rows = [
      ...(await this.writer.append(fresh, this.jobId)),
      ...(await this.writer.sync([...newLarge.values()], this.jobId)),
    ];
    const digests = new Map<string, Value[]>();
    const keep = (digest: Buffer, path: string): Buffer => {
      if (!this.known.hasPath(digest)) digests.set(digest.toString('latin1'), [digest, path]);
      return digest;
    };
    const assetRows = assets.map((asset): Value[] => [
      this.jobId,
      keep(asset.digest, asset.path),
      keep(asset.unitDigest, asset.unit),
      asset.role,
      asset.format,
      asset.byExtension ? 1 : 0,
      asset.size,
      asset.hash,
      asset.target === null ? null : keep(pathDigest(asset.target), asset.target),
      asset.packedHash ?? null,
    ]);
    const problemRows = problems.map((problem): Value[] => [
      this.jobId,
      keep(pathDigest(problem.path), problem.path),
      keep(pathDigest(problem.unit), problem.unit),
      problem.reason,
      problem.locked ? 1 : 0,
    ]);
    await this.write(rows, [...digests.values()], assetRows, problemRows, sources, met);
  }

  private async push(
    asset: Omit<PendingAsset, 'digest' | 'unitDigest'>,
    digest = pathDigest(asset.path),
  ): Promise<void> {
    if (this.unitMemo.path !== asset.unit)
      this.unitMemo = { path: asset.unit, digest: pathDigest(asset.unit) };
    const unitDigest = this.unitMemo.digest;
    const isAsItWas = this.known.meet(digest, {
      ...asset,
      target: asset.target === null ? null : pathDigest(asset.target),
      packedHash: asset.packedHash ?? null,
      unit: unitDigest,
    });
    if (isAsItWas) this.met.push(digest, unitDigest);
    else this.assets.push({ ...asset, digest, unitDigest });
    if (this.pendingBytes >= flushBytes || this.assets.length + this.met.length >= flushRows)
      await this.flush();
  }

  private async stored(hashes: readonly Buffer[]): Promise<Set<string>> {
    if (hashes.length === 0) return new Set();
    const rows = await select<{ hash: Buffer }>(
      this.connection,
      'SELECT hash FROM contents WHERE hash IN (?)',
      [hashes],
    );
    return new Set(rows.map(({ hash }) => hash.toString('latin1')));
  }

  private async write(
    contents: Value[][],
    paths: Value[][],
    assets: Value[][],
    problems: Value[][],
    sources: Value[][],
    met: readonly Buffer[],
  ): Promise<void> {
    // In the order of the keys: workers that load the same rows at once then wait for each other and never in a ring.
    for (const rows of [contents, paths]) rows.sort((a, b) => Buffer.compare(a[0] as Buffer, b[0] as Buffer));
    await this.connection.beginTransaction();
    try {
      await bulkLoad(this.connection, contentsTable, contents);
      await bulkLoad(this.connection, pathsTable, paths);
      await bulkLoad(this.connection, assetsTable, assets);
      await bulkLoad(this.connection, problemsTable, problems);
      await bulkLoad(this.connection, sourcesTable, sources);
      if (met.length > 0) {
        await change(this.connection, 'INSERT INTO intake_met (job_id, pairs) VALUES (?, ?)', [
          this.jobId,
          Buffer.concat(met),
        ]);
      }
      await this.connection.commit();
    } catch (error) {
      await this.connection.rollback();
      throw error;
    }
  }
}
