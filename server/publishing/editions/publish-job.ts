import { plural } from '../../../core/figures.ts';
import { listTitles } from '../../acquire/builds/builds.ts';
import type { ReadServices } from '../../decode/read-job.ts';
import { defineJob } from '../../jobs/define-job.ts';
import { NotFoundError } from '../../platform/plain-error.ts';
import { publishParamsSchema, type PublishParams } from './publish-jobs.ts';

const listedLines = 1000;

/** Publishes an edition of a title. Stopped or killed, it leaves the edition before as it was. */
export const publishJob = defineJob<PublishParams, ReadServices>({
  kind: 'publish',
  params: publishParamsSchema,
  async run(context) {
    const { titleId, ...asked } = context.params;
    const title = (await listTitles(context.pool)).find(({ id }) => id === titleId);
    if (!title) throw new NotFoundError(`There is no title ${titleId}.`);
    // What renders pages is half of the code of all jobs: nobody else waits for it.
    const { publishEdition } = await import('./publish-edition.ts');
    const { number, entries, problems, written, kept } = await publishEdition(context, { title, ...asked });
    const what = asked.isPreview ? 'A preview' : `Edition ${number}`;
    return {
      report: {
        summary: `${what} with ${entries === 1 ? '1 entry' : `${entries.toLocaleString('en')} entries`} is in ${asked.out}: ${plural(written, 'file')} written, ${plural(kept, 'file')} as before.`,
        lines: problems.slice(0, listedLines).map(({ name, text, mend }) => `${name}: ${text} ${mend}`),
      },
    };
  },
});
