import { ReadError } from '../../reading.ts';

/** Little-endian numbers of a file, with errors that say what was expected, and at which byte. */
export class ByteView {
  readonly bytes: Uint8Array;
  private readonly view: DataView;
  private readonly format: string;

  constructor(bytes: Uint8Array, format: string) {
    this.bytes = bytes;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.format = format;
  }

  u8(at: number, what: string): number {
    this.need(at, 1, what);
    return this.view.getUint8(at);
  }

  u16(at: number, what: string): number {
    this.need(at, 2, what);
    return this.view.getUint16(at, true);
  }

  u32(at: number, what: string): number {
    this.need(at, 4, what);
    return this.view.getUint32(at, true);
  }

  i32(at: number, what: string): number {
    this.need(at, 4, what);
    return this.view.getInt32(at, true);
  }

  part(at: number, length: number, what: string): Uint8Array {
    this.need(at, length, what);
    return this.bytes.subarray(at, at + length);
  }

  /** @throws ReadError when the file ends before */
  need(at: number, length: number, what: string): void {
    if (at >= 0 && at + length <= this.bytes.length) return;
    throw new ReadError(
      `this ${this.format} file is cut short: ${what} should lie at byte ${at}, ${length} bytes long, and the file ends at byte ${this.bytes.length}`,
    );
  }

  fail(reason: string): never {
    throw new ReadError(`this is no ${this.format} file that can be read: ${reason}`);
  }
}
