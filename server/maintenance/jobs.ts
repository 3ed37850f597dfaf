import type { NamedBuild } from '../acquire/builds/builds.ts';
import { addJob } from '../jobs/queue.ts';
import type { Queryable } from '../platform/database/rows.ts';
import { backupJob } from './backup/backup-job.ts';
import { checkJob } from './check-job.ts';
import { removeJob } from './remove-job.ts';

export async function addCheck(database: Queryable): Promise<number> {
  return addJob(database, { ...checkJob, buildId: null, subject: 'The whole store', params: null });
}

export async function addBackup(database: Queryable, folder: string, place: string): Promise<number> {
  return addJob(database, { ...backupJob, buildId: null, subject: folder, params: { folder }, place });
}

export async function addRemoval(database: Queryable, build: NamedBuild): Promise<number> {
  const { title, channel, label } = build;
  return addJob(database, {
    ...removeJob,
    buildId: build.id,
    subject: `${title}, ${channel}, build ${label}`,
    params: null,
  });
}
