import { createHash } from 'node:crypto';
import { readFileSync, readlinkSync } from 'node:fs';
import { hostname } from 'node:os';

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

/**
 * Names the machine: two of one name, or two containers of one machine, have other numbers of processes. Of a host's name, as much as
 * fits beside the mark.
 */
const host = `${hostname().slice(0, 26)}.${createHash('sha256').update(machineState()).digest('hex').slice(0, 9)}`;

function machineState(): string {
  try {
    return `${readFileSync('/proc/sys/kernel/random/boot_id', 'latin1')} ${readlinkSync('/proc/self/ns/pid')}`;
  } catch {
    // A system without them: its name has to do.
    return '';
  }
}

/** Names this process among those of all machines: the machine, and the process on it. */
export function ownerName(): string {
  return `${host}/${processMark() ?? process.pid}`;
}

/** Whether the process behind a name has ended; null where it is one of another machine, and cannot be seen from here. */
export function hasEnded(owner: string): boolean | null {
  const [machine = '', mark = ''] = owner.split('/');
  return machine === host ? !isAlive(mark) : null;
}
