import type { FormatVersions } from '../../contract/reading.ts';
import type { ChoiceGlobs } from '../../core/containers/choice.ts';
import type { ArchiveKey } from '../acquire/keyring/archive-key.ts';
import type { DatabaseAddress } from '../platform/database/pool.ts';
import type { Share } from './unit-context.ts';

/** A file of the source: the unit of work, of progress and of resuming. */
export interface SourceFile {
  /** Relative to the source, parts parted by `/`; empty where the source is itself an archive. */
  path: string;
  size: number;
  /** Its state when it was looked at. See `signatureOf`. */
  signature: string;
  isSettled: boolean;
  /** The path's bytes in hex, where they are not UTF-8. */
  rawPath?: string;
  /** The part of a large container that is to be read; all of it where nothing is said. */
  share?: Share;
}

/** What the walk passed over, since it is not wanted. */
export interface LeftOut {
  files: number;
  bytes: number;
}

export interface SourceLink {
  path: string;
  target: string;
}

export interface SourceProblem {
  path: string;
  reason: string;
}

export interface IntakeWorkerData {
  address: DatabaseAddress;
  store: string;
  temporary: string;
}

export interface IntakeCounts {
  files: number;
  bytes: number;
  /** Bytes of the source that are done with, for the speed; archives count by their packed size. */
  readBytes: number;
  leftOutFiles: number;
  leftOutBytes: number;
}

export const noCounts: Readonly<IntakeCounts> = {
  files: 0,
  bytes: 0,
  readBytes: 0,
  leftOutFiles: 0,
  leftOutBytes: 0,
};

/** A path that is locked in a build, with the hash of its packed bytes where it is known. */
export interface LockedPath {
  path: string;
  packedHash: Uint8Array | null;
}

/** What a worker needs to know of a job in order to read for it. */
export interface IntakeJob {
  jobId: number;
  /** Absolute path of the source folder or archive. */
  source: string;
  choice: ChoiceGlobs;
  keys: readonly ArchiveKey[];
  /** Texts of the title’s format sheets that describe containers. */
  containerSheets: readonly string[];
  formatVersions: FormatVersions;
  contentRoot: string;
  holeMark: Uint8Array | null;
  /** Paths that are locked, where nothing else is to be read. */
  unlocking: readonly LockedPath[] | null;
}

/** The memory of a KnownBuild, which all threads of a job share. */
export interface KnownMemory {
  contents: SharedArrayBuffer;
  paths: SharedArrayBuffer;
  sources: SharedArrayBuffer;
  /** Files of the source to read even if they are the same. */
  again: SharedArrayBuffer;
  met: SharedArrayBuffer;
  isBase: boolean;
  isSameChoice: boolean;
}

/**
 * What the coordinator tells an intake worker: `walk` at any time, `begin` and last `finish` for each job. After that it
 * reads facts, until the next job begins.
 */
export type ToIntakeWorker =
  | { type: 'walk'; source: string; choice: ChoiceGlobs }
  | { type: 'begin'; known: KnownMemory; job: IntakeJob }
  | { type: 'take'; units: SourceFile[] }
  | { type: 'note'; links: SourceLink[]; problems: SourceProblem[] }
  /** All shares of this file have been read. */
  | { type: 'whole'; unit: SourceFile; isWhole: boolean }
  | { type: 'finish' };

/** A share of a file of the source that has been read, and whether the file stayed the same meanwhile. */
export interface ReadShare {
  path: string;
  isWhole: boolean;
}

/** What an intake worker tells the coordinator. */
export type FromIntakeWorker =
  | { type: 'found'; files: SourceFile[]; links: SourceLink[]; problems: SourceProblem[]; leftOut: LeftOut }
  | { type: 'walked' }
  | { type: 'progress'; counts: IntakeCounts }
  | { type: 'taken'; counts: IntakeCounts; shares: ReadShare[] }
  /** All is gathered; what was stored is safe from a power cut once it is `sealed`. */
  | { type: 'finished' }
  | { type: 'sealed' }
  | { type: 'failed'; message: string };
