import { rmSync, statSync, utimesSync } from 'node:fs';
import { filesBelow } from './stored-files.ts';

/** What was used so lately is left alone, whatever it takes: somebody may be reading it. */
const restMs = 10 * 60_000;
const trimmedEveryBytes = 256 * 1024 ** 2;

/** Copies of remote files on this machine: what was not used for the longest time goes first, once they are too many. */
export class LocalCache {
  private readonly folders: readonly string[];
  private readonly mostBytes: number;
  private addedBytes = trimmedEveryBytes;

  constructor(folders: readonly string[], mostBytes: number) {
    this.folders = folders;
    this.mostBytes = mostBytes;
  }

  /** Whether a copy is there; it counts as used now. */
  has(file: string, now = new Date()): boolean {
    try {
      utimesSync(file, now, now);
      return true;
    } catch {
      // It was never here, or has gone.
      return false;
    }
  }

  /** To be told of each new copy. */
  added(bytes: number): void {
    this.addedBytes += bytes;
    if (this.addedBytes < trimmedEveryBytes) return;
    this.addedBytes = 0;
    this.trim();
  }

  /** Takes copies away until they are few enough. @returns bytes that were freed */
  trim(nowMs = Date.now()): number {
    const files = this.folders
      .flatMap(filesBelow)
      .flatMap((file) => {
        const stat = statSync(file, { throwIfNoEntry: false });
        return stat ? [{ file, bytes: stat.size, usedMs: stat.mtimeMs }] : [];
      })
      .sort((a, b) => a.usedMs - b.usedMs);
    let left = files.reduce((sum, { bytes }) => sum + bytes, 0);
    let freed = 0;
    for (const { file, bytes, usedMs } of files) {
      if (left <= this.mostBytes || nowMs - usedMs < restMs) break;
      rmSync(file, { force: true });
      left -= bytes;
      freed += bytes;
    }
    return freed;
  }
}
