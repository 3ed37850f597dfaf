import * as z from 'zod';
import { haulSettingsSchema } from './haul-settings.ts';
import { writtenFileSchema } from './hauls.ts';
import { choiceSchema, formatVersionsSchema } from './reading.ts';

const label = z.string().trim().max(120);
const path = z.string().min(1, 'a path is needed').max(4096);
const sum = z.string().regex(/^[0-9a-f]{64}$/, 'is no sum of 64 hex digits');
/** Around a step, in Markdown. */
const words = z.string().max(20_000).default('');
const mostSteps = 100;

/** How the build was brought in. Keys stand here by what the keyring calls them, never by their value. */
export const bringInStepSchema = z.object({
  does: z.literal('bring in'),
  build: label.default(''),
  platform: z.string().max(60).default(''),
  contentRoot: z.string().max(1000).nullable().default(null),
  choice: choiceSchema.default({ only: [], without: [] }),
  formatVersions: formatVersionsSchema.default({}),
  keys: z.array(z.string().max(500)).max(200).default([]),
  words,
});

/** Where a thing lies. */
export const findStepSchema = z.object({
  does: z.literal('find'),
  build: label.default(''),
  path,
  /** BLAKE3 of the content; null where it is not known. */
  blake3: sum.nullable().default(null),
  words,
});

/** A format sheet or a recipe of placements, as it was. */
export const describeStepSchema = z.object({
  does: z.literal('describe'),
  what: z.enum(['format sheet', 'recipe']),
  name: z.string().min(1).max(200),
  /** SHA-256 of its text. */
  sha256: sum,
  words,
});

export const searchStepSchema = z.object({
  does: z.literal('search'),
  build: label.default(''),
  query: z.string().min(1, 'a query is needed').max(2000),
  found: z.number().int().min(0),
  words,
});

/** What somebody corrected of the asset: which family it is of, which file a name in it is, which picture a material wears. */
export const correctStepSchema = z.object({
  does: z.literal('correct'),
  subject: z.enum(['family', 'link', 'texture']),
  path,
  /** Of a link: the text in the file. Of a texture: material and role, with a tab between them. */
  where: z.string().max(4096).default(''),
  /** The other file; null where it was said that there is none. */
  is: z.string().max(4096).nullable(),
  words,
});

export const takeOutStepSchema = z.object({
  does: z.literal('take out'),
  build: label.default(''),
  paths: z.array(path).min(1, 'a path is needed').max(5000),
  /** The profile that the settings were taken from; empty for none. */
  profile: z.string().max(100).default(''),
  settings: haulSettingsSchema.prefault({}),
  /** What came of it; none before it was taken out once. */
  files: z
    .array(writtenFileSchema.pick({ target: true, bytes: true, sha256: true }))
    .max(20_000)
    .default([]),
  words,
});

/** What somebody did outside of the product. */
export const byHandStepSchema = z.object({
  does: z.literal('by hand'),
  words: z.string().trim().min(1, 'words are needed').max(20_000),
});

/** One step of a note, with typed parameters. */
export const noteStepSchema = z.discriminatedUnion('does', [
  bringInStepSchema,
  findStepSchema,
  describeStepSchema,
  searchStepSchema,
  correctStepSchema,
  takeOutStepSchema,
  byHandStepSchema,
]);
export type NoteStep = z.infer<typeof noteStepSchema>;
export type StepOf<Does extends NoteStep['does']> = Extract<NoteStep, { does: Does }>;
export const noteStepsSchema = z.array(noteStepSchema).max(mostSteps);

const body = z.string().max(200_000);

export const noteSchema = z.object({
  /** Words before the steps, in Markdown. */
  body,
  steps: noteStepsSchema,
  /** Counts up at every save; a save names the revision that it was made from. */
  revision: z.number().int(),
  savedAt: z.string().nullable(),
});
export type Note = z.infer<typeof noteSchema>;

export const noteRequestSchema = z.object({
  channel: z.number().int(),
  path,
  body,
  steps: noteStepsSchema.default([]),
  revision: z.number().int(),
});

/** The notes of a channel that somebody wrote, by path. */
export const notePathsSchema = z.array(z.object({ path, steps: z.number().int() }));

/** What a file of a note holds, as `worvel note show --json` prints it. */
export const noteFileSchema = z.object({ body: body.default(''), steps: noteStepsSchema });

/** Several such, each with the asset that it is on. */
export const noteFilesSchema = z.array(noteFileSchema.extend({ path }));

/** A note as it stands in the history; before notes had steps, their words alone. */
export const keptNoteSchema = z
  .union([z.string(), z.object({ body, steps: noteStepsSchema })])
  .transform((kept) => (typeof kept === 'string' ? { body: kept, steps: [] } : kept));

/** Who wrote what of a note, the newest first. */
export const noteRevisionsSchema = z.array(
  z.object({
    change: z.number().int(),
    by: z.string(),
    at: z.string(),
    /** What became different, in sentences. */
    what: z.array(z.string()),
  }),
);
export type NoteRevisions = z.infer<typeof noteRevisionsSchema>;

/** What a beginner would stumble over. @see `checkNote` */
export const noteRemarkSchema = z.object({
  /** Counted from 0; null for the note as a whole. */
  step: z.number().int().nullable(),
  text: z.string(),
});
export type NoteRemark = z.infer<typeof noteRemarkSchema>;
export const noteRemarksSchema = z.array(noteRemarkSchema);

export const stepVerdictSchema = z.enum(['running', 'fits', 'differs', 'does not fit', 'by hand']);
export type StepVerdict = z.infer<typeof stepVerdictSchema>;

/** What came of one step when a note was run again. */
export const stepOutcomeSchema = z.object({
  verdict: stepVerdictSchema,
  sentence: z.string(),
  /** The step as it would fit. */
  proposed: noteStepSchema.nullable(),
  /** Of what is taken out: the run of the haul. */
  haulRun: z.number().int().nullable().default(null),
});
export type StepOutcome = z.infer<typeof stepOutcomeSchema>;

export const noteRunSchema = z.object({
  id: z.number().int(),
  channel: z.number().int(),
  path,
  build: z.string(),
  by: z.string(),
  startedAt: z.string(),
  /** The note as it was run. */
  revision: z.number().int(),
  steps: noteStepsSchema,
  outcomes: z.array(stepOutcomeSchema),
  /** Jobs that are still at work for it. */
  jobs: z.array(z.number().int()),
});
export type NoteRun = z.infer<typeof noteRunSchema>;
export const noteRunsSchema = z.array(noteRunSchema);

export const noteRunRequestSchema = z.object({
  channel: z.number().int(),
  path,
  /** Empty: the build that each step names. */
  build: label.default(''),
  /** Where what is taken out goes, a folder for each step; empty keeps it with the data. */
  folder: z.string().max(4096).default(''),
});

export const noteQuerySchema = z.object({ channel: z.coerce.number().int(), path });
/** Steps that the product knows of an asset. */
export const proposalQuerySchema = noteQuerySchema.extend({
  build: label.min(1),
  /** The search that it was found by; empty for none. */
  query: z.string().max(2000).default(''),
});
