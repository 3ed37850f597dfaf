import * as z from 'zod';
import { readersVersion } from '../../../core/kinds/read.ts';
import type { Shown, ShownPlace } from '../../../core/kinds/show.ts';
import type { DescribeFile } from '../../decode/operations.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import { digestOf } from '../../store/hash.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { readLocal } from '../../store/local-content.ts';
import type { FindFile } from '../references/find-file.ts';

export interface ShowServices {
  store: ContentStore;
  readers: Pick<OnDemandReaders, 'show'>;
  /** Finds what files of the asset's build name. */
  findFile: FindFile;
  /** What the title's team says of how files are built. */
  describe: DescribeFile;
}

export interface AssetToShow {
  path: string;
  format: string;
  hash: string;
}

const namesSchema = z.array(z.string());

/**
 * An asset in a form that browsers show: as it was made before, where the asset and all files that it names are the same.
 * @throws PlainError with the reason where it cannot be shown, NotFoundError where the store has lost it
 */
export async function showAsset(
  { store, readers, findFile, describe }: ShowServices,
  { path, format, hash }: AssetToShow,
  image: ShownPlace,
): Promise<Shown> {
  const extension = path.slice(path.lastIndexOf('.') + 1).toLowerCase();
  const described = describe(path, format);
  const sheet = described.sheet
    ? [digestOf(described.sheet.text).toString('hex'), described.sheet.version]
    : [];
  const made = (operation: string, files: readonly (readonly [string, string | null])[]) => ({
    source: hash,
    operation,
    parameters: JSON.stringify([format, extension, image, files, ...sheet]),
    version: readersVersion,
  });
  // Numbers of pixels are many, and are read anew as fast as they would be fetched.
  if (image.pixels !== undefined) {
    const content = { path, format, content: await store.getLocal(hash), ...described };
    return readers.show(content, image, () => Promise.resolve(null));
  }
  // Which files it names is known from the time before; which ones these are is looked up anew.
  const names = await store.getDerivative(made('show-names', []));
  if (names) {
    const named = namesSchema.parse(JSON.parse((await readLocal(names)).toString('utf8')));
    const files = await Promise.all(named.map(async (name) => [name, await findFile(path, name)] as const));
    const kept = await store.getDerivative(made('show', files));
    if (kept) return unpack(await readLocal(kept));
  }
  const files = new Map<string, string | null>();
  const shown = await readers.show(
    { path, format, content: await store.getLocal(hash), ...described },
    image,
    async (reference) => {
      const file = await findFile(path, reference);
      files.set(reference, file);
      return file === null ? null : ((await store.ensureLocal([file])).get(file) ?? null);
    },
  );
  const sorted = [...files].sort(([a], [b]) => (a < b ? -1 : 1));
  await store.putDerivative(made('show', sorted), pack(shown));
  await store.putDerivative(
    made('show-names', []),
    Buffer.from(JSON.stringify(sorted.map(([name]) => name))),
  );
  return shown;
}

/** The type in the first line, then the bytes. */
function pack({ mediaType, bytes }: Shown): Buffer {
  return Buffer.concat([Buffer.from(`${mediaType}\n`), bytes]);
}

function unpack(packed: Buffer): Shown {
  const end = packed.indexOf('\n');
  return { mediaType: packed.toString('latin1', 0, end), bytes: packed.subarray(end + 1) };
}
