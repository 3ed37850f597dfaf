import { readFileSync } from 'node:fs';
import { familyOf } from './memory.ts';

/** Ticks of the system's clock for times of processes (sysconf(3), _SC_CLK_TCK: 100 on Linux). */
const ticksPerSecond = 100;

/** Seconds of processors that processes, what they started, and what of that has ended have used (proc(5), stat). */
export function processorSeconds(roots: readonly number[]): number {
  return familyOf(roots).reduce((sum, pid) => sum + ticksOf(pid), 0) / ticksPerSecond;
}

function ticksOf(pid: number): number {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return [11, 12, 13, 14].reduce((sum, at) => sum + Number(fields[at]), 0);
  } catch {
    // It has ended meanwhile.
    return 0;
  }
}
