import * as z from 'zod';
import { natureSchema } from './comparisons.ts';
import { kindSchema, statusSchema } from './kinds.ts';

/** What a finding must be for a rule to fold it away: all that is said must hold, and something must be said. */
export const noiseTestSchema = z
  .object({
    statuses: z.array(statusSchema).default([]),
    kinds: z.array(kindSchema).default([]),
    natures: z.array(natureSchema).default([]),
    /** Globs of paths, any of which must fit; one without a slash looks at the name alone. */
    paths: z.array(z.string().trim().min(1).max(300)).max(50).default([]),
    /** A comparison told that no more than this share of it changed. */
    mostExtent: z.number().min(0).max(1).nullable().default(null),
    /** Folded only as part of a folder that moved as a whole. */
    inMovedFolder: z.boolean().default(false),
    /** Names say that it is a helper shape: collision, shadow, reflection. */
    isHelper: z.boolean().default(false),
    /** A lower level of detail of something whose finest level changed in the same way, and is shown. */
    isLevelCopy: z.boolean().default(false),
  })
  .refine(
    (test) =>
      test.statuses.length + test.kinds.length + test.natures.length + test.paths.length > 0 ||
      test.mostExtent !== null ||
      test.inMovedFolder ||
      test.isHelper ||
      test.isLevelCopy,
    'A rule without a condition would hide everything: say what it is about',
  );
export type NoiseTest = z.infer<typeof noiseTestSchema>;

export const noiseRuleSchema = z.object({
  key: z.string().regex(/^[a-z0-9-]{1,40}$/),
  name: z.string().trim().min(1, 'the rule has no name').max(120),
  isOn: z.boolean(),
  test: noiseTestSchema,
  /** Whether it comes with the product: it can be switched off and not be removed. */
  isBuiltIn: z.boolean().default(false),
});
export type NoiseRule = z.infer<typeof noiseRuleSchema>;
export const noiseRulesSchema = z.array(noiseRuleSchema).max(100);

/** A title's rules, and which state of them this is: whoever saves others says which one they saw. */
export const noiseStateSchema = z.object({ rules: noiseRulesSchema, revision: z.string() });
export type NoiseState = z.infer<typeof noiseStateSchema>;

/** What a rule hides of a span. */
export const foldSchema = z.object({
  key: z.string(),
  name: z.string(),
  isOn: z.boolean(),
  /** Findings that it folds away: of those that several would, the first rule counts. */
  hides: z.number(),
  /** Findings that it would fold away by itself. */
  fits: z.number(),
});
export type Fold = z.infer<typeof foldSchema>;

export const noiseTrialSchema = z.object({
  fits: z.number(),
  /** Of these, those that no other rule folds away. */
  alone: z.number(),
  examples: z.array(z.object({ path: z.string(), status: statusSchema, evidence: z.string() })),
});
export type NoiseTrial = z.infer<typeof noiseTrialSchema>;
