import type { SetUp } from '../../contract/arrangements.ts';
import { haulSettingsSchema, type HaulSettings } from '../../contract/haul-settings.ts';
import type { WornPicture } from '../../contract/hauls.ts';
import type { Kind } from '../../contract/kinds.ts';
import { formatOf } from '../../core/kinds/formats.ts';
import { identify } from '../../core/kinds/identify.ts';
import { writeContent } from '../../core/kinds/write.ts';
import type { Written } from '../../core/kinds/writing.ts';
import { nodePlatform } from '../../server/decode/platform.ts';

export interface WriteOptions {
  /** As `worvel haul --set` has them: what is not said is usual. */
  settings: Parameters<typeof haulSettingsSchema.parse>[0];
  kind?: Kind;
  space?: 'sRGB' | 'linear' | null;
  isNormal?: boolean;
  worn?: WornPicture[];
  leftOut?: string[];
  together?: string[];
  arrangement?: { name: string; setUp: SetUp };
  resolve?: (reference: string) => Promise<Uint8Array | null>;
}

/** Writes bytes as a haul would. @param path tells of the format where the bytes do not */
export function writeBytes(bytes: Uint8Array, path: string, options: WriteOptions): Promise<Written> {
  const { format } = identify(bytes.subarray(0, 1024), path);
  const settings: HaulSettings = haulSettingsSchema.parse(options.settings);
  return writeContent(
    format,
    {
      ...{ bytes, size: bytes.length, path, platform: nodePlatform },
      part: (start, end) => bytes.subarray(start, end),
      resolve: options.resolve ?? (() => Promise.resolve(null)),
    },
    {
      ...{ kind: options.kind ?? formatOf(format).kind, settings, stem: 'thing' },
      ...{ space: options.space ?? null, isNormal: options.isNormal ?? false },
      ...{ worn: options.worn ?? [], leftOut: options.leftOut ?? [] },
      together: options.together ?? [],
      arrangement: options.arrangement ?? null,
    },
  );
}

/** The file with an ending. @throws Error where there is none */
export function fileOf({ files }: Written, ending: string): Uint8Array {
  const found = files.find((file) => file.ending === ending);
  if (!found)
    throw new Error(`no file ends with ${ending}: there are ${files.map((file) => file.ending).join(', ')}`);
  return found.bytes;
}
