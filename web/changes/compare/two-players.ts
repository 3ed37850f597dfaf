/** Two sounds that play at the same time, of which one is heard: switching leaves no gap. */
export class TwoPlayers {
  readonly seconds: number;
  private readonly context: AudioContext;
  private readonly buffers: readonly [AudioBuffer, AudioBuffer];
  private readonly gains: readonly [GainNode, GainNode];
  private sources: AudioBufferSourceNode[] = [];
  private startedAt = 0;
  private offset = 0;
  private isPlaying = false;
  /** How much later the second one begins, in seconds. */
  private readonly shift: number;

  constructor(context: AudioContext, buffers: readonly [AudioBuffer, AudioBuffer], shiftSeconds: number) {
    this.context = context;
    this.buffers = buffers;
    this.shift = shiftSeconds;
    this.seconds = Math.max(
      buffers[0].duration + Math.max(0, shiftSeconds),
      buffers[1].duration + Math.max(0, -shiftSeconds),
    );
    this.gains = [context.createGain(), context.createGain()];
    for (const gain of this.gains) gain.connect(context.destination);
  }

  /** Seconds since the earlier of the two begins. */
  get position(): number {
    return Math.min(
      this.seconds,
      this.isPlaying ? this.offset + this.context.currentTime - this.startedAt : this.offset,
    );
  }

  select(which: 0 | 1): void {
    const now = this.context.currentTime;
    // A short fade: cutting at any moment clicks.
    this.gains.forEach((gain, at) => gain.gain.setTargetAtTime(at === which ? 1 : 0, now, 0.004));
  }

  async play(from = this.position >= this.seconds - 0.01 ? 0 : this.position): Promise<void> {
    this.stop();
    await this.context.resume();
    this.offset = from;
    this.startedAt = this.context.currentTime;
    this.isPlaying = true;
    // The newer one shows on its own time; the older one begins so much later or earlier.
    const begins = [Math.max(0, this.shift), Math.max(0, -this.shift)];
    this.sources = this.buffers.map((buffer, at) => {
      const source = this.context.createBufferSource();
      source.buffer = buffer;
      const gain = this.gains[at];
      if (gain) source.connect(gain);
      const into = from - (begins[at] ?? 0);
      if (into >= 0) source.start(0, Math.min(into, buffer.duration));
      else source.start(this.context.currentTime - into);
      return source;
    });
  }

  pause(): void {
    this.offset = this.position;
    this.stop();
  }

  async close(): Promise<void> {
    this.stop();
    await this.context.close();
  }

  private stop(): void {
    this.isPlaying = false;
    for (const source of this.sources) {
      source.stop();
      source.disconnect();
    }
    this.sources = [];
  }
}
