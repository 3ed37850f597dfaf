import type { Kind } from '../../contract/kinds.ts';
import { formatOf } from './formats.ts';
import { Mentions } from './mentions.ts';
import { show, type Shown, type ShownPlace } from './show.ts';
import { ReadError, type ReadRequest, type Reader, type Reading } from './reading.ts';

/**
 * The table of kinds. A kind without a reader is told apart and kept, and has no facts. Readers come when they are
 * first needed: their libraries are large.
 */
const readers: Partial<Record<Kind, () => Promise<Reader>>> = {
  picture: async () => (await import('./picture/read.ts')).readPicture,
  model: async () => (await import('./model/read.ts')).readModel,
  clip: async () => (await import('./model/read.ts')).readModel,
  sound: async () => (await import('./sound/read.ts')).readSound,
  map: async () => (await import('./map/read.ts')).readMap,
  font: async () => (await import('./font/read.ts')).readFont,
  film: async () => (await import('./film/read.ts')).readFilm,
  text: async () => (await import('./text/read.ts')).readText,
};

/** Counts up when facts of contents that were read before must be read again. */
export const readersVersion = 12;

/** Larger contents are kept and compared, and nothing is found out about them; films are read in parts, whatever their size. */
export const largestBytes = 1024 ** 3;

export function isReadInParts(format: string): boolean {
  return formatOf(format).kind === 'film';
}

export function hasReader(format: string): boolean {
  return formatOf(format).kind in readers;
}

/** Reads a content of a format that has a reader. @throws ReadError */
export async function readContent(format: string, request: Omit<ReadRequest, 'raster'>): Promise<Reading> {
  const reader = await readers[formatOf(format).kind]?.();
  if (!reader) throw new ReadError(`there is no reader for ${format}`);
  const mentions = new Mentions();
  const reading = await reader(
    await prepared(formatOf(format).kind, {
      ...request,
      resolve: (reference) => {
        mentions.addPath(reference, 'file');
        return request.resolve(reference);
      },
    }),
  );
  // After the reading: that finds the version of the format which fits.
  for (const path of (await request.bySheet?.mentions()) ?? []) mentions.addPath(path, 'file');
  for (const mention of reading.mentions) mentions.add(mention);
  const { facts } = reading;
  const { bySheet } = request;
  const marked = bySheet && facts.kind !== 'font' && facts.kind !== 'film';
  return {
    ...reading,
    facts: marked ? { ...facts, sheet: bySheet.mark() } : facts,
    mentions: mentions.list(),
  };
}

/** Makes of a content what a browser can show. @throws ReadError */
export async function showContent(
  format: string,
  request: Omit<ReadRequest, 'raster'>,
  place: ShownPlace,
): Promise<Shown> {
  const { kind } = formatOf(format);
  return show(kind, format, await prepared(kind, request), place);
}

/** A request as a kind’s reader wants it. A table that a sheet reads is a text: it is read as CSV. @throws ReadError */
export async function prepared(kind: Kind, request: Omit<ReadRequest, 'raster'>): Promise<ReadRequest> {
  const { bySheet } = request;
  if (kind !== 'text' || !bySheet) return withRaster(request);
  const bytes = await bySheet.table();
  const part = (start: number, end: number): Uint8Array => bytes.subarray(start, end);
  return withRaster({
    ...request,
    ...{ bytes, part, size: bytes.length, path: `${request.path}.csv`, bySheet: undefined },
  });
}

/** With what readers of one kind need of another: pictures. */
export function withRaster(request: Omit<ReadRequest, 'raster'>): ReadRequest {
  return {
    ...request,
    raster: async (bytes, maximumSize) => {
      const { rasterOf } = await import('./picture/open.ts');
      return rasterOf(bytes, request.platform, maximumSize);
    },
  };
}
