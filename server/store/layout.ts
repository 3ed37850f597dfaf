import { join } from 'node:path';

/** Where a content lies: in a pack at an offset, or (pack 0) in a file of its own. */
export interface ContentPlace {
  /** 64 hex digits. */
  hash: string;
  size: number;
  packId: number;
  packOffset: number;
}

/** A pack is sealed when it has grown past this. */
export const packBytes = 256 * 1024 * 1024;

export function packFile(store: string, packId: number): string {
  return join(store, 'packs', `${String(packId).padStart(8, '0')}.pack`);
}

export function largeFile(store: string, hash: string): string {
  return join(store, 'large', hash.slice(0, 2), hash);
}

export function placeFile(store: string, { packId, hash }: Pick<ContentPlace, 'packId' | 'hash'>): string {
  return packId === 0 ? largeFile(store, hash) : packFile(store, packId);
}
