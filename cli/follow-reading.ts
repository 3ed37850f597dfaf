import * as z from 'zod';
import { titlesSchema } from '../contract/builds.ts';
import { jobSchema } from '../contract/work.ts';
import { getJson, type Connection } from './connection.ts';
import { clearProgress, showProgress } from './progress.ts';

const readingSchema = z.object({ job: jobSchema.nullable() });

/** Has the facts of a build read, as far as that was not done, and waits for it. */
export async function followReading(
  application: Connection,
  build: Record<'title' | 'channel' | 'build', string>,
  onProgress = showProgress,
): Promise<void> {
  const { job } = readingSchema.parse(await getJson(application, 'reading', { body: build }));
  if (job) await application.follow(job, onProgress);
  clearProgress();
}

/** The same of all builds of a title that have something left to be read. */
export async function followReadings(application: Connection, title: string): Promise<void> {
  const titles = titlesSchema.parse(await getJson(application, 'titles'));
  for (const { name: channel, builds } of titles.find(({ name }) => name === title)?.channels ?? [])
    for (const { label, sequence, factsVersion } of builds)
      if (sequence !== null && factsVersion === null)
        await followReading(application, { title, channel, build: label });
}
