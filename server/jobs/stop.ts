/** Thrown inside a job when somebody asked it to stop: what was done so far stays, and resuming goes on from there. */
export class StoppedError extends Error {
  override readonly name = 'StoppedError';
  constructor() {
    super('The work was stopped; it can be resumed.');
  }
}
