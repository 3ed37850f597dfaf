import type { DatabaseAddress } from '../../platform/database/pool.ts';

/** What the thread is to do that makes a channel's tables. */
export interface SearchWork {
  address: DatabaseAddress;
  storeFolder: string;
  channelId: number;
  key: string;
  /** File of the paths with their states. */
  file: string;
  /** File of the texts, to be made from the other one; null where that one is to be made. */
  textFile: string | null;
}
export type SearchOutcome = { error: string | null };
