import * as z from 'zod';
import { readingSettingsSchema, settingsChangeSchema } from './reading.ts';

const name = z.string().trim().min(1, 'must not be empty').max(120);

/** What brings a build in, from the form and from the command line. */
export const intakeRequestSchema = z.object({
  /** A folder or an archive; the one that the build before was read from where nobody says. */
  source: z.string().trim().min(1, 'a folder or an archive is needed').optional(),
  title: name,
  channel: name.default('main'),
  build: name,
  /** When the build came out, ISO 8601; the moment of indexing where nobody says. */
  releasedAt: z.iso.datetime({ offset: true }).optional(),
  replace: z.boolean().default(false),
  /** How many threads read; as many as the machine runs at once where nobody says. */
  threads: z.number().int().min(1).max(256).nullable().default(null),
  settings: settingsChangeSchema.default({}),
  /** Jobs of a higher priority go first. */
  priority: z.number().int().min(-9).max(9).default(0),
});
export type IntakeRequest = z.infer<typeof intakeRequestSchema>;
/** The same, with what nobody has to say left out. */
export type IntakeOrder = z.input<typeof intakeRequestSchema>;

export const buildSchema = z.object({
  id: z.number().int(),
  channelId: z.number().int(),
  /** Place on the line of builds; null while it is being indexed for the first time. */
  sequence: z.number().int().nullable(),
  label: z.string(),
  source: z.string(),
  releasedAt: z.string(),
  indexedAt: z.string().nullable(),
  /** The version of the readers that have read all of it; null as long as facts are left to be read. */
  factsVersion: z.number().int().nullable(),
  /** Counts up while facts of it come in. */
  factsRevision: z.number().int(),
  files: z.number(),
  containers: z.number(),
  bytes: z.number(),
  newContents: z.number(),
  newBytes: z.number(),
  locked: z.number(),
  unreadable: z.number(),
  leftOutFiles: z.number(),
  leftOutBytes: z.number(),
  settings: readingSettingsSchema,
});
export type Build = z.infer<typeof buildSchema>;

export const channelSchema = z.object({
  id: z.number().int(),
  name: z.string(),
  builds: z.array(buildSchema),
});
export const titleSchema = z.object({
  id: z.number().int(),
  name: z.string(),
  rights: z.string(),
  channels: z.array(channelSchema),
});
export const titlesSchema = z.array(titleSchema);
export type Channel = z.infer<typeof channelSchema>;
export type Title = z.infer<typeof titleSchema>;

/** What came of a build's arrival; `seconds` is how long that took. */
export const intakeResultSchema = z.object({
  title: z.string(),
  channel: z.string(),
  build: z.string(),
  files: z.number(),
  containers: z.number(),
  bytes: z.number(),
  newContents: z.number(),
  newBytes: z.number(),
  locked: z.number(),
  unreadable: z.number(),
  leftOutFiles: z.number().default(0),
  leftOutBytes: z.number().default(0),
  seconds: z.number(),
});
export type IntakeResult = z.infer<typeof intakeResultSchema>;

/** The one object that `worvel index --json` prints. */
export const indexLineSchema = intakeResultSchema.extend({
  /** How long reading the facts took after that; null where nobody waited for it. */
  readSeconds: z.number().nullable(),
});
export type IndexLine = z.infer<typeof indexLineSchema>;

/** A build as the command line names it. */
export const buildNamesSchema = z.object({ title: name, channel: name, build: name });

export const problemSchema = z.object({ path: z.string(), reason: z.string(), locked: z.boolean() });
export type Problem = z.infer<typeof problemSchema>;
