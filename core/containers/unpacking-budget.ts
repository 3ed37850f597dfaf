import { ContainerError } from './container-error.ts';

/** How deep archives may lie in archives. */
export const maximumDepth = 8;
/** Entries in one archive. */
export const maximumEntries = 5_000_000;

/** Of a link's target: Linux has no longer paths (PATH_MAX). */
export const maximumLinkBytes = 4096;
export const longLinkReason = `it is a link whose target is longer than ${maximumLinkBytes} bytes`;

const freeBytes = 1024 ** 3;
const maximumRatio = 200;

/**
 * What may be unpacked from one file of the source, over all archives nested in it: 1 GiB, or 200 times the
 * file's own size where that is more. Deflate reaches 1032 to 1 on a run of one byte; files of games stay
 * below 50 (measured on none but our own demo: the limit is common practice, without a published source).
 */
export class UnpackingBudget {
  private readonly limitBytes: number;
  private usedBytes = 0;

  constructor(packedBytes: number) {
    this.limitBytes = Math.max(freeBytes, packedBytes * maximumRatio);
  }

  /** @throws ContainerError when the total would grow past the limit; what is refused is not counted */
  spend(unpackedBytes: number): void {
    if (this.usedBytes + unpackedBytes > this.limitBytes) {
      throw new ContainerError(
        `it unpacks to more than ${this.limitBytes.toLocaleString('en')} bytes, ${maximumRatio} times its size or more: taken for a bomb`,
      );
    }
    this.usedBytes += unpackedBytes;
  }

  /** What is left to unpack, in bytes. */
  get leftBytes(): number {
    return this.limitBytes - this.usedBytes;
  }
}
