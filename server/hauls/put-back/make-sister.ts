import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Facts } from '../../../contract/facts.ts';
import { haulSettingsSchema, writtenFormats, type HaulSettings } from '../../../contract/haul-settings.ts';
import { plural } from '../../../core/figures.ts';
import { identify } from '../../../core/kinds/identify.ts';
import type { ContentToRead } from '../../decode/operations.ts';
import type { ReaderPool } from '../../decode/reader-pool.ts';
import type { MakeSister } from './sisters.ts';

/** Formats of models that are one file, and have no materials beside it. */
const wholeModels: readonly string[] = ['glb', 'stl', 'ply'];
/** How far the proportions of two sizes of one picture may be off. */
const mostStretch = 0.02;

/**
 * Makes files anew that belong to a changed one, each in the format that it has: levels of models by leaving out triangles down to as
 * many as they had, pictures by scaling.
 * @param folder where they are written
 */
export function sisterMaker(readers: ReaderPool, folder: string): MakeSister {
  let count = 0;
  const contentOf = (bytes: Buffer, name: string): ContentToRead => {
    const file = join(folder, `read-${count++}`);
    writeFileSync(file, bytes);
    return {
      path: name,
      format: identify(bytes.subarray(0, 1024), name).format,
      content: { hash: '', size: bytes.length, file, offset: 0 },
    };
  };
  const factsOf = async (content: ContentToRead): Promise<Facts | null> =>
    (await readers.run({ type: 'facts', content }, async () => null)).facts;
  return async (of, sister) => {
    const [source, before] = [
      contentOf(readFileSync(of.file), of.name),
      contentOf(sister.bytes, sister.name),
    ];
    const [now, was] = [await factsOf(source), await factsOf(before)];
    if (!now || !was) return { reason: 'one of the two cannot be read' };
    const planned = planFor(now, was, before.format);
    if ('reason' in planned) return planned;
    const { written, reason } = await readers.run(
      {
        type: 'write',
        content: source,
        writing: {
          ...{ settings: planned.settings, kind: now.kind, stem: 'sister', space: null, isNormal: false },
          ...{ worn: [], leftOut: [], together: [], arrangement: null },
        },
        ...{ folder, prefix: `sister-${count++}` },
      },
      async () => null,
    );
    const [first] = written?.files ?? [];
    if (!first) return { reason: reason ?? 'nothing came of it' };
    return { file: first.file, says: [planned.says, ...(written?.notes ?? [])].join('; ') };
  };
}

function planFor(
  now: Facts,
  was: Facts,
  format: string,
): { settings: HaulSettings; says: string } | { reason: string } {
  if (now.kind === 'picture' && was.kind === 'picture') {
    if (!isOneOf(writtenFormats.picture, format)) return { reason: `pictures are not written as ${format}` };
    const stretch = (now.width * was.height) / (now.height * was.width);
    if (Math.abs(stretch - 1) > mostStretch)
      return {
        reason: `it has ${was.width} × ${was.height} pixels, and the changed one has other proportions`,
      };
    return {
      settings: haulSettingsSchema.parse({ pictures: { as: format, width: was.width } }),
      says: `${was.width} pixels across of ${now.width}`,
    };
  }
  if (now.kind === 'model' && was.kind === 'model') {
    if (!wholeModels.includes(format)) return { reason: `levels are not written as ${format}` };
    const isFewer = was.triangles < now.triangles;
    return {
      settings: haulSettingsSchema.parse({
        models: { as: format, textures: 'as the file says', helpers: 'kept' },
        mend: { mostTriangles: isFewer ? was.triangles : 0 },
      }),
      says: isFewer
        ? `as near to ${plural(was.triangles, 'triangle')} as it goes`
        : 'as many triangles as the changed one',
    };
  }
  return { reason: 'they are not of one kind' };
}

function isOneOf(known: readonly string[], format: string): boolean {
  return known.includes(format);
}
