import { SheetError } from '../language/sheet-error.ts';
import type { Parameters } from './packings.ts';

/** Bytes that come out of a packing, as many as come: its memory is counted before it is taken. */
export class Output {
  bytes: Uint8Array<ArrayBuffer>;
  length = 0;
  private readonly parameters: Parameters;
  /** As the sheet says; null where it says nothing. */
  readonly size: number | null;

  constructor(parameters: Parameters, guess: number) {
    this.parameters = parameters;
    this.size = parameters.has('size') ? parameters.whole('size') : null;
    const first = this.size ?? Math.max(64, guess);
    parameters.budget.allocate(first);
    this.bytes = new Uint8Array(first);
  }

  /** Whether all is there that the sheet promises. */
  get isFull(): boolean {
    return this.size !== null && this.length >= this.size;
  }

  /** Makes room for so many more. @throws SheetError where there are more than the sheet promises, or than is allowed */
  reserve(count: number): void {
    const needed = this.length + count;
    if (needed <= this.bytes.length) return;
    if (this.size !== null)
      throw new SheetError(
        `more comes out than the ${this.size.toLocaleString('en')} bytes that the sheet promises`,
      );
    const larger = Math.max(needed, this.bytes.length * 2);
    this.parameters.budget.allocate(larger);
    const grown = new Uint8Array(larger);
    grown.set(this.bytes.subarray(0, this.length));
    this.bytes = grown;
  }

  push(byte: number): void {
    if (this.length === this.bytes.length) this.reserve(1);
    this.bytes[this.length++] = byte;
  }

  append(bytes: Uint8Array): void {
    this.reserve(bytes.length);
    this.bytes.set(bytes, this.length);
    this.length += bytes.length;
  }

  /** Copies what lies so far behind, which may reach into itself. @throws SheetError where nothing lies there */
  repeat(distance: number, count: number): void {
    if (distance < 1 || distance > this.length)
      throw new SheetError(
        `a copy from ${distance.toLocaleString('en')} bytes before, where ${this.length.toLocaleString('en')} came out so far`,
      );
    this.reserve(count);
    const { bytes, length } = this;
    if (distance >= count) bytes.copyWithin(length, length - distance, length - distance + count);
    else for (let at = length; at < length + count; at++) bytes[at] = bytes[at - distance] as number;
    this.length += count;
  }

  /** @throws SheetError where less came out than the sheet promises */
  finish(): Uint8Array<ArrayBuffer> {
    if (this.size !== null && this.length !== this.size)
      throw new SheetError(
        `${this.length.toLocaleString('en')} bytes come out, and the sheet promises ${this.size.toLocaleString('en')}`,
      );
    return this.bytes.subarray(0, this.length);
  }
}
