import * as z from 'zod';

/** What a part of a name can say. */
export const nameRoleSchema = z.enum([
  'code name',
  'belongs to',
  'view',
  'LOD',
  'colour variant',
  'players',
  'quality',
  'body half',
  'texture role',
  'language',
  'palette number',
]);
export type NameRole = z.infer<typeof nameRoleSchema>;

/** How names are split into parts. */
export const splitRulesSchema = z.object({
  /** Characters that stand between parts. */
  separators: z.string().max(20),
  /** Whether a capital letter after a small one begins a part. */
  camelCase: z.boolean(),
  /** Whether digits are parts of their own: `l0` is `l` and `0` then. */
  digitsApart: z.boolean(),
});
export type SplitRules = z.infer<typeof splitRulesSchema>;

/** A part of names, and what it means. `#` in a part stands for a number, and in a meaning for the same one. */
export const lexiconEntrySchema = z.object({
  part: z.string().trim().min(1, 'the part is empty').max(120),
  role: nameRoleSchema,
  meaning: z.string().trim().max(300),
  /** Who says so. */
  saidBy: z.string().trim().max(120).default(''),
  /** Label of the build since which it is known; empty where nobody said. */
  sinceBuild: z.string().trim().max(120).default(''),
});
export type LexiconEntry = z.infer<typeof lexiconEntrySchema>;

/** What the data of a build say that a part may mean, and why. */
export const proposalSchema = lexiconEntrySchema.pick({ part: true, role: true, meaning: true }).extend({
  /** In a sentence: how often it occurs, and with what. */
  evidence: z.string(),
  assets: z.number().int(),
  examples: z.array(z.string()),
});
export type Proposal = z.infer<typeof proposalSchema>;

/** A part that no build before had. */
export const freshPartSchema = z.object({
  part: z.string(),
  assets: z.number().int(),
  examples: z.array(z.string()),
  meaning: z.string(),
});
export type FreshPart = z.infer<typeof freshPartSchema>;

export const lexiconSchema = z.object({
  rules: splitRulesSchema,
  entries: z.array(lexiconEntrySchema),
  refused: z.array(z.string()),
  revision: z.number().int(),
});
export type LexiconState = z.infer<typeof lexiconSchema>;

/** A change of a title's lexicon: all of it happens, or nothing. */
export const lexiconChangeSchema = z.object({
  /** Entries to be put there; those with the same part are replaced. */
  put: z.array(lexiconEntrySchema).max(20_000).default([]),
  /** Parts whose entries go. */
  drop: z.array(z.string()).max(20_000).default([]),
  /** Parts that are not to be proposed. */
  refuse: z.array(z.string()).max(20_000).default([]),
  rules: splitRulesSchema.optional(),
  /** Revision that the change was made from; another one means that somebody was faster. */
  revision: z.number().int().optional(),
});
export type LexiconChange = z.infer<typeof lexiconChangeSchema>;

/** A name, part by part. */
export const readNameSchema = z.array(
  z.object({
    part: z.string(),
    role: nameRoleSchema.nullable(),
    meaning: z.string(),
    saidBy: z.string(),
  }),
);
export type ReadName = z.infer<typeof readNameSchema>;
