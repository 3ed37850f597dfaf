import type { BigIntStats } from 'node:fs';
import { hashOf } from '../store/hash.ts';

/** The signature of a file whose last change is too recent to be sure of; equals no other. */
export const unsettled = '0'.repeat(32);

/** A file changed within this time may change again without its times telling: clocks of file systems go in steps. */
const settleMs = 2000;

/**
 * Names one state of a file by device, inode, size and both of its times in nanoseconds. A program can set the time
 * of modification, but not that of the inode's change: where all five are the same, so are the bytes.
 * @returns 32 hex digits
 */
export function signatureOf({ dev, ino, size, mtimeNs, ctimeNs }: BigIntStats): string {
  return hashOf(Buffer.from(`${dev} ${ino} ${size} ${mtimeNs} ${ctimeNs}`)).toString('hex', 0, 16);
}

/** Whether the file's last change is long enough ago for its signature to be trusted later. */
export function isSettled({ ctimeMs }: BigIntStats, nowMs: number = Date.now()): boolean {
  return nowMs - Number(ctimeMs) > settleMs;
}
