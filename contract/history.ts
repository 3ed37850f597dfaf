import * as z from 'zod';

/** What people say in the product, and what is kept of each change to it. */
export const changeSubjectSchema = z.enum([
  'marks',
  'lexicon',
  'links',
  'families',
  'noise rules',
  'recipes',
  'format sheets',
  'arrangements',
  'textures',
  'notes',
  'entries',
  // What cannot be taken back: publishing, keys, removed builds, settings of the site.
  'deeds',
]);
export type ChangeSubject = z.infer<typeof changeSubjectSchema>;

/** One change: all of it happened, or nothing. */
export const changeSchema = z.object({
  id: z.number().int(),
  subject: changeSubjectSchema,
  /** Names of the channel and of the builds of the span; empty where it is of none. */
  channel: z.string(),
  from: z.string(),
  to: z.string(),
  /** In a sentence. */
  what: z.string(),
  doneBy: z.string(),
  doneAt: z.string(),
  items: z.number().int(),
  isUndone: z.boolean(),
});
export type Change = z.infer<typeof changeSchema>;

export const changePageSchema = z.object({
  total: z.number().int(),
  changes: z.array(changeSchema),
  /** All who changed something in the title. */
  people: z.array(z.string()),
});
export type ChangePage = z.infer<typeof changePageSchema>;

export const changeQuerySchema = z.object({
  title: z.coerce.number().int(),
  subject: z.union([changeSubjectSchema, z.literal('')]).default(''),
  by: z.string().default(''),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(200).default(100),
});
export type ChangeQuery = z.infer<typeof changeQuerySchema>;

/** What a change was of each thing, as text, where it is shown. */
export const changeItemSchema = z.object({
  item: z.string(),
  before: z.string().nullable(),
  after: z.string().nullable(),
});
export const changeItemsSchema = z.array(changeItemSchema);
export type ChangeItem = z.infer<typeof changeItemSchema>;

/** One change of the audit, with its seal: SHA-256 over the seal before and all that it says. */
export const auditRowSchema = z.object({
  number: z.number().int(),
  seal: z.string(),
  id: z.number().int(),
  subject: z.string(),
  what: z.string(),
  by: z.string(),
  at: z.string(),
  /** The address that it was asked from. */
  from: z.string(),
  items: z.array(changeItemSchema),
});
export type AuditRow = z.infer<typeof auditRowSchema>;

export const auditPageSchema = z.object({
  rows: z.array(auditRowSchema),
  /** What is not as it was sealed; empty where all is. */
  broken: z.string(),
});
export type AuditPage = z.infer<typeof auditPageSchema>;

export const undoOutcomeSchema = z.object({
  /** The change that took it back; 0 where there was nothing left to take back. */
  change: z.number().int(),
  changed: z.number().int(),
  /** What was changed again since, and stays as it is. */
  conflicts: z.array(z.string()),
});
export type UndoOutcome = z.infer<typeof undoOutcomeSchema>;

/**
 * What is told to every open window: first how far things are, then each change as it is made; marks have an event of their
 * own. Who was away, and finds things further than they have heard of, loads again what they show.
 */
export const changeEventSchema = z.object({
  newest: z.number().int(),
  change: changeSchema
    .pick({ id: true, subject: true, what: true, doneBy: true })
    .extend({ title: z.number().int() })
    .nullable(),
});
export type ChangeEvent = z.infer<typeof changeEventSchema>;
export type ToldChange = NonNullable<ChangeEvent['change']>;

/** Who somebody is: a name that they gave, or a guest with a number. */
export const personSchema = z.object({ name: z.string().trim().min(1, 'the name is empty').max(120) });
export type Person = z.infer<typeof personSchema>;
