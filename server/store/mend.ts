import { closeSync, existsSync, fsyncSync, openSync, readSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Queryable } from '../platform/database/rows.ts';
import { change, select } from '../platform/database/rows.ts';
import { hasEnded } from '../platform/process-mark.ts';
import { hashOf } from './hash.ts';
import { packFile } from './layout.ts';
import type { RemoteCopies } from './remote-copies.ts';

/**
 * Looks through packs that a dead writer left open, after a crash or a power cut: a content whose bytes are not
 * all there is forgotten, so that it is stored again when it is met again; the pack is then sealed.
 */
export async function mendStore(
  database: Queryable,
  store: string,
  remote: RemoteCopies | null,
): Promise<void> {
  removeLeftovers(join(store, 'temporary'));
  await change(database, 'DELETE l FROM lost_contents l JOIN contents c ON c.hash = l.hash');
  const packs = await select<{ id: number; owner: string }>(
    database,
    'SELECT id, owner FROM packs WHERE sealed = 0',
  );
  for (const { id, owner } of packs) {
    if (!(hasEnded(owner) ?? (await isSilent(database, owner)))) continue;
    if (remote) {
      // Nobody was told of what it holds: rows are written once a pack is in the object store.
      await change(database, 'DELETE FROM packs WHERE id = ?', [id]);
      continue;
    }
    const contents = await select<{ hash: Buffer; size: number; packOffset: number }>(
      database,
      'SELECT hash, size, pack_offset AS packOffset FROM contents WHERE pack_id = ?',
      [id],
    );
    const bad = lostContents(packFile(store, id), contents);
    for (const hash of bad) await forgetContent(database, hash);
    await change(database, 'UPDATE packs SET sealed = 1 WHERE id = ?', [id]);
  }
}

/** A process on another machine is taken for dead when it holds no job's lease. */
async function isSilent(database: Queryable, owner: string): Promise<boolean> {
  const leases = await select(
    database,
    "SELECT id FROM jobs WHERE state = 'running' AND owner = ? AND lease_until > NOW(3) LIMIT 1",
    [owner],
  );
  return leases.length === 0;
}

/** Takes away what processes of this machine were writing when they were killed. */
function removeLeftovers(folder: string): void {
  if (!existsSync(folder)) return;
  for (const name of readdirSync(folder)) {
    const [machine = '', mark = ''] = name.split('~');
    if (hasEnded(`${machine}/${mark}`)) rmSync(join(folder, name), { force: true });
  }
}

/** Forgets a lost content: it is stored again when it is met again. Readers' facts go with a lost preview, so that both are made again. */
export async function forgetContent(database: Queryable, hash: Buffer): Promise<void> {
  await change(database, 'INSERT IGNORE INTO lost_contents (hash) VALUES (?)', [hash]);
  for (const table of ['content_facts', 'readings'])
    await change(database, `DELETE FROM ${table} WHERE preview_hash = ?`, [hash]);
  await change(database, 'DELETE FROM contents WHERE hash = ?', [hash]);
  // The next build looks for facts of all that it holds, and not of what is new alone.
  await change(
    database,
    'UPDATE builds SET readers_version = 0, facts_version = NULL WHERE readers_version > 0 OR facts_version IS NOT NULL',
  );
}

function lostContents(
  path: string,
  contents: readonly { hash: Buffer; size: number; packOffset: number }[],
): Buffer[] {
  let file: number;
  try {
    file = openSync(path, 'r');
  } catch {
    // The pack was never made, or is gone: all that it should hold is lost.
    return contents.map(({ hash }) => hash);
  }
  try {
    fsyncSync(file);
    return contents
      .filter(({ hash, size, packOffset }) => {
        const bytes = Buffer.allocUnsafe(size);
        return readSync(file, bytes, 0, size, packOffset) !== size || !hashOf(bytes).equals(hash);
      })
      .map(({ hash }) => hash);
  } finally {
    closeSync(file);
  }
}
