import type { DatabaseAddress } from '../database/pool.ts';

/** A file of the source: the unit of work, of progress and of resuming. */
export interface SourceFile {
  /** Relative to the source, parts parted by `/`; empty where the source is itself an archive. */
  path: string;
  size: number;
  /** Its state when it was looked at. See `signatureOf`. */
  signature: string;
  isSettled: boolean;
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
}

/** The memory of a KnownBuild, which all threads of a job share. */
export interface KnownMemory {
  contents: SharedArrayBuffer;
  paths: SharedArrayBuffer;
  sources: SharedArrayBuffer;
  met: SharedArrayBuffer;
  isBase: boolean;
}

/**
 * What the coordinator tells an intake worker: `walk` at any time, `begin` and last `finish` for each job. After that it
 * reads facts, until the next job begins.
 */
export type ToIntakeWorker =
  | { type: 'walk'; source: string }
  | { type: 'begin'; known: KnownMemory; jobId: number; source: string }
  | { type: 'take'; units: SourceFile[] }
  | { type: 'note'; links: SourceLink[]; problems: SourceProblem[] }
  | { type: 'finish' };

/** What an intake worker tells the coordinator. */
export type FromIntakeWorker =
  | { type: 'found'; files: SourceFile[]; links: SourceLink[]; problems: SourceProblem[] }
  | { type: 'walked' }
  | { type: 'progress'; counts: IntakeCounts }
  | { type: 'taken'; counts: IntakeCounts }
  /** All is gathered; what was stored is safe from a power cut once it is `sealed`. */
  | { type: 'finished' }
  | { type: 'sealed' }
  | { type: 'failed'; message: string };
