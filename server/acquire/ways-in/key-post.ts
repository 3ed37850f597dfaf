import { postedKeySchema } from '../../../contract/ways-in.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';
import { keepKey } from '../keyring/keys.ts';
import type { MasterKey } from '../keyring/master-key.ts';
import { ConflictError } from '../../platform/plain-error.ts';
import { AnswerError, requestJson, folderUrl } from './fetch-whole.ts';

export interface LockedBuild {
  id: number;
  label: string;
}

/** Builds of a channel that hold something locked. */
export async function findLockedBuilds(pool: Pool, channelId: number): Promise<LockedBuild[]> {
  return select<LockedBuild>(
    pool,
    `SELECT b.id, b.label FROM builds b WHERE b.channel_id = ? AND b.sequence IS NOT NULL
       AND EXISTS (SELECT 1 FROM problems q WHERE q.build_id = b.id AND q.locked = 1) ORDER BY b.sequence`,
    [channelId],
  );
}

/** Asks a key post for the key of a build, and keeps it. @returns whether a key came that was not known */
export async function fetchKey(
  pool: Pool,
  master: MasterKey,
  { url, title, build }: { url: string; title: string; build: string },
  signal: AbortSignal,
): Promise<boolean> {
  const address = new URL(`keys?${new URLSearchParams({ title, build })}`, folderUrl(url)).href;
  try {
    const { form, key, remark } = await requestJson(address, postedKeySchema, signal);
    await keepKey(pool, master, { title, form, key, remark, builds: [build], keep: true });
    return true;
  } catch (error) {
    // It has none yet, or it gave the same one again.
    if ((error instanceof AnswerError && error.status === 404) || error instanceof ConflictError)
      return false;
    throw error;
  }
}
