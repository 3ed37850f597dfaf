import {
  noPassState,
  passStateSchema,
  type Mark,
  type PassChange,
  type PassOutcome,
  type PassState,
} from '../../../contract/pass.ts';
import type { Build } from '../../../contract/builds.ts';
import { plural } from '../../../core/figures.ts';
import { inLockedTransaction, type Pool, type PoolConnection } from '../../platform/database/pool.ts';
import { findBuildOf, findTitleOf } from '../../acquire/builds/builds.ts';
import { scopeOf } from '../../people/history/kept-items.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { addChange, addItems, itemsOf, markUndone } from '../../people/history/change-log.ts';
import { change, select } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';
import { stateColumns, toState } from './states.ts';

export interface PassAction {
  by: string;
  /** The newest change that whoever asks has seen. */
  seen: number;
  change: PassChange;
}

const rowsAtOnce = 500;

/**
 * Changes what is said of findings, all in one batch that can be undone. What somebody else changed since `seen` is left as
 * it is, and told: nobody overwrites unseen what another one did.
 */
export async function changeStates(
  pool: Pool,
  from: Build,
  to: Build,
  paths: readonly string[],
  { by, seen, change: wanted }: PassAction,
): Promise<PassOutcome> {
  return inLockedTransaction(pool, lockOf(from, to), async (connection) => {
    const conflicts: PassOutcome['conflicts'] = [];
    const next: { path: string; state: PassState; before: PassState | null }[] = [];
    for (let at = 0; at < paths.length; at += rowsAtOnce) {
      const part = paths.slice(at, at + rowsAtOnce);
      const states = await lockStates(connection, from, to, part);
      for (const path of part) {
        const before = states.get(path) ?? null;
        const state = applied(before ?? noPassState, wanted);
        if (isSaid(before ?? noPassState, state)) continue;
        if (before && before.revision > seen && before.changedBy !== by)
          conflicts.push({ path, state: before });
        else next.push({ path, state, before });
      }
    }
    if (next.length === 0) return { batch: 0, changed: 0, conflicts };
    const batch = await addBatch(connection, from, to, by, describeChange(wanted, next.length));
    await writeStates(connection, from, to, batch, by, next);
    return { batch, changed: next.length, conflicts };
  });
}

/** Takes a batch back. What was changed again since then stays. @throws ConflictError where it was undone already */
export async function undoBatch(pool: Pool, batchId: number, by: string): Promise<PassOutcome> {
  const { fromBuild, toBuild, what } = await scopeOf(pool, batchId);
  if (fromBuild === undefined || toBuild === undefined)
    throw new NotFoundError(`The change ${batchId} is of no span.`);
  const [from, to] = await Promise.all([findBuildOf(pool, fromBuild), findBuildOf(pool, toBuild)]);
  return inLockedTransaction(pool, lockOf(from, to), async (connection) => {
    await markUndone(connection, batchId, 'marks');
    const rows = await itemsOf(connection, batchId);
    const conflicts: PassOutcome['conflicts'] = [];
    const next: { path: string; state: PassState; before: PassState | null }[] = [];
    for (let at = 0; at < rows.length; at += rowsAtOnce) {
      const part = rows.slice(at, at + rowsAtOnce);
      const states = await lockStates(
        connection,
        from,
        to,
        part.map(({ item }) => item),
      );
      for (const { item: path, before } of part) {
        const now = states.get(path);
        if (!now) continue;
        if (now.revision !== batchId) conflicts.push({ path, state: now });
        else
          next.push({
            path,
            state: before === null ? noPassState : passStateSchema.parse(JSON.parse(before)),
            before: now,
          });
      }
    }
    if (next.length === 0) return { batch: 0, changed: 0, conflicts };
    const batch = await addBatch(connection, from, to, by, `took back: ${what}`);
    await writeStates(connection, from, to, batch, by, next);
    return { batch, changed: next.length, conflicts };
  });
}

/**
 * Changes of one span go one after the other: two people who mark what nobody has marked yet lock no row, and the numbers of
 * their batches must become visible in their order, since listeners ask for what is newer than the last one they saw.
 */
function lockOf(from: Build, to: Build): string {
  return `worvel marks ${to.channelId} ${from.id} ${to.id}`;
}

