import * as z from 'zod';

/** A field with its value in words, and what is in it, as far as somebody reads at once. */
export interface TriedField {
  name: string;
  value: string;
  fields: TriedField[];
}
export const triedFieldSchema: z.ZodType<TriedField> = z.object({
  name: z.string(),
  value: z.string(),
  fields: z.array(z.lazy(() => triedFieldSchema)),
});

/** A version of a sheet, tried on a file. */
export const versionTrialSchema = z.object({
  /** Empty where the sheet has no versions. */
  version: z.string(),
  /** Why it does not fit, at which byte or in which line, and in which field; null where it fits. */
  error: z.object({ message: z.string(), at: z.number().nullable(), where: z.string() }).nullable(),
  fields: z.array(triedFieldSchema),
  /** What came out of it, in a few words. */
  outcome: z.string(),
});
export type VersionTrial = z.infer<typeof versionTrialSchema>;

/** What `worvel format try --json` prints, a line a file. */
export const formatTrialSchema = z.object({
  path: z.string(),
  /** Which fits; null where none does. */
  version: z.string().nullable(),
  /** Those that were tried, in their order. */
  tried: z.array(versionTrialSchema),
});
export type FormatTrial = z.infer<typeof formatTrialSchema>;
