import type { SearchTables } from './search-tables.ts';
import type { TablesState } from './tables-state.ts';
import type { DatabaseAddress } from '../../platform/database/pool.ts';

/** What the thread is to do that makes a channel's tables. */
export interface SearchWork {
  address: DatabaseAddress;
  storeFolder: string;
  channelId: number;
  key: string;
  /** What the key stands for. */
  state: TablesState;
  /** The tables as they were, in memory that is shared; where there are none, those of the file are looked at. */
  known: SearchTables | null;
  /** File of the paths with their states. */
  file: string;
  /** File of the texts, to be made from the other one; null where that one is to be made. */
  textFile: string | null;
}
export type SearchOutcome = { error: string | null };
