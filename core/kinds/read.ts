import type { Kind } from '../../contract/kinds.ts';
import { formatOf } from './formats.ts';
import { readMap } from './map/read.ts';
import { readModel } from './model/read.ts';
import { readPicture } from './picture/read.ts';
import type { Reader } from './reading.ts';
import { readSound } from './sound/read.ts';
import { readText } from './text/read.ts';

/** The table of kinds. A kind without a reader is told apart and kept, and has no facts. */
const readers: Partial<Record<Kind, Reader>> = {
  picture: readPicture,
  model: readModel,
  sound: readSound,
  map: readMap,
  text: readText,
};

/** Counts up when facts of contents that were read before must be read again. */
export const readersVersion = 1;

export function readerOf(format: string): Reader | null {
  return readers[formatOf(format).kind] ?? null;
}
