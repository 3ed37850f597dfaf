import { intakeRequestSchema } from '../../contract/builds.ts';
import { createJob } from '../../server/acquire/builds/index-jobs.ts';
import type { TestHouse } from './worvel.ts';

/** Jobs that would bring in builds of these labels; nobody runs them by itself. */
export async function indexJobsOf(house: TestHouse, labels: readonly string[]): Promise<number[]> {
  const jobs: number[] = [];
  for (const build of labels)
    jobs.push(
      await createJob(
        house.pool,
        intakeRequestSchema.parse({ source: '/nowhere', title: 'Waiting', build }),
        null,
      ),
    );
  return jobs;
}
