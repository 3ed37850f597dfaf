import type { CompareDesk } from '../decode/comparer.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Pool } from '../platform/database/pool.ts';
import type { SpanDesk } from '../changes/findings/span-desk.ts';
import type { Library } from '../library/library.ts';
import type { ChannelTables } from '../library/search/channel-tables.ts';
import type { Shower } from '../decode/shower.ts';
import type { Runner } from './runner.ts';

/** What every feature's routes are given. */
export interface ServerContext {
  pool: Pool;
  folder: DataFolder;
  spans: SpanDesk;
  desk: CompareDesk;
  runner: Runner;
  shower: Shower;
  tables: ChannelTables;
  library: Library;
}
