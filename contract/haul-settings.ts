import * as z from 'zod';

/** Formats that each kind is taken out in; `as it lay` is the bytes of the build. */
export const writtenFormats = {
  picture: ['as it lay', 'png', 'tga', 'webp', 'jpeg', 'exr'],
  model: ['as it lay', 'glb', 'gltf', 'obj', 'stl', 'ply', '3mf'],
  clip: ['as it lay', 'glb'],
  sound: ['as it lay', 'wav', 'flac', 'ogg', 'opus'],
  map: ['as it lay', 'json', 'csv', 'glb'],
  text: ['as it lay', 'json', 'csv', 'po'],
} as const;

export const asItLay = 'as it lay';

/** Lengths that models are written in, with how many of them are a metre. */
export const unitsPerMetre = { metres: 1, centimetres: 100, millimetres: 1000 } as const;

export const pictureSettingsSchema = z.object({
  as: z.enum(writtenFormats.picture).default('png'),
  /** Mip levels beside the finest are left out, unless asked for. */
  levels: z.enum(['finest', 'all']).default('finest'),
  /** 1 to 100, of JPEG alone. */
  quality: z.number().int().min(1).max(100).default(92),
  /** Normal maps: whether green points up or down; turned is the other way round than it was. */
  green: z.enum(['kept', 'turned']).default('kept'),
  /** Whether borders are cut off: what is transparent, or what has the colour of the upper left corner. */
  crop: z.enum(['none', 'alpha', 'colour']).default('none'),
  /** How far a border may be off in colour or alpha, of 255. */
  tolerance: z.number().int().min(0).max(255).default(8),
  /** `0,128,1024,768`: left, top, width and height of what is kept of every picture, instead of borders that are found. */
  rectangle: z
    .string()
    .regex(
      /^(|\d{1,5},\d{1,5},[1-9]\d{0,4},[1-9]\d{0,4})$/,
      'A rectangle is left, top, width and height in pixels: 0,128,1024,768.',
    )
    .default(''),
  /** Mild noise is taken off, before scaling. */
  noise: z.enum(['kept', 'taken off']).default('kept'),
  /** Gradients of too few steps are smoothed, after scaling. */
  bands: z.enum(['kept', 'smoothed']).default('kept'),
  /** Larger or smaller by so much, after cropping. */
  scale: z.number().min(0.01).max(16).default(1),
  /** Pixels across that it is scaled to instead; 0 goes by the factor. */
  width: z.number().int().min(0).max(32_768).default(0),
});

export const modelSettingsSchema = z.object({
  as: z.enum(writtenFormats.model).default('glb'),
  unit: z.enum(['metres', 'centimetres', 'millimetres']).default('metres'),
  up: z.enum(['Y', 'Z']).default('Y'),
  /** Where unit and axis are: in every number, or in one node above all others (glTF alone has such). */
  placed: z.enum(['in the data', 'in a root node']).default('in the data'),
  /** Pictures that the file lacks are found by their names, unless only those are wanted that it says. */
  textures: z.enum(['by role', 'as the file says', 'none']).default('by role'),
  /** Collision, shadow and other shapes that nobody sees in the game. */
  helpers: z.enum(['left out', 'kept']).default('left out'),
});

export const soundSettingsSchema = z.object({
  as: z.enum(writtenFormats.sound).default('wav'),
  /** Bits to a sample of WAV and FLAC; as decoded: those of the file, and floats (in FLAC 24 bits) where it has none. */
  bits: z.enum(['as decoded', '16', '24']).default('as decoded'),
});

/** Names in pairs, `hand_l.prop=hand_l; head_end=head`: what stands left is what is spoken of. */
const pairsSchema = z
  .string()
  .max(20_000)
  .refine(
    (text) =>
      text
        .split(';')
        .filter((pair) => pair.trim() !== '')
        .every((pair) => {
          const names = pair.split('=');
          return names.length === 2 && names.every((name) => name.trim() !== '');
        }),
    'Pairs are written as one=other; next=other.',
  )
  .default('');

export const clipSettingsSchema = z.object({
  as: z.enum(writtenFormats.clip).default('glb'),
  /** A picture of poses beside each clip. */
  pose: z.enum(['beside', 'none']).default('beside'),
  /** Keys to a second, at even distances; 0 leaves those that there are. */
  rate: z.number().int().min(0).max(240).default(0),
  /** A model whose skeleton clips are carried over to; empty: they stay on their own. */
  onto: z.string().max(4096).default(''),
  /** Bones of the clip with the bones of that model, where names do not tell. */
  boneMap: pairsSchema,
});

