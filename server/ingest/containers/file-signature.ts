import type { Stats } from 'node:fs';
import { digestOf } from '../../store/hash.ts';

/** The signature of a file whose last change is too recent to be sure of; equals no other. */
export const unsettled = '0'.repeat(32);

/** A file changed within this time may change again without its times telling: clocks of file systems go in steps. */
const settleMs = 2000;

/**
 * Names one state of a file by device, inode, size and both of its times (to a quarter of a microsecond, as finely as
 * a double tells them). A program can set the time of modification, but not that of the inode's change: where all
 * five are the same, so are the bytes.
 * @returns 32 hex digits
 */
export function signatureOf({ dev, ino, size, mtimeMs, ctimeMs }: Stats): string {
  return digestOf(`${dev} ${ino} ${size} ${mtimeMs} ${ctimeMs}`).toString('hex');
}

/** Whether the file's last change is long enough ago for its signature to be trusted later. */
export function isSettled({ ctimeMs }: Stats, nowMs: number = Date.now()): boolean {
  return nowMs - ctimeMs > settleMs;
}
