import type { Shown, ShownPlace } from '../../core/kinds/show.ts';
import { PlainError } from '../platform/plain-error.ts';
import type { CompareOutcome, ContentToRead } from './operations.ts';
import { ReaderPool, type Resolve } from './reader-pool.ts';
import { ReaderProcesses } from './reader-processes.ts';

const keepMs = 60_000;
/** Comparing takes longer than reading: two large models have every point of either measured against the other. */
export const compareSeconds = 120;

/** Reads, shows and compares contents when somebody looks at them, by readers that are started when they are needed. */
export class OnDemandReaders {
  private readonly processes: ReaderProcesses;
  /** Reads facts of what somebody looks at before its turn. */
  readonly facts: ReaderPool;
  private readonly showing: ReaderPool;
  private readonly comparing: ReaderPool;

  constructor() {
    this.processes = new ReaderProcesses(keepMs);
    this.facts = new ReaderPool(this.processes, { readers: 1 });
    this.showing = new ReaderPool(this.processes, { readers: 2 });
    this.comparing = new ReaderPool(this.processes, { readers: 1, seconds: compareSeconds });
  }

  /** @throws PlainError with the reason where it cannot be shown */
  async show(content: ContentToRead, image: ShownPlace, resolve: Resolve): Promise<Shown> {
    const { shown, reason } = await this.showing.run({ type: 'show', content, image }, resolve);
    if (!shown) throw new PlainError(`${content.path} cannot be shown: ${reason ?? 'nothing came of it'}.`);
    return shown;
  }

  compare(old: ContentToRead, content: ContentToRead, resolve: Resolve): Promise<CompareOutcome> {
    return this.comparing.run({ type: 'compare', old, content }, resolve);
  }

  close(): void {
    this.facts.close();
    this.showing.close();
    this.comparing.close();
    this.processes.close();
  }
}
