import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, rename } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { keptEntrySchema, type KeptEntry } from '../../../contract/editions.ts';
import type { Withheld } from '../../../core/catalogue/withheld.ts';
import { isWithheld, withheldIn } from '../../../core/catalogue/withheld.ts';
import { NotFoundError, codeOf } from '../../platform/plain-error.ts';

/** Where the state of an edition is kept: what was published, line by line. */
function stateFile(dataRoot: string, titleId: number, number: number): string {
  return join(dataRoot, 'published', String(titleId), 'states', `${number}.jsonl.gz`);
}

export async function keepState(
  dataRoot: string,
  titleId: number,
  number: number,
  entries: readonly KeptEntry[],
): Promise<void> {
  const file = stateFile(dataRoot, titleId, number);
  await mkdir(dirname(file), { recursive: true });
  const lines = function* (): Generator<string> {
    for (const entry of entries) yield `${JSON.stringify(entry)}\n`;
  };
  // Whole or not at all.
  await pipeline(Readable.from(lines()), createGzip({ level: 1 }), createWriteStream(`${file}.part`));
  await rename(`${file}.part`, file);
}

/**
 * The entries of an earlier edition. What was withheld since then is left out: an older state shows it no more.
 * @throws NotFoundError where that edition's state is not kept
 */
export async function readState(
  dataRoot: string,
  titleId: number,
  number: number,
  withheld: Withheld,
): Promise<KeptEntry[]> {
  const unpacked = createReadStream(stateFile(dataRoot, titleId, number)).on('error', (error) =>
    unpacked.destroy(error),
  );
  const kept: KeptEntry[] = [];
  try {
    const text = createGunzip();
    const lines = createInterface({ input: text });
    const reading = pipeline(unpacked, text);
    reading.catch(() => lines.close());
    for await (const line of lines) kept.push(keptEntrySchema.parse(JSON.parse(line)));
    await reading;
  } catch (error) {
    if (codeOf(error) === 'ENOENT')
      throw new NotFoundError(`The state of edition ${number} is not kept here any more.`);
    throw error;
  }
  return kept.flatMap((one) => withoutWithheld(one, withheld) ?? []);
}

/** An entry as it may be shown now; null where nothing of it may. */
function withoutWithheld({ entry, sources }: KeptEntry, withheld: Withheld): KeptEntry | null {
  // Whatever it was called then, and whatever it showed.
  if (withheld.ids.has(entry.id)) return null;
  const whole = entry.assets.flatMap((asset, at) => {
    const source = sources[at];
    return source && !isWithheld({ path: asset.path, ...source }, withheld) ? [{ asset, source }] : [];
  });
  if (whole.length === 0 && entry.assets.length > 0) return null;
  const note = (asset: (typeof whole)[number]['asset']) =>
    asset.note && withheldIn(JSON.stringify(asset.note), withheld) === null ? asset.note : null;
  return {
    sources: whole.map(({ source }) => source),
    entry: {
      ...entry,
      relations: entry.relations.filter(({ address }) => !withheld.ids.has(Number.parseInt(address, 10))),
      assets: whole.map(({ asset }) => ({ ...asset, note: note(asset) })),
    },
  };
}
