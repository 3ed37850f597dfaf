/** A loop in frames: both ends belong to it. */
export interface Loop {
  startFrame: number;
  endFrame: number;
}

/** Connects a sound to where it is heard: from a frame on, through a loop to the sample, one channel alone or all. */
export function connectSound(
  context: BaseAudioContext,
  buffer: AudioBuffer,
  { loop, channel, destination }: { loop: Loop | null; channel: number | null; destination: AudioNode },
): AudioBufferSourceNode {
  const source = context.createBufferSource();
  source.buffer = buffer;
  if (loop) {
    source.loop = true;
    source.loopStart = loop.startFrame / buffer.sampleRate;
    // The sample after the last of the loop is its first.
    source.loopEnd = (loop.endFrame + 1) / buffer.sampleRate;
  }
  if (channel === null) source.connect(destination);
  else {
    const apart = context.createChannelSplitter(buffer.numberOfChannels);
    source.connect(apart);
    apart.connect(destination, channel);
  }
  return source;
}

/** Plays one sound. Its context has the sound’s own rate, so that frames are frames. */
export class SoundEngine {
  onEnd: () => void = () => undefined;
  readonly buffer: AudioBuffer;
  private readonly context: AudioContext;
  private source: AudioBufferSourceNode | null = null;
  private loop: Loop | null = null;
  private channel: number | null = null;
  private startedAt = 0;
  private offset = 0;

  private constructor(context: AudioContext, buffer: AudioBuffer) {
    this.context = context;
    this.buffer = buffer;
  }

  /** @param bytes of a WAV file @throws Error where the browser has no sound, or cannot read it */
  static async open(bytes: ArrayBuffer, sampleRate: number): Promise<SoundEngine> {
    const context = new AudioContext({ sampleRate });
    try {
      return new SoundEngine(context, await context.decodeAudioData(bytes));
    } catch (error) {
      await context.close();
      throw error;
    }
  }

  get isPlaying(): boolean {
    return this.source !== null;
  }

  /** Seconds from the beginning. */
  get position(): number {
    if (!this.source) return this.offset;
    const at = this.offset + this.context.currentTime - this.startedAt;
    const { loop, buffer } = this;
    if (!loop) return Math.min(buffer.duration, at);
    const [start, end] = [loop.startFrame / buffer.sampleRate, (loop.endFrame + 1) / buffer.sampleRate];
    return at < end ? at : start + ((at - start) % (end - start));
  }

  async play(from = this.position >= this.buffer.duration - 0.01 ? 0 : this.position): Promise<void> {
    this.halt();
    await this.context.resume();
    const { loop, channel, buffer, context } = this;
    const source = connectSound(context, buffer, { loop, channel, destination: context.destination });
    source.onended = () => {
      if (this.source !== source) return;
      this.offset = buffer.duration;
      this.source = null;
      this.onEnd();
    };
    this.offset = from;
    this.startedAt = context.currentTime;
    this.source = source;
    source.start(0, from);
  }

  pause(): void {
    const { position } = this;
    this.halt();
    this.offset = position;
  }

  seek(seconds: number): void {
    const at = Math.max(0, Math.min(seconds, this.buffer.duration));
    if (this.isPlaying) void this.play(at);
    else this.offset = at;
  }

  /** What is heard from now on. @param channel null for all */
  hear({ loop, channel }: { loop: Loop | null; channel: number | null }): void {
    const isOther = loop !== this.loop || channel !== this.channel;
    const { position } = this;
    [this.loop, this.channel] = [loop, channel];
    if (isOther && this.isPlaying) void this.play(position);
  }

  async close(): Promise<void> {
    this.halt();
    await this.context.close();
  }

  private halt(): void {
    const { source } = this;
    this.source = null;
    source?.stop();
    source?.disconnect();
  }
}
