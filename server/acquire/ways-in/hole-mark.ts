import { existsSync, readFileSync } from 'node:fs';

const markBytes = 32;

/** Where a copy of a device keeps the bytes that stand for what could not be read. */
export function holeMarkPath(copy: string): string {
  return `${copy}.holes`;
}

/** The mark of a copy that has holes: 32 bytes that occur nowhere else. Null for a source that is no such copy. */
export function readHoleMark(source: string): Buffer | null {
  const path = holeMarkPath(source);
  if (!existsSync(path)) return null;
  const mark = Buffer.from(readFileSync(path, 'utf8').trim(), 'hex');
  return mark.length === markBytes ? mark : null;
}
