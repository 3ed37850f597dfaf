import { isDeepStrictEqual } from 'node:util';
import type { IntakeRequest } from '../../../contract/builds.ts';
import { Choice, type ChoiceGlobs } from '../../../core/containers/choice.ts';
import { joinSettings, keepSettings, proposeNext, settingsOf } from './settings.ts';
import { inTransaction, type Pool } from '../../platform/database/pool.ts';
import { change, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, PlainError, messageOf } from '../../platform/plain-error.ts';
import { isDead, leaseSeconds, type OpenJobRow } from '../../jobs/queue.ts';

/**
 * Makes a job for a build, and title, channel and build where they are new. A job for the same build and source
 * that was stopped, failed or died is taken up again instead.
 * @param owner who runs it at once; null leaves it to whoever takes it from the queue
 * @param place where its source can be reached; null where anybody reaches it
 * @throws ConflictError when the build is there already and is not to be replaced, or is being indexed
 */
export async function createJob(
  pool: Pool,
  request: IntakeRequest,
  owner: string | null,
  place: string | null = null,
): Promise<number> {
  const { threads, priority } = request;
  return inTransaction(pool, async (connection) => {
    const channelId = await ensureChannel(connection, request.title, request.channel);
    const there = await findBuildRow(connection, channelId, request.build);
    // A build that is there is read again as it was; a new one as the build before it.
    const before = there
      ? { source: there.source, settings: settingsOf(there.settings) }
      : await proposeNext(connection, channelId);
    const source = request.source ?? before?.source;
    if (source === undefined)
      throw new PlainError(`The channel ${request.channel} has no build yet: say where this one lies.`);
    const settings = joinSettings(before?.settings ?? null, request.settings);
    checkChoice(settings.choice);
    const build = there ?? (await addBuild(connection, channelId, request, source));
    const open = await selectOne<OpenJobRow>(
      connection,
      `SELECT j.id, j.state, j.owner, j.lease_until > NOW(3) AS leaseLives
         FROM jobs j WHERE j.build_id = ? AND j.kind = 'index' AND j.state <> 'done' ORDER BY j.id DESC LIMIT 1 FOR UPDATE`,
      [build.id],
    );
    if (open && (open.state === 'waiting' || (open.state === 'running' && !isDead(open)))) {
      throw new ConflictError(`The build ${request.build} is being indexed already.`);
    }
    if (build.sequence !== null && !request.replace) {
      throw new ConflictError(
        `The build ${request.build} is indexed already; say --replace to index it again.`,
      );
    }
    await keepSettings(connection, channelId, build.id, source, settings);
    const isSame = build.source === source && isDeepStrictEqual(settingsOf(build.settings), settings);
    if (open && isSame) {
      await change(
        connection,
        `UPDATE jobs SET state = ?, owner = ?, lease_until = NOW(3) + INTERVAL ? SECOND, stop_requested = 0, error = NULL,
           finished_at = NULL, threads = ?, priority = ?, place = ? WHERE id = ?`,
        [owner ? 'running' : 'waiting', owner, leaseSeconds, threads, priority, place, open.id],
      );
      return open.id;
    }
    if (build.sequence === null) {
      await change(connection, 'UPDATE builds SET source = ? WHERE id = ?', [source, build.id]);
    }
    if (open) await change(connection, "UPDATE jobs SET state = 'failed' WHERE id = ?", [open.id]);
    const { insertId } = await change(
      connection,
      `INSERT INTO jobs (state, build_id, replaces, threads, owner, lease_until, source, priority, place)
       VALUES (?, ?, ?, ?, ?, NOW(3) + INTERVAL ? SECOND, ?, ?, ?)`,
      [
        owner ? 'running' : 'waiting',
        build.id,
        request.replace ? 1 : 0,
        threads,
        owner,
        leaseSeconds,
        source,
        priority,
        place,
      ],
    );
    return insertId;
  });
}

/** @throws PlainError for a glob that cannot be understood, before anything is done */
function checkChoice(globs: ChoiceGlobs): void {
  try {
    new Choice(globs);
  } catch (error) {
    throw new PlainError(messageOf(error));
  }
}

/** Makes title and channel where they are new. @returns the channel's number */
export async function ensureChannel(database: Queryable, title: string, channel: string): Promise<number> {
  await change(database, "INSERT IGNORE INTO titles (name, rights) VALUES (?, '')", [title]);
  const titleRow = await selectOne<{ id: number }>(database, 'SELECT id FROM titles WHERE name = ?', [title]);
  await change(database, 'INSERT IGNORE INTO channels (title_id, name) VALUES (?, ?)', [
    titleRow?.id ?? 0,
    channel,
  ]);
  const row = await selectOne<{ id: number }>(
    database,
    'SELECT id FROM channels WHERE title_id = ? AND name = ?',
    [titleRow?.id ?? 0, channel],
  );
  if (!row) throw new Error('ensureChannel: the channel was not made');
  return row.id;
}

interface BuildRow {
  id: number;
  sequence: number | null;
  source: string;
  settings: unknown;
}

async function findBuildRow(database: Queryable, channelId: number, label: string): Promise<BuildRow | null> {
  return selectOne<BuildRow>(
    database,
    'SELECT id, sequence, source, settings FROM builds WHERE channel_id = ? AND label = ? FOR UPDATE',
    [channelId, label],
  );
}

async function addBuild(
  database: Queryable,
  channelId: number,
  { build, releasedAt }: IntakeRequest,
  source: string,
): Promise<BuildRow> {
  await change(
    database,
    'INSERT IGNORE INTO builds (channel_id, label, source, released_at) VALUES (?, ?, ?, ?)',
    [channelId, build, source, releasedAt ? new Date(releasedAt) : new Date()],
  );
  const row = await findBuildRow(database, channelId, build);
  if (!row) throw new Error('addBuild: the build was not made');
  return row;
}
