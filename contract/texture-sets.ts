import * as z from 'zod';

/** What a picture holds for a material. Common practice, with no published source. */
export const textureRoleSchema = z.enum([
  'base colour',
  'normal',
  'roughness',
  'gloss',
  'metalness',
  'specular',
  'occlusion',
  'emission',
  'opacity',
  'scatter',
  'tint mask',
  'height',
  'packed channels',
]);
export type TextureRole = z.infer<typeof textureRoleSchema>;

export const channelSchema = z.enum(['r', 'g', 'b', 'a']);
export type Channel = z.infer<typeof channelSchema>;

/** One picture that a role of a material may have. */
export const textureChoiceSchema = z.object({
  path: z.string(),
  hash: z.string().nullable(),
  format: z.string(),
  hasPreview: z.boolean(),
  sizeBytes: z.number().nullable(),
  /** What it differs by from others of its role: palette, colour, quality. Empty for the plain one. */
  variant: z.string(),
  why: z.string(),
  /** Whether it is worn without being asked for. */
  isSure: z.boolean(),
  /** Of packed channels: which role lies in which. */
  channels: z.array(z.object({ role: textureRoleSchema, channel: channelSchema })),
});
export type TextureChoice = z.infer<typeof textureChoiceSchema>;

export const materialSetSchema = z.object({
  material: z.string(),
  roles: z.array(
    z.object({
      role: textureRoleSchema,
      colourSpace: z.enum(['sRGB', 'linear']),
      choices: z.array(textureChoiceSchema),
    }),
  ),
});
export type MaterialSet = z.infer<typeof materialSetSchema>;

/** A person says that a file is this role of this material; null: that it has none. */
export const saidTextureSchema = z.object({
  material: z.string().max(500),
  role: textureRoleSchema,
  texture: z.string().max(4096).nullable(),
});
export type SaidTexture = z.infer<typeof saidTextureSchema>;

const candidateSchema = z.object({ path: z.string(), isCertain: z.boolean(), reason: z.string() });

/** What the materials of a model may wear. */
export const textureSetsSchema = z.object({
  materials: z.array(materialSetSchema),
  said: z.array(
    saidTextureSchema.extend({
      isThere: z.boolean(),
      channels: z.array(z.object({ role: textureRoleSchema, channel: channelSchema })),
    }),
  ),
  /** Variants that more than one material or role has, or one alone. */
  palettes: z.array(z.string()),
  /** Pictures that the model names and the build lacks, with what they may be. */
  missing: z.array(z.object({ text: z.string(), where: z.string(), candidates: z.array(candidateSchema) })),
});
export type TextureSets = z.infer<typeof textureSetsSchema>;

const mostMaterials = 2000;

export const askTextureSetsSchema = z.object({
  channel: z.number().int(),
  build: z.string(),
  path: z.string().min(1).max(4096),
  materials: z.array(z.string().max(500)).max(mostMaterials),
});

export const sayTexturesSchema = z.object({
  channel: z.number().int(),
  path: z.string().min(1).max(4096),
  said: z.array(saidTextureSchema).max(5000),
  /** What holds no longer. */
  drop: z
    .array(saidTextureSchema.omit({ texture: true }))
    .max(5000)
    .default([]),
});
export type SayTextures = z.infer<typeof sayTexturesSchema>;
