import type { JobKind } from '../../contract/work.ts';
import { readJob, type ReadServices } from '../decode/read-job.ts';
import type { ReaderProcesses } from '../decode/reader-processes.ts';
import { lookAgain } from '../changes/evidence/span-evidence.ts';
import { evidenceJob } from '../changes/evidence/evidence-job.ts';
import { haulJob } from '../hauls/haul-job.ts';
import type { IntakeThreads } from '../ingest/intake-threads.ts';
import { followJob } from '../ingest/follow-job.ts';
import { indexJob, type IngestServices } from '../ingest/index-job.ts';
import { unlockJob } from '../ingest/keys/unlock-job.ts';
import type { JobDefinition } from '../jobs/define-job.ts';
import { readDescriptions } from '../library/formats/descriptions.ts';
import { containerSheetsOf, sheetsOfJob } from '../library/formats/sheets.ts';
import { fileFinder } from '../library/references/find-file.ts';
import { labelStaged } from '../library/recipes/label-staged.ts';
import { recipesJob, type DescribedServices } from '../library/recipes/recipes-job.ts';
import { recipesOfJob } from '../library/recipes/recipes.ts';
import { backupJob } from '../maintenance/backup/backup-job.ts';
import { checkJob } from '../maintenance/check-job.ts';
import { removeJob } from '../maintenance/remove-job.ts';
import { publishJob } from '../publishing/editions/publish-job.ts';
import { onKey } from './on-key.ts';

/** What a process keeps between jobs. */
export interface JobServices extends IngestServices, ReadServices, DescribedServices {
  processes: ReaderProcesses;
}

/** The table of what jobs do. */
const definitions: { [Kind in JobKind]: unknown } = {
  index: indexJob,
  unlock: unlockJob,
  follow: followJob,
  recipes: recipesJob,
  read: readJob,
  evidence: evidenceJob,
  haul: haulJob,
  check: checkJob,
  remove: removeJob,
  publish: publishJob,
  backup: backupJob,
};

/** Parameters are checked by the definition's own schema before it is run: which ones they are is its own affair. */
export function definitionOf(kind: JobKind): JobDefinition<unknown, JobServices> {
  return definitions[kind] as JobDefinition<unknown, JobServices>;
}

export function jobServices(intakeThreads: IntakeThreads, processes: ReaderProcesses): JobServices {
  return {
    intakeThreads,
    processes,
    async labelGathered(pool, jobId) {
      await labelStaged(pool, jobId, await recipesOfJob(pool, jobId), await sheetsOfJob(pool, jobId));
    },
    containerSheets: async (pool, jobId) => containerSheetsOf(await sheetsOfJob(pool, jobId)),
    lookAgain,
    findFileIn: (pool, build) => fileFinder(pool, build),
    descriptionsOf: readDescriptions,
    onKey,
  };
}
