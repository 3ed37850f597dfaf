import * as z from 'zod';
import { factsSchema } from './facts.ts';
import { kindSchema } from './kinds.ts';

export const entryStateSchema = z.enum(['draft', 'in review', 'approved', 'published', 'withheld']);
export type EntryState = z.infer<typeof entryStateSchema>;

/** A language as BCP 47 writes it: `de`, `pt-BR`. */
const languageSchema = z
  .string()
  .regex(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/, 'a language is written as de or pt-BR');

export const relationSchema = z.enum(['variant of', 'part of', 'used by', 'replaces']);
export type Relation = z.infer<typeof relationSchema>;

const name = z.string().trim().min(1).max(200);
const mostOfEach = 100;

/** What an entry says beside its name: all of it may be left out. */
export const entryDetailsSchema = z.object({
  /** What kind of thing it is to players: Character, Boat. */
  thing: z.string().trim().max(80).default(''),
  names: z
    .array(z.object({ language: languageSchema, name }))
    .max(mostOfEach)
    .default([]),
  aliases: z.array(name).max(mostOfEach).default([]),
  tags: z.array(z.string().trim().min(1).max(60)).max(mostOfEach).default([]),
  relations: z
    .array(z.object({ as: relationSchema, entry: z.number().int() }))
    .max(mostOfEach)
    .default([]),
  sources: z.string().trim().max(2000).default(''),
  /** The build at which it is no spoiler any more; empty where it stays one. */
  spoilerUntil: z.string().trim().max(120).default(''),
  withheldWhy: z.string().trim().max(500).default(''),
  /** A day (2026-12-24) or a build after which somebody looks at it again; empty for none. */
  withheldUntil: z.string().trim().max(120).default(''),
  /** Instead of the title's statement; empty for that one. */
  rights: z.string().trim().max(4000).default(''),
  /** Whether readers are offered its files to keep. */
  downloads: z.boolean().default(false),
});
export type EntryDetails = z.infer<typeof entryDetailsSchema>;

export const entryDraftSchema = z.object({
  channelId: z.number().int(),
  name: z.string().trim().min(1, 'an entry needs a name').max(200),
  /** What the game's own files call it. */
  internalName: z.string().trim().max(200).default(''),
  summary: z.string().trim().max(2000).default(''),
  credits: z.string().trim().max(500).default(''),
  spoiler: z.boolean().default(false),
  state: entryStateSchema.default('draft'),
  paths: z.array(z.string()).min(1, 'an entry needs an asset').max(1000),
  details: entryDetailsSchema.prefault({}),
});
export type EntryDraft = z.infer<typeof entryDraftSchema>;
/** The same, with what nobody has to say left out. */
export type EntryInput = z.input<typeof entryDraftSchema>;

export const entryAssetSchema = z.object({
  path: z.string(),
  /** The newest build that holds it; null where no build does. */
  build: z.string().nullable(),
  firstBuild: z.string().nullable(),
  kind: kindSchema,
  format: z.string(),
  hash: z.string().nullable(),
  size: z.number().nullable(),
  hasPreview: z.boolean(),
  facts: factsSchema.nullable(),
  note: z.string(),
});

export const entrySchema = entryDraftSchema.extend({
  id: z.number().int(),
  revision: z.number().int(),
  changedAt: z.string(),
  writtenBy: z.string(),
  approvedBy: z.string(),
  assets: z.array(entryAssetSchema),
});
export type Entry = z.infer<typeof entrySchema>;
export const entriesSchema = z.array(entrySchema);

/** A part of a channel's entries, by name. */
export const entryPageSchema = z.object({
  total: z.number().int(),
  /** How many of all there are in each state. */
  states: z.record(z.string(), z.number().int()),
  entries: entriesSchema,
});
export type EntryPage = z.infer<typeof entryPageSchema>;

export const entryQuerySchema = z.object({
  channel: z.coerce.number().int(),
  state: z.union([entryStateSchema, z.literal('')]).default(''),
  /** A part of a name. */
  text: z.string().max(200).default(''),
  /** Those of an asset alone. */
  path: z.string().max(4096).default(''),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(200).default(100),
});
export type EntryQuery = z.infer<typeof entryQuerySchema>;

