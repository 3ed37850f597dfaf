import * as z from 'zod';
import { keyFormSchema } from './keyring.ts';

const label = z.string().trim().min(1).max(120);
const blake3 = z.string().regex(/^[0-9a-f]{64}$/);

/** What a depot says at `builds.json`: its builds, oldest first. */
export const depotBuildsSchema = z.object({
  title: z.string(),
  builds: z.array(
    z.object({
      label,
      releasedAt: z.iso.datetime({ offset: true }),
      platform: z.string().max(60).default(''),
      /** Address of the manifest, relative to `builds.json`. */
      manifest: z.string(),
    }),
  ),
});
export type DepotBuilds = z.infer<typeof depotBuildsSchema>;

/** A depot's manifest: every file of a build, by the BLAKE3 of its bytes; these are at `contents/HASH`. */
export const depotManifestSchema = z.object({
  files: z.array(z.object({ path: z.string().min(1), size: z.number().int().min(0), blake3 })),
});
export type DepotManifest = z.infer<typeof depotManifestSchema>;

/** What a device says at `device.json`; its image is at `image`, and can be asked for in ranges. */
export const deviceSchema = z.object({
  label,
  releasedAt: z.iso.datetime({ offset: true }),
  size: z.number().int().min(1),
  image: z.string().default('image'),
});

/** What a key post gives out at `keys?title=…&build=…`; 404 as long as it has none. */
export const postedKeySchema = z.object({
  form: keyFormSchema,
  key: z.string().min(1).max(1000),
  remark: z.string().max(500).default(''),
});

export const followerKindSchema = z.enum(['depot', 'device']);
export type FollowerKind = z.infer<typeof followerKindSchema>;

const url = z
  .url({ protocol: /^https?$/, error: 'an address that begins with http:// or https:// is needed' })
  .max(500)
  .refine((text) => {
    const parsed = URL.parse(text);
    // What is no address at all is told above.
    return !parsed || (parsed.username === '' && parsed.password === '');
  }, 'an address with a name or a password in it is not kept: it would be shown to everybody');

export const followerRequestSchema = z.object({
  title: label,
  channel: label.default('main'),
  kind: followerKindSchema,
  url,
  keyPostUrl: z.union([z.literal(''), url]).default(''),
  intervalSeconds: z.number().int().min(5, 'at least 5 seconds').max(604_800, 'at most a week').default(300),
});
export type FollowerRequest = z.infer<typeof followerRequestSchema>;

export const followerChangeSchema = z.object({
  intervalSeconds: followerRequestSchema.shape.intervalSeconds.unwrap().optional(),
  paused: z.boolean().optional(),
});

export const followerSchema = followerRequestSchema.extend({
  id: z.number().int(),
  url: z.string(),
  keyPostUrl: z.string(),
  paused: z.boolean(),
  nextAt: z.string(),
  lookedAt: z.string().nullable(),
  outcome: z.string().nullable(),
  failed: z.boolean(),
});
export type Follower = z.infer<typeof followerSchema>;
export const followersSchema = z.array(followerSchema);

export const uploadRequestSchema = z.object({
  name: z.string().trim().min(1).max(200),
  files: z
    .array(z.object({ path: z.string().min(1).max(4000), size: z.number().int().min(0) }))
    .min(1, 'no file was chosen')
    .max(200_000),
});
export type UploadRequest = z.infer<typeof uploadRequestSchema>;

export const uploadSchema = z.object({
  id: z.number().int(),
  name: z.string(),
  isFinished: z.boolean(),
  /** Where it lies, once it is finished: the source of a build. */
  source: z.string().nullable(),
  files: z.array(z.object({ path: z.string(), size: z.number(), received: z.number() })),
});
export type Upload = z.infer<typeof uploadSchema>;

/** Bytes of one chunk, at most. */
export const chunkBytes = 4 * 1024 * 1024;
