import { keepLooking } from '../keep-looking.ts';

const lookMs = 400;

/**
 * Who wants to hear of something that is seen by looking. It is looked for as long as anybody listens, and once for all who
 * do: ten windows ask the database as often as one.
 */
export class Listeners<Event> {
  private readonly listeners = new Set<(event: Event) => void>();
  private readonly look: (post: (event: Event) => void) => Promise<void>;
  private readonly report: (error: unknown) => void;
  private stop: (() => void) | null = null;

  /** @param look posts what is new since it was called last */
  constructor(
    look: (post: (event: Event) => void) => Promise<void>,
    report: (error: unknown) => void = () => undefined,
  ) {
    this.look = look;
    this.report = report;
  }

  get isEmpty(): boolean {
    return this.listeners.size === 0;
  }

  /** @returns ends the listening */
  add(listener: (event: Event) => void): () => void {
    this.listeners.add(listener);
    this.stop ??= keepLooking(() => this.look((event) => this.post(event)), lookMs, this.report);
    return () => {
      this.listeners.delete(listener);
      if (this.listeners.size > 0) return;
      this.stop?.();
      this.stop = null;
    };
  }

  private post(event: Event): void {
    for (const listener of this.listeners) listener(event);
  }
}
