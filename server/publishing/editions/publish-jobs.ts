import * as z from 'zod';
import { addJob } from '../../jobs/queue.ts';
import type { Pool } from '../../platform/database/pool.ts';

export const publishParamsSchema = z.object({
  titleId: z.number().int(),
  out: z.string(),
  by: z.string(),
  isPreview: z.boolean(),
  backTo: z.number().int().nullable(),
  at: z.string(),
});
export type PublishParams = z.infer<typeof publishParamsSchema>;

/** Puts the publishing of an edition into the queue. @returns the number of its job */
export async function addPublishJob(
  pool: Pool,
  title: string,
  params: PublishParams,
  place: string,
): Promise<number> {
  return addJob(pool, { kind: 'publish', buildId: null, subject: title, params, place });
}
