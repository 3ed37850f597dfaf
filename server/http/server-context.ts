import type { CompareDesk } from '../comparisons/comparer.ts';
import type { DataFolder } from '../data-folder.ts';
import type { Pool } from '../database/pool.ts';
import type { RecentSpans } from '../findings/recent-spans.ts';
import type { RecentNews } from '../news/recent-news.ts';
import type { Library } from '../library/library.ts';
import type { ChannelTables } from '../search/channel-tables.ts';
import type { Shower } from '../readers/shower.ts';
import type { Runner } from '../work/runner.ts';

/** What every feature's routes are given. */
export interface ServerContext {
  pool: Pool;
  folder: DataFolder;
  spans: RecentSpans;
  news: RecentNews;
  desk: CompareDesk;
  runner: Runner;
  shower: Shower;
  tables: ChannelTables;
  library: Library;
}
