import * as z from 'zod';

export const lookRequestSchema = z.object({
  source: z.string().trim().min(1, 'a folder or an archive is needed'),
});

export const lockSchema = z.enum(['open', 'partly locked', 'locked']);

/** A container of a source, as far as a look tells. */
export const seenContainerSchema = z.object({
  path: z.string(),
  format: z.string(),
  bytes: z.number(),
  /** Files in it, and what they unpack to; null where only reading it would tell. */
  entries: z.number().nullable(),
  unpackedBytes: z.number().nullable(),
  lock: lockSchema,
  /** Why its directory could not be read; null where it could. */
  reason: z.string().nullable(),
});
export type SeenContainer = z.infer<typeof seenContainerSchema>;

/** A folder with all that is below it. */
export const seenFolderSchema = z.object({ path: z.string(), files: z.number(), bytes: z.number() });
export type SeenFolder = z.infer<typeof seenFolderSchema>;

/** What lies where in a source, largest first: the one object that `worvel look --json` prints. */
export const seenSourceSchema = z.object({
  source: z.string(),
  kind: z.enum(['folder', 'file']),
  /** The lowest folder that holds everything; paths count from it. */
  contentRoot: z.string(),
  files: z.number(),
  bytes: z.number(),
  containers: z.array(seenContainerSchema),
  folders: z.array(seenFolderSchema),
  problems: z.array(z.object({ path: z.string(), reason: z.string() })),
  seconds: z.number(),
});
export type SeenSource = z.infer<typeof seenSourceSchema>;
