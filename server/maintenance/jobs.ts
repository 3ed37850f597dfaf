import type { NamedBuild } from '../acquire/builds/builds.ts';
import type { Queryable } from '../platform/database/rows.ts';
import { addJob } from '../jobs/queue.ts';

/** @param owner who runs it at once; null leaves it to the queue */
export async function addCheck(database: Queryable, owner: string | null): Promise<number> {
  return addJob(database, { kind: 'check', buildId: null, subject: 'The whole store', params: null, owner });
}

export async function addRemoval(
  database: Queryable,
  build: NamedBuild,
  owner: string | null,
): Promise<number> {
  const { title, channel, label } = build;
  return addJob(database, {
    kind: 'remove',
    buildId: build.id,
    subject: `${title}, ${channel}, build ${label}`,
    params: null,
    owner,
  });
}
