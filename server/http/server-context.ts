import type { CompareDesk } from '../comparisons/comparer.ts';
import type { DataFolder } from '../data-folder.ts';
import type { Pool } from '../database/pool.ts';
import type { SpanDesk } from '../findings/span-desk.ts';
import type { Library } from '../library/library.ts';
import type { ChannelTables } from '../search/channel-tables.ts';
import type { Shower } from '../readers/shower.ts';
import type { Runner } from '../work/runner.ts';

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
