import type { Hono } from 'hono';
import { OnDemandReaders } from '../decode/on-demand.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import { SpanClient } from '../changes/findings/span-client.ts';
import { Library } from '../library/library.ts';
import { ChannelTables } from '../library/search/channel-tables.ts';
import { openStore } from '../store/content-store.ts';
import { Runner } from '../jobs/runner.ts';
import { createApp } from './app.ts';
import type { ServerContext } from './server-context.ts';
import { onKey } from './on-key.ts';

/** All features put together, whoever asks: a port that listens, or a command in the same process. */
export interface Application extends ServerContext {
  app: Hono;
  runner: Runner;
  close(): Promise<void>;
}

export interface ApplicationOptions {
  report: (message: string) => void;
  /**
   * Who asks for a job looks after it: the queue is not worked off by itself. A command does its own job and leaves those of
   * others alone.
   */
  isForOneCommand?: boolean;
}

export function openApplication(
  { pool, address, folder }: { pool: Pool; address: DatabaseAddress; folder: DataFolder },
  { report, isForOneCommand = false }: ApplicationOptions,
): Application {
  const store = openStore(pool, folder.store);
  const tables = new ChannelTables(pool, address, folder);
  const library = new Library(pool, address, tables);
  const readers = new OnDemandReaders();
  const spans = new SpanClient(address, library);
  const runner = new Runner(pool, { address, folder }, { report, onEnd: () => tables.forget() });
  const queue = isForOneCommand ? { look: () => undefined } : runner;
  const context: ServerContext = { pool, folder, store, spans, queue, readers, tables, library, onKey };
  return {
    ...context,
    runner,
    app: createApp(context, report),
    async close() {
      readers.close();
      await Promise.all([runner.close(), library.close(), spans.close()]);
      await store.close();
    },
  };
}
