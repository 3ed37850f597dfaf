import type { DatabaseAddress } from '../database/pool.ts';

/** A file of the source: the unit of work, of progress and of resuming. */
export interface SourceFile {
  /** Relative to the source, parts parted by `/`; empty where the source is itself an archive. */
  path: string;
  size: number;
  modifiedMs: number;
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
  jobId: number;
  /** Absolute path of the source folder or archive. */
  source: string;
}

export interface IntakeCounts {
  files: number;
  bytes: number;
  /** Bytes read from the source so far, for the speed; archives count by their packed size. */
  readBytes: number;
}

/** Hashes of contents, and what is known of paths, in the build before: for a quick answer. See KnownRecords. */
export interface Known {
  contents: SharedArrayBuffer;
  paths: SharedArrayBuffer;
}

/** What the coordinator tells an intake worker: `begin` first, and `finish` last, after which it reads facts. */
export type ToIntakeWorker =
  | { type: 'begin'; known: Known }
  | { type: 'walk' }
  | { type: 'take'; units: SourceFile[] }
  | { type: 'finish' };

/** What an intake worker tells the coordinator. */
export type FromIntakeWorker =
  | { type: 'found'; files: SourceFile[]; links: SourceLink[]; problems: SourceProblem[] }
  | { type: 'walked' }
  | { type: 'progress'; counts: IntakeCounts }
  | { type: 'taken'; counts: IntakeCounts }
  | { type: 'finished' }
  | { type: 'failed'; message: string };
