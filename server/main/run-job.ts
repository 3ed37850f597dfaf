import type { JobKind } from '../../contract/work.ts';
import { runEvidence } from '../changes/evidence/run-evidence.ts';
import { runCheck } from '../maintenance/run-check.ts';
import { runRemove } from '../maintenance/run-remove.ts';
import { runIndex, type IndexOptions } from '../ingest/run-index.ts';
import { runUnlock } from '../acquire/keyring/run-unlock.ts';
import { runRecipes } from '../library/recipes/run-recipes.ts';
import { runFollow } from '../acquire/ways-in/run-follow.ts';
import type { DoneOutcome } from '../jobs/finish-with.ts';

/** The table of what jobs do. */
const runners: Record<JobKind, (options: IndexOptions) => Promise<Pick<DoneOutcome, 'result' | 'report'>>> = {
  index: async (options) => ({ result: await runIndex(options), report: null }),
  check: async (options) => ({ result: null, report: await runCheck(options) }),
  remove: async (options) => ({ result: null, report: await runRemove(options) }),
  follow: async (options) => ({ result: null, report: await runFollow(options) }),
  recipes: async (options) => ({ result: null, report: await runRecipes(options) }),
  evidence: async (options) => ({ result: null, report: await runEvidence(options) }),
  unlock: async (options) => ({ result: null, report: await runUnlock(options) }),
};

/** Carries out a job of any kind. @throws StoppedError when somebody asked for it */
export async function runJob(kind: JobKind, options: IndexOptions): Promise<DoneOutcome> {
  return { state: 'done', ...(await runners[kind](options)) };
}
