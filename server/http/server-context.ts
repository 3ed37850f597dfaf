import type { DataFolder } from '../data-folder.ts';
import type { Pool } from '../database/pool.ts';

/** What every feature's routes are given. */
export interface ServerContext {
  pool: Pool;
  folder: DataFolder;
}
