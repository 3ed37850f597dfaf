import * as z from 'zod';

const glob = z.string().trim().min(1).max(2000);

/** Globs over the paths of folders, containers and assets. See `Choice`. */
export const choiceSchema = z.object({
  only: z.array(glob).max(1000).default([]),
  without: z.array(glob).max(1000).default([]),
});

export const formatVersionsSchema = z.record(z.string().max(200), z.string().max(40));
export type FormatVersions = z.infer<typeof formatVersionsSchema>;

/** How a build is read. Copied from the build before. */
export const readingSettingsSchema = z.object({
  platform: z.string().trim().max(60).default(''),
  /** Folder that the paths count from; null to find the lowest one that holds everything. */
  contentRoot: z.string().trim().max(1000).nullable().default(null),
  /** Whether it was found, and nobody said it: it gives way where it holds no longer everything. */
  isRootFound: z.boolean().default(false),
  choice: choiceSchema.default({ only: [], without: [] }),
  /** Keys of the title's keyring, by number; null for all of them. */
  keys: z.array(z.number().int()).max(1000).nullable().default(null),
  /** Versions of format sheets that are tried first, by the sheet's name; the newest where nobody says. */
  formatVersions: formatVersionsSchema.default({}),
});
export type ReadingSettings = z.infer<typeof readingSettingsSchema>;

/** What somebody says of the settings; the rest is copied. */
export const settingsChangeSchema = z.object({
  platform: readingSettingsSchema.shape.platform.unwrap().optional(),
  contentRoot: readingSettingsSchema.shape.contentRoot.unwrap().optional(),
  choice: choiceSchema.optional(),
  keys: readingSettingsSchema.shape.keys.unwrap().optional(),
  formatVersions: formatVersionsSchema.optional(),
});
export type SettingsChange = z.infer<typeof settingsChangeSchema>;

/** What the next build of a channel would be read by. */
export const proposalSchema = z.object({
  source: z.string(),
  settings: readingSettingsSchema,
});
export type Proposal = z.infer<typeof proposalSchema>;
