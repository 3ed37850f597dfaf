import * as z from 'zod';
import { folderMoveSchema } from '../../../contract/findings.ts';
import { comparersVersion } from '../../../core/kinds/compare.ts';
import type { FolderMove } from '../../../core/findings/folder-moves.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { change, selectOne, type Queryable } from '../../platform/database/rows.ts';

export interface SpanEvidence {
  /** The state of its builds in which the span was looked through. */
  state: string;
  /** Counts up with everything that changes its findings. */
  revision: number;
  moves: FolderMove[];
}

/** What was found out about a span as a whole; null where it was not looked through. */
export async function spanEvidence(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
): Promise<SpanEvidence | null> {
  const row = await selectOne<{ state: string; revision: number; moves: string | null }>(
    database,
    'SELECT state, revision, folder_moves AS moves FROM span_evidence WHERE channel_id = ? AND from_build = ? AND to_build = ?',
    [to.channelId, from.id, to.id],
  );
  return (
    row && { ...row, moves: row.moves === null ? [] : z.array(folderMoveSchema).parse(JSON.parse(row.moves)) }
  );
}

/**
 * The state of two builds and of what compares them, as it is written down when their span was looked through: it is looked
 * through again when one of them was indexed or read anew, or when comparing has learned something.
 */
export function spanState(from: PlacedBuild, to: PlacedBuild): string {
  const states = [from, to].map(
    ({ indexedAt, factsVersion }) => `${indexedAt ?? ''} ${factsVersion ?? 'unread'}`,
  );
  return `${states.join(' ')} ${comparersVersion}`;
}

/** To be called when something was said of a span that changes its findings. */
export async function bumpSpan(database: Queryable, from: PlacedBuild, to: PlacedBuild): Promise<void> {
  await change(
    database,
    `INSERT INTO span_evidence (channel_id, from_build, to_build, state, finished_at) VALUES (?, ?, ?, '', NOW(3))
     ON DUPLICATE KEY UPDATE revision = revision + 1`,
    [to.channelId, from.id, to.id],
  );
}

/** Has the spans of a channel looked through again when somebody asks for them: what their files are may be otherwise now. */
export async function lookAgain(database: Queryable, channelId: number): Promise<void> {
  await change(
    database,
    "UPDATE span_evidence SET state = '', revision = revision + 1 WHERE channel_id = ?",
    [channelId],
  );
}

export async function finishSpan(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
  moves: readonly FolderMove[],
): Promise<void> {
  await change(
    database,
    `INSERT INTO span_evidence (channel_id, from_build, to_build, state, folder_moves, finished_at) VALUES (?, ?, ?, ?, ?, NOW(3))
     ON DUPLICATE KEY UPDATE revision = revision + 1, state = VALUES(state), folder_moves = VALUES(folder_moves), finished_at = NOW(3)`,
    [to.channelId, from.id, to.id, spanState(from, to), JSON.stringify(moves)],
  );
}
