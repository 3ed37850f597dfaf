/** Why a sheet cannot be used, or why a file does not fit it. */
export class SheetError extends Error {
  override readonly name = 'SheetError';
  /** Byte of the file (of a text: its line, from 1) where it showed; null where it is about the sheet alone. */
  readonly at: number | null;
  /** What was being read, from the root down: `entries[3].size`. */
  readonly where: string;

  constructor(message: string, at: number | null = null, where = '') {
    super(message);
    this.at = at;
    this.where = where;
  }
}

/** An offset as people who look at bytes write it. */
export function offsetText(at: number): string {
  return `0x${at.toString(16).toUpperCase()}`;
}
