import * as z from 'zod';

/** A file of a backup, by its path in there and its sum. */
const keptFileSchema = z.object({
  path: z.string().regex(/^(?!\/)(?!.*(^|\/)\.\.(\/|$))[^\0]+$/, 'leads out of the backup'),
  bytes: z.number().int().min(0),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
});

/** `backup.json`: what a backup holds, written last. */
export const backupRecordSchema = z.object({
  worvelBackup: z.literal(1),
  version: z.string(),
  madeAt: z.string(),
  /** Names of the migrations that the database has been through. */
  migrations: z.array(z.string()),
  /** Whether contents lie in an object store of their own, and are not in here. */
  isStoreElsewhere: z.boolean(),
  /** Whether the master key is in here; else it comes from WORVEL_MASTER_KEY. */
  hasMasterKey: z.boolean(),
  files: z.array(keptFileSchema),
});
export type BackupRecord = z.infer<typeof backupRecordSchema>;

export const backupRequestSchema = z.object({ folder: z.string().min(1, 'a folder is needed').max(4096) });
