import type { FormatVersions } from '../../contract/reading.ts';
import type { Choice } from '../../core/containers/choice.ts';
import type { OpenSheet } from '../../core/formats/open-sheet.ts';
import type { UnpackingBudget } from '../../core/containers/unpacking-budget.ts';
import type { ByteSource } from './containers/byte-source.ts';
import type { ArchiveKey } from '../acquire/keyring/archive-key.ts';
import type { IntakeCounts, LockedPath } from './messages.ts';
import type { FoundAsset, Recorder } from './recorder.ts';

/** What a worker knows of the job while it reads its source. */
export interface UnitContext {
  recorder: Recorder;
  source: string;
  temporary: string;
  counts: IntakeCounts;
  choice: Choice;
  /** Keys of the title, the build's own first. */
  keys: readonly ArchiveKey[];
  /** Sheets that describe containers of the game’s own. */
  containerSheets: readonly OpenSheet[];
  /** Versions of them that are tried first. */
  formatVersions: FormatVersions;
  /** Bytes of a file of the source by its name from another one; null where it has none there. */
  sister: (path: string, name: string) => Promise<Uint8Array | null>;
  /** Folder within an archive that is itself the source: what lies in it is the build. Empty for all of it. */
  contentRoot: string;
  /** Bytes that stand for what a device did not give; null where the source has no such holes. */
  holeMark: Buffer | null;
  /** Only what leads to one of these, which are locked in the build, is read; null for everything. */
  unlocking: LockedPaths | null;
  /** Called between entries of an archive; throws to stop. */
  checkpoint(): Promise<void>;
}

/** Which part of a container to read: the threads of a job share large ones. */
export interface Share {
  index: number;
  of: number;
}

/** Bytes that were unpacked to be read: a file of their own may go into the store as it is. */
export interface Unpacked {
  bytes: ByteSource;
  /** A temporary file with these bytes and their BLAKE3. */
  file: { path: string; hash: Buffer } | null;
}

/** A container that is being read. */
export interface OpenContainer {
  context: UnitContext;
  found: FoundAsset;
  source: ByteSource;
  budget: UnpackingBudget;
  depth: number;
  share: Share;
  /** Unpacks another of its files by its name within it; null where it has none. Set by formats that can be looked into anywhere. */
  another?: ((inner: string) => Uint8Array | null) | undefined;
  /** Reads what came out of it: a leaf, or a container again. */
  readInner(found: FoundAsset, unpacked: Unpacked): Promise<void>;
}

/** The locked paths of a build, and what leads to them. */
export class LockedPaths {
  private readonly paths: ReadonlyMap<string, Uint8Array | null>;
  private readonly ways = new Set<string>();

  constructor(paths: readonly LockedPath[]) {
    this.paths = new Map(paths.map(({ path, packedHash }) => [path, packedHash]));
    for (const { path } of paths) {
      for (let at = path.indexOf('!/'); at >= 0; at = path.indexOf('!/', at + 1))
        this.ways.add(path.slice(0, at));
    }
  }

  /** Whether the path is locked, or lies in something that was. */
  isWithin(path: string): boolean {
    if (this.paths.has(path)) return true;
    for (let at = path.indexOf('!/'); at >= 0; at = path.indexOf('!/', at + 1))
      if (this.paths.has(path.slice(0, at))) return true;
    return false;
  }

  /** Whether packed bytes are not those that were locked at the path: the source has another build by now. */
  isAnother(path: string, packedHash: Buffer): boolean {
    const before = this.paths.get(path);
    return before !== undefined && before !== null && !packedHash.equals(before);
  }

  /** Whether it has to be opened to come to one that is locked. */
  leadsTo(path: string): boolean {
    return this.ways.has(path);
  }
}

export function countLeaf(context: UnitContext, found: FoundAsset): void {
  context.counts.files++;
  context.counts.bytes += found.size ?? 0;
}
