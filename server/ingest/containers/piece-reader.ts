/** Takes bytes by the count out of a stream whose pieces come as they like. */
export class PieceReader {
  private readonly pieces: AsyncIterator<Uint8Array>;
  private rest: Buffer = Buffer.alloc(0);
  private hasEnded = false;

  constructor(pieces: AsyncIterable<Uint8Array>) {
    this.pieces = pieces[Symbol.asyncIterator]();
  }

  /** The next bytes, which stay to be taken; fewer at the end of the stream. */
  async peek(count: number): Promise<Buffer> {
    while (this.rest.length < count && (await this.pull()));
    return this.rest.subarray(0, count);
  }

  /** At most so many of the next bytes, in pieces: all up to the end where nothing is said. */
  async *take(count = Infinity): AsyncGenerator<Buffer> {
    for (let left = count; left > 0;) {
      if (this.rest.length === 0 && !(await this.pull())) return;
      const piece = this.rest.subarray(0, Math.min(left, this.rest.length));
      this.rest = this.rest.subarray(piece.length);
      left -= piece.length;
      yield piece;
    }
  }

  /** Lets go of the stream, wherever it is. */
  async close(): Promise<void> {
    await this.pieces.return?.();
  }

  private async pull(): Promise<boolean> {
    if (this.hasEnded) return false;
    const next = await this.pieces.next();
    if (next.done) {
      this.hasEnded = true;
      return false;
    }
    const { buffer, byteOffset, byteLength } = next.value;
    const piece = Buffer.from(buffer, byteOffset, byteLength);
    this.rest = this.rest.length === 0 ? piece : Buffer.concat([this.rest, piece]);
    return true;
  }
}
