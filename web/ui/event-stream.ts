import type { SpanKey } from '../../contract/pass.ts';

export type EventName = 'jobs' | 'marks' | 'changes';

/** What the stream needs of the page: replaced in tests. */
export interface StreamPage {
  open: (url: string) => EventSource;
  isHidden: () => boolean;
  onVisibility: (listener: () => void) => void;
}

const browserPage: StreamPage = {
  open: (url) => new EventSource(url),
  isHidden: () => document.visibilityState === 'hidden',
  onVisibility: (listener) => document.addEventListener('visibilitychange', listener),
};

/**
 * The one connection of this window over which it hears what happens in the server: jobs, what others change, and marks of the
 * span that is shown. A browser keeps six connections to a host for all of its windows: one that nobody looks at gives its own
 * back, and catches up when it is shown again.
 */
export class EventStream {
  private readonly page: StreamPage;
  private readonly listeners = new Map<EventName, Set<(data: unknown) => void>>();
  private readonly onLost = new Set<() => void>();
  /** Spans that are shown, the last one at the end. */
  private readonly spans: SpanKey[] = [];
  private source: EventSource | null = null;
  private openUrl = '';
  /** The newest change of marks that was heard of in the span. */
  private since: number | null = null;

  constructor(page: StreamPage = browserPage) {
    this.page = page;
    page.onVisibility(() => this.connect());
  }

  /** @returns ends the listening */
  listen(name: EventName, listener: (data: unknown) => void): () => void {
    const known = this.listeners.get(name) ?? new Set();
    this.listeners.set(name, known.add(listener));
    this.connect();
    return () => {
      known.delete(listener);
      this.connect();
    };
  }

  /** @param listener called when the server is not there; the browser tries again by itself */
  listenToLoss(listener: () => void): () => void {
    this.onLost.add(listener);
    return () => this.onLost.delete(listener);
  }

  /** Hears of the marks of a span, until the returned function is called. */
  follow(span: SpanKey): () => void {
    this.spans.push(span);
    this.since = null;
    this.connect();
    return () => {
      this.spans.splice(this.spans.indexOf(span), 1);
      this.since = null;
      this.connect();
    };
  }

  private connect(): void {
    const isWanted = [...this.listeners.values()].some(({ size }) => size > 0) && !this.page.isHidden();
    const url = isWanted ? this.url() : '';
    if (url === this.openUrl) return;
    this.source?.close();
    this.source = null;
    this.openUrl = url;
    if (!isWanted) return;
    const source = this.page.open(this.since === null ? url : `${url}&since=${this.since}`);
    this.source = source;
    for (const name of ['jobs', 'marks', 'changes'] as const)
      source.addEventListener(name, ({ data, lastEventId }: MessageEvent<string>) => {
        if (this.source !== source) return;
        if (name === 'marks') this.since = Number(lastEventId);
        const told: unknown = JSON.parse(data);
        for (const listener of this.listeners.get(name) ?? []) listener(told);
      });
    source.addEventListener('error', () => {
      if (this.source === source) for (const listener of this.onLost) listener();
    });
  }

  private url(): string {
    const span = this.spans.at(-1);
    if (!span) return '/api/events';
    const { channel, from, to } = span;
    return `/api/events?${new URLSearchParams({ channel: String(channel), from, to })}`;
  }
}

let stream: EventStream | null = null;

/** The stream of this window. */
export function eventStream(): EventStream {
  return (stream ??= new EventStream());
}
