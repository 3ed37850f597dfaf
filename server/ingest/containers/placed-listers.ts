import type { ContainerFormat } from '../../../core/containers/container-format.ts';
import { listAr } from './ar.ts';
import type { ByteSource } from './byte-source.ts';
import { listCpio } from './cpio.ts';
import type { PlacedEntry } from './placed-entry.ts';
import { listTar } from './tar.ts';

/** Archives that are not compressed, by what lists their entries where they lie. */
export const placedListers = {
  tar: listTar,
  ar: listAr,
  cpio: listCpio,
} as const satisfies Partial<Record<ContainerFormat, (source: ByteSource) => Generator<PlacedEntry>>>;

export type PlacedFormat = keyof typeof placedListers;

export function isPlacedFormat(format: ContainerFormat): format is PlacedFormat {
  return format in placedListers;
}
