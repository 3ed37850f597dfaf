import * as z from 'zod';
import { kindSchema } from './kinds.ts';

export const kindSizeSchema = z.object({ kind: kindSchema, contents: z.number(), bytes: z.number() });
export type KindSize = z.infer<typeof kindSizeSchema>;

export const buildSizeSchema = z.object({
  id: z.number().int(),
  channel: z.string(),
  label: z.string(),
  /** All files of the build. */
  bytes: z.number(),
  /** What no other build holds: removing the build frees it. */
  ownBytes: z.number(),
});
export type BuildSize = z.infer<typeof buildSizeSchema>;

/** What takes how much room. */
export const sizesSchema = z.object({
  contents: z.number(),
  bytes: z.number(),
  titles: z.array(
    z.object({
      name: z.string(),
      bytes: z.number(),
      kinds: z.array(kindSizeSchema),
      builds: z.array(buildSizeSchema),
    }),
  ),
});
export type Sizes = z.infer<typeof sizesSchema>;
