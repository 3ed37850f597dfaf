import { resolve } from 'node:path';
import { jobSchema } from '../contract/work.ts';
import { startedEditionSchema } from '../contract/catalogue.ts';
import { restoreBackup } from '../server/maintenance/backup/restore.ts';
import { plural } from '../core/figures.ts';
import { dataPath, getJson, runningServer, withApplication } from './connection.ts';
import type { CommonOptions } from './options.ts';
import { clearProgress, showProgress } from './progress.ts';
import { PlainError } from '../server/platform/plain-error.ts';

/** Writes a backup into a folder, beside a server that goes on serving. */
export async function backupCommand(folder: string, { data }: CommonOptions): Promise<void> {
  await withApplication(dataPath(data), async (application) => {
    const { job } = startedEditionSchema.parse(
      await getJson(application, 'backup', { body: { folder: resolve(folder) } }),
    );
    try {
      const ended = await application.follow(
        jobSchema.parse(await getJson(application, `work/${job}`)),
        showProgress,
      );
      if (ended.report) process.stdout.write(`${[ended.report.summary, ...ended.report.lines].join('\n')}\n`);
    } finally {
      clearProgress();
    }
  });
}

/** Makes a new data folder of a backup. */
export async function restoreCommand(folder: string, { data }: CommonOptions): Promise<void> {
  const target = dataPath(data);
  const server = await runningServer(target);
  if (server !== null)
    throw new PlainError(`A server runs on ${target}, at ${server}: a backup is restored into a new folder.`);
  const { files } = await restoreBackup(resolve(folder), target, (line) => process.stderr.write(`${line}\n`));
  process.stdout.write(
    `${plural(files, 'file')} were restored into ${target}. What was under way is stopped, and can be resumed.\n`,
  );
}
