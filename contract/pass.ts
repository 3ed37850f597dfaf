import * as z from 'zod';

/** What somebody said of a finding: open until something else is said. */
export const markSchema = z.enum(['open', 'kept', 'aside', 'done']);
export type Mark = z.infer<typeof markSchema>;

const person = z.string().trim().max(120);
export const labelSchema = z.string().trim().min(1).max(40);

/** Where a finding stands in the pass. */
export const passStateSchema = z.object({
  mark: markSchema,
  assignee: person,
  labels: z.array(labelSchema),
  /** The change that made it so; 0 where nothing was said. */
  revision: z.number(),
  changedBy: z.string(),
  changedAt: z.string().nullable(),
});
export type PassState = z.infer<typeof passStateSchema>;

export const noPassState: PassState = {
  mark: 'open',
  assignee: '',
  labels: [],
  revision: 0,
  changedBy: '',
  changedAt: null,
};

export const spanSchema = z.object({ channel: z.coerce.number().int(), from: z.string(), to: z.string() });
export type SpanKey = z.infer<typeof spanSchema>;

export const passChangeSchema = z.object({
  mark: markSchema.optional(),
  assignee: person.optional(),
  addLabels: z.array(labelSchema).max(20).default([]),
  removeLabels: z.array(labelSchema).max(20).default([]),
});
export type PassChange = z.input<typeof passChangeSchema>;

export const passRequestSchema = spanSchema.extend({
  /** The newest change that whoever asks has seen: what others changed since then is not overwritten. */
  seen: z.number().int().min(0),
  change: passChangeSchema,
  /** Findings by their paths, or all that a filter of the list shows. */
  paths: z.array(z.string()).max(100_000).optional(),
  filter: z.record(z.string(), z.string()).optional(),
});

export const passOutcomeSchema = z.object({
  /** 0 where nothing was changed. */
  batch: z.number(),
  changed: z.number(),
  /** Findings that others changed meanwhile: they were left as they are. */
  conflicts: z.array(z.object({ path: z.string(), state: passStateSchema })),
});
export type PassOutcome = z.infer<typeof passOutcomeSchema>;

export const undoRequestSchema = z.object({ batch: z.number().int() });

/** What is told to everybody who looks at a span when something in it changed. */
export const passEventSchema = z.object({
  revision: z.number(),
  /** The states that changed; null where they are too many to be told one by one. */
  states: z.record(z.string(), passStateSchema).nullable(),
  by: z.string(),
  what: z.string(),
});
export type PassEvent = z.infer<typeof passEventSchema>;

export const remarkSchema = z.object({
  id: z.number(),
  body: z.string(),
  saidBy: z.string(),
  saidAt: z.string(),
});
export type Remark = z.infer<typeof remarkSchema>;
export const remarksSchema = z.array(remarkSchema);

export const remarkRequestSchema = spanSchema.extend({
  path: z.string(),
  body: z.string().trim().min(1, 'the remark is empty').max(5000),
});
