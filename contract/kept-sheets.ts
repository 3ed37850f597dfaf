import * as z from 'zod';
import { factsSchema } from './facts.ts';

/** A sheet as a title keeps it: its text is what people write. */
export const keptSheetSchema = z.object({
  /** What the sheet calls itself. */
  name: z.string(),
  text: z.string().max(256 * 1024),
});
export type KeptSheet = z.infer<typeof keptSheetSchema>;
export const keptSheetsSchema = z.array(keptSheetSchema).max(200);

/** A title's sheets, and which state of them this is: whoever saves others says which one they saw. */
export const sheetsStateSchema = z.object({ sheets: keptSheetsSchema, revision: z.string() });
export type SheetsState = z.infer<typeof sheetsStateSchema>;

/** Sheets to be saved; what they are called is read from their texts. */
export const sheetsChangeSchema = z.object({
  sheets: z.array(keptSheetSchema.pick({ text: true })).max(200),
  revision: z.string(),
});

/** Which version of a sheet files of a build are tried with first; null for the newest. */
export const formatVersionSchema = z.object({
  sheet: z.string().max(200),
  version: z.string().max(40).nullable(),
});

/** A sheet, tried on all files of a build that its patterns find. */
export const sheetFitSchema = z.object({
  files: z.number().int(),
  /** How many each version fits, those that fit some, the first that was tried first. */
  versions: z.array(z.object({ version: z.string(), files: z.number().int() })),
  /** Why others fit none, the most common first, with some of their paths. */
  failures: z.array(z.object({ reason: z.string(), files: z.number().int(), paths: z.array(z.string()) })),
  /** Files that were not tried: there were too many, or they are too large. */
  left: z.number().int(),
  /** The first file that was not come to, where there are more: what was asked for goes on from there. */
  next: z.number().int().nullable(),
});
export type SheetFit = z.infer<typeof sheetFitSchema>;

/** Files of a build that a sheet is for: how many, and the first of them. */
export const sheetFilesSchema = z.object({ count: z.number().int(), paths: z.array(z.string()) });
export type SheetFiles = z.infer<typeof sheetFilesSchema>;

/** What the readers make of a file by a sheet that is being written. */
export const sheetLookSchema = z.object({
  /** As which format it would be read. */
  format: z.string(),
  facts: factsSchema.nullable(),
  /** Why there are none, or no more. */
  reason: z.string().nullable(),
});
export type SheetLook = z.infer<typeof sheetLookSchema>;
