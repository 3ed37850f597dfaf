import type { ChangeEvent } from '../../../contract/history.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Listeners } from '../../platform/http/listeners.ts';
import { changesAfter, newestChange } from './change-log.ts';

/** Titles go on one another's heels: a number may become visible after a greater one of another title. */
const lookedBack = 200;
const mostAtOnce = 1000;

/** Tells of what anybody changes, as it happens. */
export class ChangeEvents {
  private readonly listeners: Listeners<ChangeEvent>;
  private newest: number | null = null;
  private told = new Set<number>();

  constructor(pool: Pool) {
    this.listeners = new Listeners(async (post) => {
      if (this.newest === null) {
        const newest = await newestChange(pool);
        this.told = new Set((await changesAfter(pool, newest - lookedBack, mostAtOnce)).map(({ id }) => id));
        this.newest = newest;
        post({ newest, change: null });
        return;
      }
      for (const change of await changesAfter(pool, this.newest - lookedBack, mostAtOnce)) {
        if (this.told.has(change.id)) continue;
        this.told.add(change.id);
        this.newest = Math.max(this.newest, change.id);
        post({ newest: this.newest, change });
      }
      for (const id of this.told) if (id < this.newest - 2 * lookedBack) this.told.delete(id);
    });
  }

  /** @returns ends the listening */
  listen(post: (event: ChangeEvent) => void): () => void {
    if (this.listeners.isEmpty) this.newest = null;
    else if (this.newest !== null) post({ newest: this.newest, change: null });
    return this.listeners.add(post);
  }
}
