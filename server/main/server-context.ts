import type { SpanClient } from '../changes/findings/span-client.ts';
import type { OnDemandReaders } from '../decode/on-demand.ts';
import type { JobQueue } from '../jobs/queue.ts';
import type { OnKey } from '../ingest/keys/routes.ts';
import type { Library } from '../library/library.ts';
import type { ChannelTables } from '../library/search/channel-tables.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { ContentStore } from '../store/content-store.ts';
import type { Pool } from '../platform/database/pool.ts';

/** What every feature's routes are given; each names what it takes of it. */
export interface ServerContext {
  pool: Pool;
  folder: DataFolder;
  store: ContentStore;
  spans: SpanClient;
  queue: JobQueue;
  readers: OnDemandReaders;
  tables: ChannelTables;
  library: Library;
  onKey: OnKey;
}
