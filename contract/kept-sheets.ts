import * as z from 'zod';

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

/** A sheet, tried on all files of a build that its patterns find. */
export const sheetFitSchema = z.object({
  files: z.number().int(),
  /** How many each version fits, those that fit some, the first that was tried first. */
  versions: z.array(z.object({ version: z.string(), files: z.number().int() })),
  /** Why others fit none, the most common first, with some of their paths. */
  failures: z.array(z.object({ reason: z.string(), files: z.number().int(), paths: z.array(z.string()) })),
  /** Files that were not tried: there were too many, or they are too large. */
  left: z.number().int(),
});
export type SheetFit = z.infer<typeof sheetFitSchema>;
