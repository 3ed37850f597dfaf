import { readFileSync } from 'node:fs';

/**
 * Names a process so that a later one with the same number is not taken for it: number and start time in clock
 * ticks (proc(5), field 22 of /proc/PID/stat).
 */
export function processMark(pid: number = process.pid): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    // A zombie has ended already and only waits to be asked for.
    return fields[0] === 'Z' ? null : `${pid}-${fields[19] ?? '0'}`;
  } catch {
    // No such process: that is the answer.
    return null;
  }
}

export function isAlive(mark: string): boolean {
  return processMark(Number.parseInt(mark, 10)) === mark;
}
