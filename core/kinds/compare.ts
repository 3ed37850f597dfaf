import type { Kind } from '../../contract/kinds.ts';
import type { Comparer, OtherKinds, Outcome } from './comparing.ts';
import { formatOf } from './formats.ts';
import { prepared } from './read.ts';
import { ReadError, type ReadRequest } from './reading.ts';

/** The table of kinds that are compared. Comparers come when they are first needed, as readers do. */
const comparers: Partial<Record<Kind, () => Promise<Comparer>>> = {
  model: async () => (await import('./model/compare.ts')).compareModels,
  clip: async () => (await import('./model/compare.ts')).compareModels,
  map: async () => (await import('./map/compare.ts')).compareMaps,
  text: async () => (await import('./text/compare.ts')).compareTexts,
  sound: async () => (await import('./sound/compare.ts')).compareSounds,
  picture: async () => (await import('./picture/compare.ts')).comparePictures,
};

/** Counts up when comparisons that are kept must be made again. */
export const comparersVersion = 5;

export interface ComparedSide {
  format: string;
  request: Omit<ReadRequest, 'raster'>;
}

/** Whether contents of two formats can be compared beyond their facts. */
export function canCompare(oldFormat: string, newFormat: string): boolean {
  return (
    familyOf(formatOf(oldFormat).kind) === familyOf(formatOf(newFormat).kind) &&
    formatOf(newFormat).kind in comparers
  );
}

/** A clip is a model without a shape. */
function familyOf(kind: Kind): Kind {
  return kind === 'clip' ? 'model' : kind;
}

/** Compares two contents of formats that can be compared. @throws ReadError */
export async function compareContents(old: ComparedSide, now: ComparedSide): Promise<Outcome> {
  const comparer = canCompare(old.format, now.format)
    ? await comparers[formatOf(now.format).kind]?.()
    : undefined;
  if (!comparer) throw new ReadError(`${old.format} and ${now.format} are not compared`);
  const before = await prepared(formatOf(old.format).kind, old.request);
  const after = await prepared(formatOf(now.format).kind, now.request);
  return comparer(before, after, picturesInside(before, after));
}

/** How pictures inside of two contents are compared. */
export function picturesInside(before: ReadRequest, after: ReadRequest): OtherKinds {
  const comparePictures = async (oldPicture: Uint8Array, newPicture: Uint8Array): Promise<Outcome> => {
    const { comparePictures: compare } = await import('./picture/compare.ts');
    // Their names say nothing: only a TGA is known by its end.
    const inside = (request: ReadRequest, bytes: Uint8Array): ReadRequest => ({
      ...request,
      bytes,
      size: bytes.length,
      path: 'x.tga',
    });
    return compare(inside(before, oldPicture), inside(after, newPicture), { comparePictures });
  };
  return { comparePictures };
}
