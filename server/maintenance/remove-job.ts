import * as z from 'zod';
import { bytesText } from '../../core/figures.ts';
import { inTransaction, type Pool } from '../platform/database/pool.ts';
import { change, select, selectOne } from '../platform/database/rows.ts';
import { clearStaging } from '../ingest/staging.ts';
import { defineJob, type JobContext } from '../jobs/define-job.ts';
import { closeGap } from './close-gap.ts';
import { freeContents } from './free-contents.ts';

/** Removes a build, and frees what no other build holds. What was done before it was stopped stays done. */
export const removeJob = defineJob({
  kind: 'remove',
  params: z.null(),
  exclusive: true,
  async run({ pool, store, buildId, subject, meter, signal, count }: JobContext<null, unknown>) {
    await store.mend();
    meter.begin('freeing space', null, null);
    if (buildId) await removeBuild(pool, buildId, subject);
    const { contents, bytes } = await freeContents(pool, store, signal, (done) => count(done, 0));
    return {
      report: {
        summary: `The build is gone. ${contents.toLocaleString('en')} contents that no other build holds were freed, ${bytesText(Math.max(0, bytes))}.`,
        lines: [],
      },
    };
  },
});

/** Takes a build out of the tables, in one transaction. Jobs that were about it stay, by its name. */
async function removeBuild(pool: Pool, buildId: number, subject: string): Promise<void> {
  const jobs = await select<{ id: number }>(pool, 'SELECT id FROM jobs WHERE build_id = ?', [buildId]);
  for (const { id } of jobs) await clearStaging(pool, id);
  await inTransaction(pool, async (connection) => {
    const build = await selectOne<{ channelId: number; sequence: number | null }>(
      connection,
      'SELECT channel_id AS channelId, sequence FROM builds WHERE id = ? FOR UPDATE',
      [buildId],
    );
    if (!build) return;
    await selectOne(connection, 'SELECT id FROM channels WHERE id = ? FOR UPDATE', [build.channelId]);
    if (build.sequence !== null) await closeGap(connection, build.channelId, build.sequence);
    await change(connection, 'DELETE FROM problems WHERE build_id = ?', [buildId]);
    for (const table of ['marks', 'changes', 'remarks', 'likeness_pairs', 'span_evidence'])
      await change(connection, `DELETE FROM ${table} WHERE from_build = ? OR to_build = ?`, [
        buildId,
        buildId,
      ]);
    // Jobs that would bring it in again are over with it.
    await change(
      connection,
      `UPDATE jobs SET build_id = NULL, subject = ?, state = IF(state IN ('waiting', 'paused'), 'stopped', state)
        WHERE build_id = ?`,
      [subject, buildId],
    );
    await change(connection, 'DELETE FROM builds WHERE id = ?', [buildId]);
  });
}
