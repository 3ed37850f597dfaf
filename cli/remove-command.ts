import { jobSchema } from '../contract/work.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import { findChannel, findTitle } from './find-title.ts';
import type { CommonOptions } from './options.ts';
import { printReport } from './print-report.ts';
import { showProgress } from './progress.ts';

export interface RemoveOptions extends CommonOptions {
  title: string;
  build: string;
  channel: string;
  json?: boolean;
}

/** Removes a build, and frees what no other build holds. */
export async function removeCommand({
  title,
  build: label,
  channel,
  json = false,
  data,
}: RemoveOptions): Promise<void> {
  const { report } = await withApplication(dataPath(data), async (application) => {
    const { builds } = findChannel(await findTitle(application, title), channel);
    const build = builds.find((candidate) => candidate.label === label);
    if (!build) throw new PlainError(`There is no build ${label} in the channel ${channel} of ${title}.`);
    const job = await getJson(application, `builds/${build.id}`, { method: 'DELETE' });
    return application.follow(jobSchema.parse(job), showProgress);
  });
  printReport(report, json);
}