/** What a span means for the catalogue. */
export const inboxSchema = z.object({
  /** Assets of entries that are others in the later build. */
  changed: z.array(
    z.object({
      entry: z.number().int(),
      name: z.string(),
      state: entryStateSchema,
      path: z.string(),
      what: z.enum(['came', 'changed', 'went']),
    }),
  ),
  /** How many are new and in no entry, and the largest of them. */
  newTotal: z.number().int(),
  fresh: z.array(z.object({ path: z.string(), kind: kindSchema, bytes: z.number() })),
  /** Withheld entries whose time is over. */
  due: z.array(z.object({ entry: z.number().int(), name: z.string(), until: z.string() })),
});
export type Inbox = z.infer<typeof inboxSchema>;

export const entrySaveSchema = entryDraftSchema.extend({ revision: z.number().int() });

export const rightsRequestSchema = z.object({ rights: z.string().trim().max(4000) });

function isWebAddress(text: string): boolean {
  return /^https?:\/\/[^\s"'<>]+$/.test(text) && URL.canParse(text);
}

/** How a title's catalogue is published. */
export const siteSettingsSchema = z.object({
  /** Where it is served, for feeds and the sitemap: https://example.org/marsh/. Empty where that is not known. */
  address: z
    .string()
    .max(500)
    .refine(
      (address) => address === '' || isWebAddress(address),
      'an address begins with https:// or http://',
    )
    .default('')
    .transform((address) => (address === '' || address.endsWith('/') ? address : `${address}/`)),
  /** What the catalogue is called; empty for the title's name. */
  name: z.string().trim().max(120).default(''),
  /** A sentence below it. */
  lead: z.string().trim().max(500).default(''),
  /** `#a83c14`: of links and marks, on paper and by night; empty for the product's own. */
  accent: z
    .union([z.literal(''), z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour is written as #a83c14')])
    .default(''),
  accentByNight: z
    .union([z.literal(''), z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour is written as #a83c14')])
    .default(''),
  /** Whoever wrote an entry last cannot approve it. */
  twoPeople: z.boolean().default(false),
});
export type SiteSettings = z.infer<typeof siteSettingsSchema>;

export const entryRemarkSchema = z.object({
  id: z.number().int(),
  field: z.string(),
  text: z.string(),
  by: z.string(),
  at: z.string(),
  isSettled: z.boolean(),
});
export type EntryRemark = z.infer<typeof entryRemarkSchema>;
export const entryRemarksSchema = z.array(entryRemarkSchema);
export const remarkRequestSchema = z.object({
  field: z.string().trim().max(40).default(''),
  text: z.string().trim().min(1, 'a remark needs words').max(2000),
});

/** What is listed before publishing, each with a way to mend it. */
export const editionProblemSchema = z.object({
  entry: z.number().int(),
  name: z.string(),
  text: z.string(),
  mend: z.string(),
  /** Whether it keeps what it is about out of the edition. */
  isSerious: z.boolean(),
});
export type EditionProblem = z.infer<typeof editionProblemSchema>;
export const editionProblemsSchema = z.array(editionProblemSchema);

/** What became different since the edition before. */
export const editionChangesSchema = z.object({
  added: z.number().int(),
  changed: z.number().int(),
  removed: z.number().int(),
});

export const editionSchema = z.object({
  number: z.number().int(),
  publishedAt: z.string(),
  by: z.string(),
  entries: z.number().int(),
  backTo: z.number().int().nullable(),
  changes: editionChangesSchema.nullable(),
  folder: z.string(),
});
export type Edition = z.infer<typeof editionSchema>;
export const editionsSchema = z.array(editionSchema);

export const publishRequestSchema = z.object({
  /** An edition whose state is published again; null for the state of now. */
  backTo: z.number().int().nullable().default(null),
  /** Only to be looked at here: it is no edition. */
  isPreview: z.boolean().default(false),
  /** Where the site goes: an absolute path; empty for its place with the data. */
  folder: z.string().max(4096).default(''),
});
export const startedEditionSchema = z.object({ job: z.number().int() });

/** What the published site's search loads of a page of results: one for each entry. */
export const siteDocumentSchema = z.object({
  slug: z.string(),
  name: z.string(),
  internalName: z.string(),
  kind: kindSchema,
  picture: z.string(),
  spoiler: z.boolean(),
});
export type SiteDocument = z.infer<typeof siteDocumentSchema>;
