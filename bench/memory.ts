import { readFileSync, readdirSync } from 'node:fs';

/**
 * Watches the memory of a process and of all that it started: proportional set size (proc(5), smaps_rollup), so
 * that shared pages count once.
 */
export class MemoryWatch {
  peakBytes = 0;
  private readonly timer: NodeJS.Timeout;

  /** @param withFamily whether what they started counts, too */
  constructor(rootPids: () => readonly number[], withFamily = true) {
    this.timer = setInterval(() => {
      const pids = withFamily ? familyOf(rootPids()) : rootPids();
      const bytes = pids.reduce((sum, pid) => sum + proportionalBytes(pid), 0);
      this.peakBytes = Math.max(this.peakBytes, bytes);
    }, 200);
  }

  stop(): number {
    clearInterval(this.timer);
    return this.peakBytes;
  }
}

/** Processes and all that they started. */
export function familyOf(roots: readonly number[]): number[] {
  const children = new Map<number, number[]>();
  for (const name of readdirSync('/proc')) {
    const pid = Number(name);
    if (!Number.isInteger(pid)) continue;
    const parent = parentOf(pid);
    children.set(parent, [...(children.get(parent) ?? []), pid]);
  }
  const family = new Set<number>();
  const queue = [...roots];
  for (let pid = queue.pop(); pid !== undefined; pid = queue.pop()) {
    if (family.has(pid)) continue;
    family.add(pid);
    queue.push(...(children.get(pid) ?? []));
  }
  return [...family];
}

function parentOf(pid: number): number {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[1]);
  } catch {
    // It has ended meanwhile.
    return 0;
  }
}

function proportionalBytes(pid: number): number {
  try {
    return Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}
