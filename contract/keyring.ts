import * as z from 'zod';

export const keyFormSchema = z.enum(['passphrase', 'hex', 'base64']);
export type KeyForm = z.infer<typeof keyFormSchema>;

/** A key on its way in. It is never sent back. */
export const keyRequestSchema = z
  .object({
    title: z.string().trim().min(1).max(120),
    form: keyFormSchema.default('passphrase'),
    key: z.string().min(1, 'must not be empty').max(1000),
    /** Labels of the builds that it is for; none for all. */
    builds: z.array(z.string().trim().min(1).max(120)).max(500).default([]),
    remark: z.string().trim().max(500).default(''),
    /** Keep it even where it opens nothing that is here: its build may be yet to come. */
    keep: z.boolean().default(false),
  })
  .refine(({ form, key }) => form !== 'hex' || /^([0-9a-f]{2})+$/i.test(key.trim()), {
    message: 'is not hex: an even number of digits from 0 to f is needed',
    path: ['key'],
  })
  .refine(({ form, key }) => form !== 'base64' || /^[A-Za-z0-9+/]+={0,2}$/.test(key.trim()), {
    message: 'is not Base64',
    path: ['key'],
  });
export type KeyRequest = z.infer<typeof keyRequestSchema>;

/** What is told of a key that is kept: all but the key. */
export const keptKeySchema = z.object({
  id: z.number().int(),
  title: z.string(),
  form: keyFormSchema,
  builds: z.array(z.string()),
  remark: z.string(),
  createdAt: z.string(),
});
export type KeptKey = z.infer<typeof keptKeySchema>;

export const keyringSchema = z.object({
  keys: z.array(keptKeySchema),
  /** Builds that hold something locked. */
  locked: z.array(
    z.object({
      buildId: z.number().int(),
      title: z.string(),
      channel: z.string(),
      build: z.string(),
      count: z.number(),
    }),
  ),
});
export type Keyring = z.infer<typeof keyringSchema>;

export const keyAddedSchema = z.object({
  key: keptKeySchema,
  /** What was locked and opens with it, as far as a quick try tells. */
  opens: z.array(z.string()),
  /** Jobs that read what it opens. */
  jobs: z.array(z.number().int()),
});
export type KeyAdded = z.infer<typeof keyAddedSchema>;
