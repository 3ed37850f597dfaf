/** An error whose message is one clear sentence for the person at the screen or the terminal. */
export class PlainError extends Error {
  override readonly name: string = 'PlainError';
}

/** The same for a thing that is asked for and is not there. */
export class NotFoundError extends PlainError {
  override readonly name = 'NotFoundError';
}

/** The same for a change that somebody else's change came before. */
export class ConflictError extends PlainError {
  override readonly name = 'ConflictError';
}

/** What an unknown thrown value says. */
export function messageOf(error: unknown): string {
  if (codeOf(error) === 'ENOSPC') return 'The disk is full: nothing more can be written there.';
  return error instanceof Error ? error.message : String(error);
}

/** Node's own code of a system error (`ENOENT`, `EADDRINUSE`, …), empty for anything else. */
export function codeOf(error: unknown): string {
  return error instanceof Error && 'code' in error ? String(error.code) : '';
}
