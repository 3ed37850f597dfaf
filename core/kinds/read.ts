import type { Kind } from '../../contract/kinds.ts';
import { formatOf } from './formats.ts';
import type { Reader } from './reading.ts';

/**
 * The table of kinds. A kind without a reader is told apart and kept, and has no facts. Readers come when they are
 * first needed: their libraries are large.
 */
const readers: Partial<Record<Kind, () => Promise<Reader>>> = {
  picture: async () => (await import('./picture/read.ts')).readPicture,
  model: async () => (await import('./model/read.ts')).readModel,
  sound: async () => (await import('./sound/read.ts')).readSound,
  map: async () => (await import('./map/read.ts')).readMap,
  text: async () => (await import('./text/read.ts')).readText,
};

/** Counts up when facts of contents that were read before must be read again. */
export const readersVersion = 1;

export function hasReader(format: string): boolean {
  return formatOf(format).kind in readers;
}

export async function loadReader(format: string): Promise<Reader | null> {
  return (await readers[formatOf(format).kind]?.()) ?? null;
}
