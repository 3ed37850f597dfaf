import * as z from 'zod';
import { arrangementSchema } from './arrangements.ts';
import { haulSettingsSchema } from './haul-settings.ts';
import { kindSchema } from './kinds.ts';
import { candidateSchema } from './references.ts';

export const haulNameSchema = z.string().trim().min(1, 'A haul needs a name.').max(200);

export const haulSchema = z.object({
  id: z.number().int(),
  name: z.string(),
  settings: haulSettingsSchema,
  assets: z.number().int(),
  /** Of the assets that were chosen, as they lie in their builds. */
  bytes: z.number(),
  changedAt: z.string(),
});
export type Haul = z.infer<typeof haulSchema>;
export const haulsSchema = z.array(haulSchema);

export const haulAssetsSchema = z.object({
  total: z.number().int(),
  assets: z.array(z.object({ path: z.string(), build: z.string() })),
});
export type HaulAssets = z.infer<typeof haulAssetsSchema>;

export const profileSchema = z.object({
  name: z.string().trim().min(1, 'A profile needs a name.').max(100),
  settings: haulSettingsSchema,
  /** Whether it came with the product: such a one cannot be changed. */
  isShipped: z.boolean(),
});
export type Profile = z.infer<typeof profileSchema>;
export const profilesSchema = z.array(profileSchema);

/** What a picture is to a model that is written with it. */
export const wornPictureSchema = z.object({
  material: z.string(),
  role: z.string(),
  path: z.string(),
  /** Of packed channels: which role lies in which. */
  channels: z.array(z.object({ role: z.string(), channel: z.enum(['r', 'g', 'b', 'a']) })),
});
export type WornPicture = z.infer<typeof wornPictureSchema>;

/** One file that will come out, or that came out. */
export const plannedFileSchema = z.object({
  /** Below the folder that is written to, with `/`. */
  target: z.string(),
  format: z.string(),
  /** What it is taken from. */
  path: z.string(),
  build: z.string(),
  hash: z.string(),
  kind: kindSchema,
  from: z.string(),
  /** Of the source. */
  sourceBytes: z.number(),
  /** What it may come to; exact for what stays as it lay. */
  bytes: z.number(),
  /** Chosen by a person, or why it comes along. */
  why: z.string(),
  /** What the format cannot hold. */
  losses: z.array(z.string()),
  /** What it would have been called, where another has that name. */
  insteadOf: z.string(),
});
export type PlannedFile = z.infer<typeof plannedFileSchema>;

export const haulPlanSchema = z.object({
  files: z.array(plannedFileSchema),
  totalFiles: z.number().int(),
  totalAssets: z.number().int(),
  bytes: z.number(),
  seconds: z.number(),
  /** Assets with the loss, by what is lost. */
  losses: z.array(z.object({ what: z.string(), assets: z.number().int() })),
  clashes: z.number().int(),
  /** What is named and not in the build, with what it may be. */
  missing: z.array(z.object({ from: z.string(), text: z.string(), candidates: z.array(candidateSchema) })),
  /** What was chosen and cannot be taken out, with its reason. */
  refused: z.array(z.object({ path: z.string(), reason: z.string() })),
});
export type HaulPlan = z.infer<typeof haulPlanSchema>;

/** What came of one asset. */
export const verdictSchema = z.enum(['waiting', 'the same', 'differs', 'not checked', 'failed']);
export type Verdict = z.infer<typeof verdictSchema>;

export const writtenFileSchema = z.object({
  target: z.string(),
  bytes: z.number(),
  /** Hex digits. */
  sha256: z.string(),
  blake3: z.string(),
});
export type WrittenFile = z.infer<typeof writtenFileSchema>;

export const haulResultSchema = z.object({
  path: z.string(),
  target: z.string(),
  verdict: verdictSchema,
  /** What differs and by how much, or why there is nothing. */
  sentence: z.string(),
  files: z.array(writtenFileSchema),
});
export type HaulResult = z.infer<typeof haulResultSchema>;

export const haulRunSchema = z.object({
  id: z.number().int(),
  haul: z.number().int().nullable(),
  name: z.string(),
  jobId: z.number().int().nullable(),
  /** The folder that it is written to; empty where it is kept to be fetched as ZIP. */
  folder: z.string(),
  state: z.string(),
  startedAt: z.string(),
  finishedAt: z.string().nullable(),
  files: z.number().int(),
  same: z.number().int(),
  differs: z.number().int(),
  unchecked: z.number().int(),
  failed: z.number().int(),
});
export type HaulRun = z.infer<typeof haulRunSchema>;

/** `haul.json`: enough to do it again. */
export const haulRecordSchema = z.object({
  worvelHaul: z.literal(1),
  version: z.string(),
  name: z.string(),
  title: z.string(),
  channel: z.string(),
  settings: haulSettingsSchema,
  sources: z.array(z.object({ path: z.string(), build: z.string(), blake3: z.string() })),
  /** Set-ups of models as they were when it was written; null where they were not asked for. */
  arrangements: z.array(arrangementSchema).max(100_000).nullable().default(null),
  files: z.array(
    writtenFileSchema.extend({ from: z.string(), verdict: verdictSchema, sentence: z.string() }),
  ),
});
export type HaulRecord = z.infer<typeof haulRecordSchema>;

/** What is to be taken out: all of a haul, or assets that are named here, by the builds that they are of. */
export const haulRequestSchema = z.object({
  channel: z.number().int(),
  haul: z.number().int().nullable().default(null),
  name: haulNameSchema.default('Haul'),
  assets: z
    .array(z.object({ path: z.string().max(4096), build: z.string().max(120) }))
    .max(200_000)
    .default([]),
  settings: haulSettingsSchema,
  /** Set-ups of models instead of those that are kept, where a haul is done again. */
  arrangements: z.array(arrangementSchema).max(100_000).nullable().optional(),
});
export type HaulRequest = z.infer<typeof haulRequestSchema>;

export const haulDraftSchema = z.object({
  channel: z.number().int(),
  name: haulNameSchema,
  settings: haulSettingsSchema.prefault({}),
});

export const haulChangeSchema = z.object({
  name: haulNameSchema.optional(),
  settings: haulSettingsSchema.optional(),
});

export const planRequestSchema = haulRequestSchema.extend({
  offset: z.number().int().min(0).default(0),
  limit: z.number().int().min(0).max(100_000).default(200),
});

/** @see `haulRunSchema`: an empty folder keeps it to be fetched as ZIP. */
export const runRequestSchema = haulRequestSchema.extend({ folder: z.string().max(4096).default('') });

export const startedRunSchema = z.object({ run: z.number().int(), job: z.number().int() });

export const haulResultsSchema = z.object({ results: z.array(haulResultSchema) });

/** What a name that players know stands for, in a build. */
export const namedAssetsSchema = z.object({
  families: z.array(z.string()),
  paths: z.array(z.string()),
});
