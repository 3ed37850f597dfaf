/** One event of a stream of them, as the HTML standard writes them (Server-sent events). */
export interface SentEvent {
  event: string;
  id: string | null;
  data: unknown;
}

/** Reads a stream of events, one after the other. */
export class EventReader {
  private readonly reader: ReadableStreamDefaultReader<Uint8Array>;
  private readonly decoder = new TextDecoder();
  private text = '';

  private constructor(reader: ReadableStreamDefaultReader<Uint8Array>) {
    this.reader = reader;
  }

  static async open(url: string, headers: Record<string, string> = {}): Promise<EventReader> {
    const { body, status } = await fetch(url, { headers });
    if (!body || status !== 200) throw new Error(`no stream of events: ${status}`);
    return new EventReader(body.getReader());
  }

  /** The next event of this name that fits; the others are passed over. */
  async next(name: string, fits: (data: unknown) => boolean = () => true): Promise<SentEvent> {
    for (;;) {
      const end = this.text.indexOf('\n\n');
      if (end >= 0) {
        const lines = this.text.slice(0, end).split('\n');
        this.text = this.text.slice(end + 2);
        const field = (key: string): string | null =>
          lines.find((line) => line.startsWith(`${key}: `))?.slice(key.length + 2) ?? null;
        const sent = { event: field('event') ?? 'message', id: field('id'), data: field('data') };
        if (sent.event === name) {
          const data: unknown = JSON.parse(sent.data ?? 'null');
          if (fits(data)) return { ...sent, data };
        }
        continue;
      }
      const { value, done } = await this.reader.read();
      if (done) throw new Error(`the stream ended before there was an event ${name}`);
      this.text += this.decoder.decode(value, { stream: true });
    }
  }

  close(): Promise<void> {
    return this.reader.cancel();
  }
}