/** What is mended in models; each step by itself. */
export const mendSettingsSchema = z.object({
  /** Vertices that are equal in all that they have. */
  vertices: z.enum(['kept', 'joined']).default('kept'),
  /** Triangles without an area. */
  triangles: z.enum(['kept', 'those without area left out']).default('kept'),
  /** Triangles that face another way than their neighbours, and closed shapes that face inwards. */
  facing: z.enum(['kept', 'turned outwards']).default('kept'),
  normals: z.enum(['kept', 'made where missing', 'made anew']).default('kept'),
  /** Bones that a vertex hangs on, at most. */
  influences: z.enum(['kept', '4', '8']).default('kept'),
  /** Materials and pictures that nothing wears. */
  unused: z.enum(['left out', 'kept']).default('left out'),
  /** Triangles that are left of a model, at most; 0 leaves all. */
  mostTriangles: z.number().int().min(0).max(100_000_000).default(0),
  /** Copies of one skeleton become one, with one root. */
  skeletons: z.enum(['kept', 'joined']).default('kept'),
  /** Bones that hang on none, with what they are to hang on. */
  boneParents: pairsSchema,
  /** Models of one family become one file. */
  together: z.enum(['apart', 'families in one']).default('apart'),
  /** A model beside whose colours, normals, weights and UVs are taken over; `*` stands for the own name without its extension. */
  attributesFrom: z.string().max(400).default(''),
  /** How far apart places may be that are one, in percent of the model's size. */
  attributesWithin: z.number().min(0.001).max(10).default(1),
});
export type MendSettings = z.infer<typeof mendSettingsSchema>;

/** What a setting of pairs says. */
export function pairsOf(text: string): Map<string, string> {
  return new Map(
    text
      .split(';')
      .map((pair) => pair.split('=').map((name) => name.trim()))
      .flatMap(([one = '', other = '']) => (one !== '' && other !== '' ? [[one, other] as const] : [])),
  );
}
export const mapSettingsSchema = z.object({
  as: z.enum(writtenFormats.map).default('json'),
  /** Of GLB: all of it in one scene, or a scene for each class of placed things. */
  scenes: z.enum(['one', 'by class']).default('one'),
});
export const textSettingsSchema = z.object({
  as: z.enum(writtenFormats.text).default(asItLay),
  /** Of JSON and CSV: a file for each language, or one with all languages of the same texts beside one another. */
  languages: z.enum(['apart', 'side by side']).default('apart'),
});

/** Models made ready to be printed. Lengths in millimetres. */
export const printSettingsSchema = z.object({
  solid: z.enum(['no', 'one solid']).default('no'),
  /** `450`: what the longest side comes to. `0.42=60`: what 0.42 m of the model come to. Empty: its own size. */
  sizeMm: z
    .string()
    .regex(
      /^(|\d{1,5}(\.\d{1,4})?|\d{1,5}(\.\d{1,6})?=\d{1,5}(\.\d{1,4})?)$/,
      'A size is a length in millimetres (450), or a length of the model in metres with what it comes to (0.42=60).',
    )
    .refine(
      (text) => text === '' || text.split('=').every((part) => Number(part) > 0),
      'A size is above zero.',
    )
    .default(''),
  /** Room of the printer, `120` or `220x220x250`: what is larger is cut. Empty: whole. */
  bedMm: z
    .string()
    .regex(
      /^(|[1-9]\d{0,3}(x[1-9]\d{0,3}x[1-9]\d{0,3})?)$/,
      'A bed is one length (120) or three (220x220x250).',
    )
    .default(''),
  pins: z.enum(['none', 'pins and holes']).default('none'),
  /** The thickness of what has none, and below which walls are told. */
  wallMm: z.number().min(0.1).max(20).default(0.8),
  gramsPerCm3: z.number().min(0.1).max(25).default(1.24),
});

/** How a haul is written. */
export const haulSettingsSchema = z.object({
  pictures: pictureSettingsSchema.prefault({}),
  models: modelSettingsSchema.prefault({}),
  mend: mendSettingsSchema.prefault({}),
  print: printSettingsSchema.prefault({}),
  clips: clipSettingsSchema.prefault({}),
  sounds: soundSettingsSchema.prefault({}),
  maps: mapSettingsSchema.prefault({}),
  texts: textSettingsSchema.prefault({}),
  /** Folders as in the build, one folder for all, or a folder for each family. */
  folders: z.enum(['as in the build', 'one folder', 'by family']).default('as in the build'),
  /** What comes along with what was chosen. */
  along: z
    .object({
      needs: z.boolean().default(true),
      family: z.boolean().default(false),
      levels: z.enum(['finest', 'all']).default('finest'),
      /** Models as people have set them up, each set-up a file of its own beside the model. */
      arrangements: z.boolean().default(false),
    })
    .prefault({}),
});
export type HaulSettings = z.infer<typeof haulSettingsSchema>;
export type PictureSettings = HaulSettings['pictures'];
export type SoundSettings = HaulSettings['sounds'];
export type ModelSettings = HaulSettings['models'];
export type PrintSettings = HaulSettings['print'];
export type ClipSettings = HaulSettings['clips'];
export type MapSettings = HaulSettings['maps'];
