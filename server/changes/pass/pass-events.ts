import type { PassEvent } from '../../../contract/pass.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { Listeners } from '../../platform/http/listeners.ts';
import { newestRevision, stateColumns, toState } from './states.ts';

/** More changes at once are not told one by one: whoever looks asks again. */
const mostTold = 300;

interface Span {
  listeners: Listeners<PassEvent>;
  /** The newest change that was told. */
  told: number;
}

/** Tells of marks in spans as they are made. */
export class PassEvents {
  private readonly pool: Pool;
  private readonly spans = new Map<string, Span>();

  constructor(pool: Pool) {
    this.pool = pool;
  }

  /**
   * @param since the newest change that the listener has heard of; null where they begin
   * @returns ends the listening
   */
  async listen(
    from: PlacedBuild,
    to: PlacedBuild,
    since: number | null,
    post: (event: PassEvent) => void,
  ): Promise<() => void> {
    const key = `${from.id} ${to.id}`;
    const newest = await newestRevision(this.pool, from, to);
    let span = this.spans.get(key);
    if (!span) {
      const made: Span = {
        told: newest,
        listeners: new Listeners(async (postAll) => {
          const event = await changesSince(this.pool, from, to, made.told);
          if (!event) return;
          made.told = event.revision;
          postAll(event);
        }),
      };
      span = made;
      this.spans.set(key, span);
    }
    const { listeners, told } = span;
    const leave = listeners.add(post);
    // What came while they were away; what the others have yet to hear comes to all.
    if (since !== null && since < told) {
      const missed = await changesSince(this.pool, from, to, since, told);
      if (missed) post(missed);
    }
    return () => {
      leave();
      if (listeners.isEmpty) this.spans.delete(key);
    };
  }
}

/** What was changed after a change, up to another one. */
async function changesSince(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
  told: number,
  upTo = Number.MAX_SAFE_INTEGER,
): Promise<PassEvent | null> {
  const batches = await select<{ id: number; by: string; what: string }>(
    database,
    `SELECT id, done_by AS 'by', what FROM changes
      WHERE channel_id = ? AND from_build = ? AND to_build = ? AND subject = 'marks' AND id > ? AND id <= ? ORDER BY id`,
    [to.channelId, from.id, to.id, told, upTo],
  );
  const last = batches.at(-1);
  if (!last) return null;
  const rows = await select<{ path: string } & Parameters<typeof toState>[0]>(
    database,
    `SELECT p.path, ${stateColumns} FROM marks m JOIN paths p ON p.digest = m.path_digest
      WHERE m.channel_id = ? AND m.from_build = ? AND m.to_build = ? AND m.revision > ? LIMIT ?`,
    [to.channelId, from.id, to.id, told, mostTold + 1],
  );
  const states =
    rows.length > mostTold ? null : Object.fromEntries(rows.map((row) => [row.path, toState(row)]));
  return { revision: last.id, states, by: last.by, what: last.what };
}
