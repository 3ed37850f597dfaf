export type EntryType = 'file' | 'folder' | 'link' | 'hard link' | 'other';

/** An entry whose bytes lie in the archive as they are. */
export interface PlacedEntry {
  name: string;
  type: EntryType;
  size: number;
  /** Where its header begins, those that extend it counted in. */
  headerOffset: number;
  offset: number;
  /** Where a link leads. */
  target: string | null;
  /** Why its bytes cannot be had. */
  refused: string | null;
}
