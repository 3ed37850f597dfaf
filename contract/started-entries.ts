import * as z from 'zod';

/** Assets of a build that drafts are made of, each filled in from what is known. */
export const startEntriesSchema = z.object({
  channel: z.number().int(),
  build: z.string().max(120),
  paths: z.array(z.string().min(1).max(4096)).min(1).max(200),
});

/** The drafts that were made, by number: whoever starts them from elsewhere needs to know no more. */
export const startedEntriesSchema = z.array(z.object({ id: z.number().int() }));
export type StartedEntries = z.infer<typeof startedEntriesSchema>;
