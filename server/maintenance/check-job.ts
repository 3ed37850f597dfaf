import * as z from 'zod';
import { bytesText } from '../../core/figures.ts';
import type { Pool } from '../platform/database/pool.ts';
import { select, selectOne } from '../platform/database/rows.ts';
import { defineJob, type JobContext } from '../jobs/define-job.ts';

const listedLines = 1000;

/**
 * Reads every content of the store and compares its hash; looks whether all that the tables name is there. What is broken
 * is named, and forgotten by the store, so that it is stored again when its source is indexed again.
 */
export const checkJob = defineJob({
  kind: 'check',
  params: z.null(),
  exclusive: true,
  async run(context: JobContext<null, unknown>) {
    const { pool, meter, store, signal, count } = context;
    await store.mend();
    const totals = await selectOne<{ count: number; bytes: number }>(
      pool,
      'SELECT COUNT(*) AS count, COALESCE(SUM(size), 0) AS bytes FROM contents',
    );
    meter.begin('checking contents', totals?.count ?? 0, Number(totals?.bytes ?? 0));
    let [files, bytes] = [0, 0];
    const broken = await store.check(signal, (size) => count(++files, (bytes += size)));
    await store.forget(broken.map(({ hash }) => hash));
    const lines: string[] = [];
    for (const { hash, reason } of broken) lines.push(...(await nameContent(pool, hash, reason)));
    const missing = await findMissing(pool);
    for (const hash of missing) {
      if (broken.some((other) => other.hash.equals(hash))) continue;
      lines.push(...(await nameContent(pool, hash, 'the store lacks it')));
    }
    lines.sort();
    lines.push(...(await checkReferences(pool)));
    const strays = await store.strays();
    const bad =
      broken.length + missing.filter((hash) => !broken.some((other) => other.hash.equals(hash))).length;
    const whole = `${(totals?.count ?? 0).toLocaleString('en')} contents were read, ${bytesText(Number(totals?.bytes ?? 0))}`;
    return {
      report: {
        summary:
          (bad === 0 && lines.length === 0
            ? `${whole}: all are as they were stored, and every reference is valid.`
            : `${whole}: ${bad} are broken or missing. Indexing their sources again, with “replace”, heals them.`) +
          (strays.count > 0
            ? ` ${strays.count} files of the store belong to nothing, ${bytesText(strays.bytes)}.`
            : ''),
        lines: lines.slice(0, listedLines),
      },
    };
  },
});

/** Contents that builds name and the store lacks. */
async function findMissing(pool: Pool): Promise<Buffer[]> {
  const rows = await select<{ hash: Buffer }>(
    pool,
    `SELECT DISTINCT s.hash FROM asset_spans s LEFT JOIN contents c ON c.hash = s.hash
      WHERE s.role = 0 AND s.hash IS NOT NULL AND c.hash IS NULL LIMIT ?`,
    [listedLines],
  );
  return rows.map(({ hash }) => hash);
}

/** One line for each path that holds a content, with the first build that has it there. */
async function nameContent(pool: Pool, hash: Buffer, reason: string): Promise<string[]> {
  const rows = await select<{ title: string; channel: string; build: string; path: string }>(
    pool,
    `SELECT t.name AS title, c.name AS channel, p.path,
         (SELECT b.label FROM builds b WHERE b.channel_id = s.channel_id AND b.sequence >= s.first_sequence
           ORDER BY b.sequence LIMIT 1) AS build
       FROM asset_spans s JOIN paths p ON p.digest = s.path_digest JOIN channels c ON c.id = s.channel_id
       JOIN titles t ON t.id = c.title_id WHERE s.hash = ? ORDER BY p.path LIMIT 20`,
    [hash],
  );
  if (rows.length === 0) return [`${hash.toString('hex').slice(0, 16)}…, a preview: ${reason}`];
  return rows.map(
    ({ title, channel, build, path }) => `${title}, ${channel}, build ${build}: ${path}: ${reason}`,
  );
}

/** What in the tables names something that is not there. */
async function checkReferences(pool: Pool): Promise<string[]> {
  const count = async (what: string, sql: string): Promise<string[]> => {
    const row = await selectOne<{ count: number }>(pool, sql);
    return row && row.count > 0 ? [`${row.count} ${what}`] : [];
  };
  return [
    ...(await count(
      'assets have no path',
      'SELECT COUNT(*) AS count FROM asset_spans s LEFT JOIN paths p ON p.digest = s.path_digest WHERE p.digest IS NULL',
    )),
    ...(await count(
      'contents lie in a pack that is not known',
      'SELECT COUNT(*) AS count FROM contents c LEFT JOIN packs p ON p.id = c.pack_id WHERE c.pack_id > 0 AND p.id IS NULL',
    )),
    ...(await count(
      'facts have a preview that the store lacks',
      `SELECT COUNT(*) AS count FROM content_facts f LEFT JOIN contents c ON c.hash = f.preview_hash
        WHERE f.preview_hash IS NOT NULL AND c.hash IS NULL`,
    )),
    ...(await count(
      'spans of builds begin with a build that is not there',
      `SELECT COUNT(*) AS count FROM asset_spans s LEFT JOIN builds b ON b.channel_id = s.channel_id
         AND b.sequence = s.first_sequence WHERE b.id IS NULL`,
    )),
  ];
}
