import type { ImagePlace } from '../../core/kinds/picture/picture.ts';
import type { Shown } from '../../core/kinds/show.ts';
import { PlainError } from '../platform/plain-error.ts';
import type { ContentPlace } from '../store/layout.ts';
import { ReaderPool, type ReadJob } from './reader-pool.ts';

const idleMs = 60_000;

/** Makes contents into forms that browsers show, in a thread that is started when it is needed. */
export class Shower {
  private readonly store: string;
  private pool: ReaderPool | null = null;
  private timer: NodeJS.Timeout | null = null;
  private running = 0;

  constructor(store: string) {
    this.store = store;
  }

  /** @throws PlainError with the reason where it cannot be shown */
  async show(
    content: { path: string; format: string; place: ContentPlace },
    image: ImagePlace,
    resolve: ReadJob['resolve'],
  ): Promise<Shown> {
    if (this.timer) clearTimeout(this.timer);
    this.pool ??= new ReaderPool(this.store, 1);
    this.running++;
    try {
      const { shown, reason } = await this.pool.read({ ...content, shown: image, resolve });
      if (!shown) throw new PlainError(`${content.path} cannot be shown: ${reason ?? 'nothing came of it'}.`);
      return shown;
    } finally {
      if (--this.running === 0) this.timer = setTimeout(() => void this.close(), idleMs);
    }
  }

  async close(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    const { pool } = this;
    this.pool = null;
    await pool?.close();
  }
}
