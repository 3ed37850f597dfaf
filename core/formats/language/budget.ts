import { SheetError } from './sheet-error.ts';

/** What reading one file may take: a sheet is somebody else’s, and so is the file. */
export interface Limits {
  /** Fields, elements and calls. */
  steps: number;
  /** Memory for what is unpacked, gathered and computed, in bytes. */
  bytes: number;
  /** Structures within structures. */
  depth: number;
  /** Milliseconds, looked at now and then; none where a clock would be in the way. */
  milliseconds: number;
}

export const usualLimits: Limits = {
  steps: 50_000_000,
  bytes: 512 * 1024 * 1024,
  depth: 64,
  milliseconds: 20_000,
};

const stepsBetweenLooks = 65_536;

/** Counts what a reading takes, and ends it where that is too much. */
export class Budget {
  private steps: number;
  private bytes: number;
  private readonly limits: Limits;
  private end: number;
  private nextLook: number;
  depth = 0;

  constructor(limits: Limits = usualLimits) {
    this.limits = limits;
    this.steps = limits.steps;
    this.bytes = limits.bytes;
    this.end = Date.now() + limits.milliseconds;
    this.nextLook = limits.steps - stepsBetweenLooks;
  }

  /** For the next of many things that are read one after the other, each of which may take as much. */
  renew(): void {
    const { steps, bytes, milliseconds } = this.limits;
    this.steps = steps;
    this.bytes = bytes;
    this.end = Date.now() + milliseconds;
    this.nextLook = steps - stepsBetweenLooks;
  }

  /** @throws SheetError */
  step(count = 1): void {
    this.steps -= count;
    if (this.steps > this.nextLook) return;
    this.nextLook = this.steps - stepsBetweenLooks;
    if (this.steps < 0)
      throw new SheetError(`it takes more than ${this.limits.steps.toLocaleString('en')} steps`);
    if (Date.now() > this.end)
      throw new SheetError(`it takes more than ${this.limits.milliseconds / 1000} seconds`);
  }

  /** Before so many bytes are allocated. @throws SheetError */
  allocate(bytes: number): void {
    // Also what is no number.
    if (!(bytes <= this.bytes))
      throw new SheetError(
        `it takes more memory than ${Math.round(this.limits.bytes / 1024 / 1024)} MiB, with ${bytes.toLocaleString('en')} bytes here`,
      );
    this.bytes -= Math.max(0, bytes);
  }

  enter(): void {
    if (++this.depth > this.limits.depth)
      throw new SheetError(`it has more than ${this.limits.depth} structures within each other`);
  }

  leave(): void {
    this.depth--;
  }
}
