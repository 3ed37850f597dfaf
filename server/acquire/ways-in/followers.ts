import * as z from 'zod';
import type { Follower, FollowerKind, FollowerRequest } from '../../../contract/ways-in.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { ensureChannel } from '../builds/index-jobs.ts';
import { addJob } from '../../jobs/queue.ts';

/** What a look says that found nothing. */
export const nothingNew = 'Nothing is new.';

interface FollowerRow {
  id: number;
  channelId: number;
  titleId: number;
  title: string;
  channel: string;
  kind: FollowerKind;
  url: string;
  keyPostUrl: string;
  intervalSeconds: number;
  paused: number;
  nextAt: Date;
  lookedAt: Date | null;
  outcome: string | null;
  failed: number;
}

const columns = `SELECT f.id, f.channel_id AS channelId, c.title_id AS titleId, t.name AS title, c.name AS channel, f.kind, f.url,
    f.key_post_url AS keyPostUrl, f.interval_seconds AS intervalSeconds, f.paused, f.next_at AS nextAt,
    f.looked_at AS lookedAt, f.outcome, f.failed
  FROM followers f JOIN channels c ON c.id = f.channel_id JOIN titles t ON t.id = c.title_id`;

export async function listFollowers(database: Queryable): Promise<Follower[]> {
  return (await select<FollowerRow>(database, `${columns} ORDER BY f.id`)).map(toFollower);
}

/** @throws NotFoundError */
export async function findFollower(database: Queryable, id: number): Promise<FollowerRow> {
  const row = await selectOne<FollowerRow>(database, `${columns} WHERE f.id = ?`, [id]);
  if (!row) throw new NotFoundError(`Nothing is followed under the number ${id}.`);
  return row;
}

/** @throws ConflictError when the channel follows this address already */
export async function addFollower(database: Queryable, request: FollowerRequest): Promise<Follower> {
  const channelId = await ensureChannel(database, request.title, request.channel);
  const { changed, insertId } = await change(
    database,
    'INSERT IGNORE INTO followers (channel_id, kind, url, key_post_url, interval_seconds) VALUES (?, ?, ?, ?, ?)',
    [channelId, request.kind, request.url, request.keyPostUrl, request.intervalSeconds],
  );
  if (changed === 0) throw new ConflictError('This channel follows this address already.');
  return toFollower(await findFollower(database, insertId));
}

export async function changeFollower(
  database: Queryable,
  id: number,
  { intervalSeconds, paused }: { intervalSeconds?: number | undefined; paused?: boolean | undefined },
): Promise<Follower> {
  await change(
    database,
    `UPDATE followers SET interval_seconds = COALESCE(?, interval_seconds), paused = COALESCE(?, paused),
       next_at = LEAST(next_at, NOW(3) + INTERVAL COALESCE(?, interval_seconds) SECOND) WHERE id = ?`,
    [intervalSeconds ?? null, paused === undefined ? null : Number(paused), intervalSeconds ?? null, id],
  );
  return toFollower(await findFollower(database, id));
}

export async function removeFollower(database: Queryable, id: number): Promise<void> {
  const { changed } = await change(database, 'DELETE FROM followers WHERE id = ?', [id]);
  if (changed === 0) throw new NotFoundError(`Nothing is followed under the number ${id}.`);
}

/** Writes down what a look found, and when the next one is due. */
export async function noteLook(
  database: Queryable,
  id: number,
  outcome: string,
  failed: boolean,
): Promise<void> {
  await change(
    database,
    'UPDATE followers SET looked_at = NOW(3), outcome = ?, failed = ?, next_at = NOW(3) + INTERVAL interval_seconds SECOND WHERE id = ?',
    [outcome, Number(failed), id],
  );
}

/** Labels of builds that are in, or that were brought in once and removed since. */
export async function settledLabels(
  database: Queryable,
  { id, channelId }: { id: number; channelId: number },
): Promise<Set<string>> {
  const builds = await select<{ label: string }>(
    database,
    'SELECT label FROM builds WHERE channel_id = ? AND sequence IS NOT NULL',
    [channelId],
  );
  const follower = await selectOne<{ seen: unknown }>(database, 'SELECT seen FROM followers WHERE id = ?', [
    id,
  ]);
  const seen = z.array(z.string()).parse(parseColumn(follower?.seen ?? '[]'));
  return new Set([...seen, ...builds.map(({ label }) => label)]);
}

/** Writes down that a follower brought a build in. */
export async function noteSeen(database: Queryable, id: number, label: string): Promise<void> {
  await change(database, "UPDATE followers SET seen = JSON_ARRAY_APPEND(seen, '$', ?) WHERE id = ?", [
    label,
    id,
  ]);
}

/** Has a follower look now. @returns the number of the job; that of the one which is at it already */
export async function lookNow(database: Queryable, id: number): Promise<number> {
  const { title, channel, url } = await findFollower(database, id);
  const open = await selectOne<{ id: number }>(
    database,
    `SELECT id FROM jobs WHERE kind = 'follow' AND state IN ('waiting', 'running', 'paused') AND JSON_VALUE(params, '$.followerId') = ?`,
    [id],
  );
  if (open) return open.id;
  // Looks that found nothing are not worth a place in the list of work.
  await change(
    database,
    `DELETE FROM jobs WHERE kind = 'follow' AND state = 'done' AND JSON_VALUE(params, '$.followerId') = ?
       AND JSON_VALUE(report, '$.summary') = ?`,
    [id, nothingNew],
  );
  return addJob(database, {
    kind: 'follow',
    buildId: null,
    subject: `${title}, ${channel}: what is new at ${url}`,
    params: { followerId: id },
    owner: null,
  });
}

/** Puts a job into the queue for every follower that is due. Several processes may ask at once. @returns how many */
export async function lookWhereDue(pool: Pool): Promise<number> {
  const due = await select<{ id: number }>(
    pool,
    'SELECT id FROM followers WHERE paused = 0 AND next_at <= NOW(3)',
  );
  let started = 0;
  for (const { id } of due) {
    // Who moves the date is the one to start it.
    const { changed } = await change(
      pool,
      'UPDATE followers SET next_at = NOW(3) + INTERVAL interval_seconds SECOND WHERE id = ? AND paused = 0 AND next_at <= NOW(3)',
      [id],
    );
    if (changed === 0) continue;
    await lookNow(pool, id);
    started++;
  }
  return started;
}

function toFollower({ channelId, titleId, ...row }: FollowerRow): Follower {
  void channelId;
  void titleId;
  return {
    ...row,
    paused: row.paused === 1,
    failed: row.failed === 1,
    nextAt: row.nextAt.toISOString(),
    lookedAt: row.lookedAt?.toISOString() ?? null,
  };
}
