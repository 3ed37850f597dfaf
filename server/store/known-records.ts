/**
 * Records of one length that threads share without copying them: open addressing in shared memory, at most half
 * full. Keys are BLAKE3 digests, so that their own first bytes serve as their place.
 */
export class KnownRecords {
  readonly memory: SharedArrayBuffer;
  private readonly bytes: Buffer;
  private readonly keyBytes: number;
  private readonly recordBytes: number;
  /** Places for records, filled or not. */
  readonly slots: number;

  /** @param memory of one that was made in another thread, with the same lengths */
  constructor(memory: SharedArrayBuffer, keyBytes: number, valueBytes = 0) {
    this.memory = memory;
    this.bytes = Buffer.from(memory);
    this.keyBytes = keyBytes;
    this.recordBytes = keyBytes + valueBytes;
    this.slots = memory.byteLength / this.recordBytes;
  }

  /** Empty, with room for so many. */
  static sized(count: number, keyBytes: number, valueBytes = 0): KnownRecords {
    let slots = 16;
    while (slots < count * 2) slots *= 2;
    return new KnownRecords(new SharedArrayBuffer(slots * (keyBytes + valueBytes)), keyBytes, valueBytes);
  }

  /** Adds a record that stands in other buffers, or takes the place of one with the same key. */
  add(key: Buffer, keyAt: number, value?: Buffer, valueAt = 0): void {
    const offset = this.place(key, keyAt);
    key.copy(this.bytes, offset, keyAt, keyAt + this.keyBytes);
    value?.copy(this.bytes, offset + this.keyBytes, valueAt, valueAt + this.recordBytes - this.keyBytes);
  }

  has(key: Buffer): boolean {
    return !this.isFree(this.place(key));
  }

  /** The record's value, a view of the shared memory; null where the key is not known. */
  get(key: Buffer): Buffer | null {
    const offset = this.place(key);
    return this.isFree(offset)
      ? null
      : this.bytes.subarray(offset + this.keyBytes, offset + this.recordBytes);
  }

  /** Names the key's place, the same in every thread; -1 where the key is not known. */
  slotOf(key: Buffer): number {
    const offset = this.place(key);
    return this.isFree(offset) ? -1 : offset / this.recordBytes;
  }

  /** A view of the shared memory. */
  valueAt(slot: number): Buffer {
    const offset = slot * this.recordBytes;
    return this.bytes.subarray(offset + this.keyBytes, offset + this.recordBytes);
  }

  keyAt(slot: number): Buffer {
    const offset = slot * this.recordBytes;
    return Buffer.from(this.bytes.subarray(offset, offset + this.keyBytes));
  }

  *filledSlots(): Generator<number> {
    for (let slot = 0; slot < this.slots; slot++) if (!this.isFree(slot * this.recordBytes)) yield slot;
  }

  /** Where the key stands, or the free place where it would. */
  private place(key: Buffer, keyAt = 0): number {
    for (let slot = key.readUInt32LE(keyAt) & (this.slots - 1); ; slot = (slot + 1) & (this.slots - 1)) {
      const offset = slot * this.recordBytes;
      if (
        this.isFree(offset) ||
        key.compare(this.bytes, offset, offset + this.keyBytes, keyAt, keyAt + this.keyBytes) === 0
      )
        return offset;
    }
  }

  /** A key that begins with eight zero bytes does not occur among digests. */
  private isFree(offset: number): boolean {
    return this.bytes.readInt32LE(offset) === 0 && this.bytes.readInt32LE(offset + 4) === 0;
  }
}
