import type { JobKind } from '../../contract/work.ts';
import { readFacts } from '../decode/read-facts.ts';
import type { ReaderProcesses } from '../decode/reader-processes.ts';
import { evidenceJob } from '../changes/evidence/evidence-job.ts';
import type { IntakeThreads } from '../ingest/intake-threads.ts';
import { followJob } from '../ingest/follow-job.ts';
import { indexJob, type IngestServices } from '../ingest/index-job.ts';
import { unlockJob } from '../ingest/keys/unlock-job.ts';
import type { JobDefinition } from '../jobs/define-job.ts';
import { gatheredFileFinder } from '../library/references/find-file.ts';
import { labelStaged } from '../library/recipes/label-staged.ts';
import { recipesJob } from '../library/recipes/recipes-job.ts';
import { recipeFinder, recipesOfJob } from '../library/recipes/recipes.ts';
import { checkJob } from '../maintenance/check-job.ts';
import { removeJob } from '../maintenance/remove-job.ts';

/** What a process keeps between jobs. */
export interface JobServices extends IngestServices {
  processes: ReaderProcesses;
}

/** The table of what jobs do. */
const definitions: { [Kind in JobKind]: unknown } = {
  index: indexJob,
  unlock: unlockJob,
  follow: followJob,
  recipes: recipesJob,
  evidence: evidenceJob,
  check: checkJob,
  remove: removeJob,
};

/** Parameters are checked by the definition's own schema before it is run: which ones they are is its own affair. */
export function definitionOf(kind: JobKind): JobDefinition<unknown, JobServices> {
  return definitions[kind] as JobDefinition<unknown, JobServices>;
}

export function jobServices(intakeThreads: IntakeThreads, processes: ReaderProcesses): JobServices {
  return {
    intakeThreads,
    processes,
    async readFacts(request) {
      const recipes = await recipesOfJob(request.pool, request.jobId);
      await labelStaged(request.pool, request.jobId, recipes);
      const findFile = gatheredFileFinder({
        database: request.pool,
        jobId: request.jobId,
        unchangedContent: (digest) => request.known.unchangedContent(digest),
      });
      await readFacts({ ...request, processes, findFile, recipeFor: recipeFinder(recipes) });
    },
  };
}