async function lockStates(
  connection: PoolConnection,
  from: Build,
  to: Build,
  paths: readonly string[],
): Promise<Map<string, PassState>> {
  const byDigest = new Map(paths.map((path) => [pathDigest(path).toString('hex'), path]));
  if (byDigest.size === 0) return new Map();
  const rows = await select<{ digest: Buffer } & Parameters<typeof toState>[0]>(
    connection,
    `SELECT m.path_digest AS digest, ${stateColumns} FROM marks m
      WHERE m.channel_id = ? AND m.from_build = ? AND m.to_build = ? AND m.path_digest IN (?) FOR UPDATE`,
    [to.channelId, from.id, to.id, [...byDigest.keys()].map((digest) => Buffer.from(digest, 'hex'))],
  );
  return new Map(rows.map((row) => [byDigest.get(row.digest.toString('hex')) ?? '', toState(row)]));
}

function applied(
  before: PassState,
  { mark, assignee, addLabels = [], removeLabels = [] }: PassChange,
): PassState {
  const labels = [
    ...new Set([...before.labels.filter((label) => !removeLabels.includes(label)), ...addLabels]),
  ].sort();
  return { ...before, mark: mark ?? before.mark, assignee: assignee ?? before.assignee, labels };
}

function isSaid(before: PassState, now: PassState): boolean {
  return (
    before.mark === now.mark &&
    before.assignee === now.assignee &&
    before.labels.join('\n') === now.labels.join('\n')
  );
}

async function addBatch(
  connection: PoolConnection,
  from: Build,
  to: Build,
  by: string,
  what: string,
): Promise<number> {
  const scope = {
    titleId: await findTitleOf(connection, to.channelId),
    channelId: to.channelId,
    fromBuild: from.id,
    toBuild: to.id,
  };
  return addChange(connection, 'marks', scope, by, what);
}

async function writeStates(
  connection: PoolConnection,
  from: Build,
  to: Build,
  batch: number,
  by: string,
  next: readonly { path: string; state: PassState; before: PassState | null }[],
): Promise<void> {
  for (let at = 0; at < next.length; at += rowsAtOnce) {
    const part = next.slice(at, at + rowsAtOnce).map((item) => ({ ...item, digest: pathDigest(item.path) }));
    // What was joined by hand may have no row of its own yet.
    await change(
      connection,
      `INSERT IGNORE INTO paths (digest, path) VALUES ${part.map(() => '(?, ?)').join(', ')}`,
      part.flatMap(({ digest, path }) => [digest, path]),
    );
    await change(
      connection,
      `INSERT INTO marks (channel_id, from_build, to_build, path_digest, mark, assignee, labels, revision, changed_by, changed_at)
       VALUES ${part.map(() => '(?, ?, ?, ?, ?, ?, ?, ?, ?, NOW(3))').join(', ')}
       ON DUPLICATE KEY UPDATE mark = VALUES(mark), assignee = VALUES(assignee), labels = VALUES(labels),
         revision = VALUES(revision), changed_by = VALUES(changed_by), changed_at = VALUES(changed_at)`,
      part.flatMap(({ digest, state }) => [
        to.channelId,
        from.id,
        to.id,
        digest,
        state.mark,
        state.assignee,
        JSON.stringify(state.labels),
        batch,
        by,
      ]),
    );
    await addItems(
      connection,
      batch,
      part.map(({ path, state, before }) => ({
        item: path,
        before: before && JSON.stringify(before),
        after: JSON.stringify({ ...state, revision: batch, changedBy: by }),
      })),
    );
  }
}

const words: Record<Mark, string> = { open: 'opened again', kept: 'kept', aside: 'set aside', done: 'done' };

function describeChange(
  { mark, assignee, addLabels = [], removeLabels = [] }: PassChange,
  count: number,
): string {
  const parts: string[] = [];
  if (mark) parts.push(words[mark]);
  if (assignee !== undefined) parts.push(assignee === '' ? 'assigned to nobody' : `assigned to ${assignee}`);
  if (addLabels.length > 0) parts.push(`labelled ${addLabels.join(', ')}`);
  if (removeLabels.length > 0) parts.push(`without ${removeLabels.join(', ')}`);
  return `${plural(count, 'finding')} ${parts.join(', ')}`.slice(0, 200);
}
