import * as z from 'zod';
import { labelSchema, noPassState, type Mark, type PassState } from '../../../contract/pass.ts';
import type { Build } from '../../../contract/builds.ts';
import { parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';

interface StateRow {
  path: string;
  mark: Mark;
  assignee: string;
  labels: unknown;
  revision: number;
  changedBy: string;
  changedAt: Date;
}

export const stateColumns =
  'm.mark, m.assignee, m.labels, m.revision, m.changed_by AS changedBy, m.changed_at AS changedAt';

export function toState({
  mark,
  assignee,
  labels,
  revision,
  changedBy,
  changedAt,
}: Omit<StateRow, 'path'>): PassState {
  return {
    mark,
    assignee,
    labels: z.array(labelSchema).parse(parseColumn(labels)),
    revision,
    changedBy,
    changedAt: changedAt.toISOString(),
  };
}

/** What was said of a span's findings, by path. */
export async function listStates(
  database: Queryable,
  from: Build,
  to: Build,
): Promise<Map<string, PassState>> {
  const rows = await select<StateRow>(
    database,
    `SELECT p.path, ${stateColumns} FROM marks m JOIN paths p ON p.digest = m.path_digest
      WHERE m.channel_id = ? AND m.from_build = ? AND m.to_build = ?`,
    [to.channelId, from.id, to.id],
  );
  return new Map(rows.map((row) => [row.path, toState(row)]));
}

export function stateIn(states: ReadonlyMap<string, PassState>, path: string): PassState {
  return states.get(path) ?? noPassState;
}

/** The newest change of marks in a span; 0 where there was none. */
export async function newestRevision(database: Queryable, from: Build, to: Build): Promise<number> {
  const row = await selectOne<{ id: number | null }>(
    database,
    "SELECT MAX(id) AS id FROM changes WHERE channel_id = ? AND from_build = ? AND to_build = ? AND subject = 'marks'",
    [to.channelId, from.id, to.id],
  );
  return row?.id ?? 0;
}
