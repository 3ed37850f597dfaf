import type { Progress } from '../../contract/work.ts';

const windowMs = 10_000;

/** Turns counts into speed and time left. The speed is that of the last ten seconds. */
export class ProgressMeter {
  phase: Progress['phase'] = 'finding files';
  totalFiles: number | null = null;
  totalBytes: number | null = null;
  private readonly now: () => number;
  private readonly startMs: number;
  private marks: { ms: number; bytes: number; files: number }[] = [];

  constructor(now: () => number = Date.now) {
    this.now = now;
    this.startMs = now();
  }

  /** Begins a phase that counts from zero. */
  begin(phase: Progress['phase'], totalFiles: number | null, totalBytes: number | null): void {
    this.phase = phase;
    this.totalFiles = totalFiles;
    this.totalBytes = totalBytes;
    this.marks = [];
  }

  measure(files: number, bytes: number): Progress {
    const ms = this.now();
    this.marks.push({ ms, bytes, files });
    while (this.marks.length > 2 && ms - (this.marks[0]?.ms ?? ms) > windowMs) this.marks.shift();
    const first = this.marks[0] ?? { ms, bytes, files };
    const seconds = (ms - first.ms) / 1000;
    const bytesPerSecond = seconds > 0 ? Math.max(0, (bytes - first.bytes) / seconds) : 0;
    const filesPerSecond = seconds > 0 ? Math.max(0, (files - first.files) / seconds) : 0;
    const left = [
      this.totalBytes !== null && bytesPerSecond > 0 ? (this.totalBytes - bytes) / bytesPerSecond : 0,
      this.totalFiles !== null && filesPerSecond > 0 ? (this.totalFiles - files) / filesPerSecond : 0,
    ];
    const isKnown =
      (this.totalBytes !== null || this.totalFiles !== null) && (bytesPerSecond > 0 || filesPerSecond > 0);
    return {
      phase: this.phase,
      files,
      totalFiles: this.totalFiles,
      bytes,
      totalBytes: this.totalBytes,
      bytesPerSecond: Math.round(bytesPerSecond),
      secondsLeft: isKnown ? Math.round(Math.max(0, ...left) * 10) / 10 : null,
      seconds: Math.round((ms - this.startMs) / 100) / 10,
    };
  }
}
