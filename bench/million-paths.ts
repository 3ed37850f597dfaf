import { seeded } from '../demo/seeded.ts';
import { readersVersion } from '../core/kinds/read.ts';
import { openEnd, role } from '../server/acquire/builds/spans.ts';
import { bulkLoad, type BulkTable } from '../server/platform/database/bulk-load.ts';
import type { Pool } from '../server/platform/database/pool.ts';
import { change, select, type Value } from '../server/platform/database/rows.ts';
import { pathsTable } from '../server/ingest/intake-tables.ts';
import { hashOf, pathDigest } from '../server/store/hash.ts';

const things =
  'heron lantern ferry reed jetty otter bell stage marsh boat lamp plank rope tide fog crane perch mallow ember skiff'.split(
    ' ',
  );
const parts =
  'body head wing arm leg base top left right front back upper lower inner outer small large old new broken'.split(
    ' ',
  );
const roles = 'col nrm rgh msk emi'.split(' ');
const folders = 'characters props stages effects interface weather boats birds plants music'.split(' ');
const endings = ['glb', 'png', 'dds', 'wav', 'json', 'bin', 'ogg', 'csv'] as const;
const formatOfEnding: Readonly<Record<string, string>> = { bin: 'binary' };

const spansTable: BulkTable = {
  table: 'asset_spans',
  columns: [
    { name: 'channel_id' },
    { name: 'path_digest', binary: true },
    { name: 'first_sequence' },
    { name: 'last_sequence' },
    { name: 'role' },
    { name: 'format' },
    { name: 'by_extension' },
    { name: 'size' },
    { name: 'hash', binary: true },
    { name: 'unit_digest', binary: true },
  ],
  onDuplicate: 'ignore',
};

/** Paths as games have them, no two alike, the same ones every time. */
export function* manyPaths(count: number): Generator<string> {
  const random = seeded(17);
  const pick = (words: readonly string[]): string => words[Math.floor(random() * words.length)] ?? '';
  for (let number = 0; number < count; number++) {
    const thing = pick(things);
    const level = random() < 0.4 ? `_l${Math.floor(random() * 4)}` : '';
    const texture = random() < 0.4 ? `_${pick(roles)}` : '';
    const archive = `data/${pick(folders)}_${Math.floor(number / 5000)}.zip!/`;
    yield `${archive}${thing}/${thing}_${pick(parts)}_${(number * 7919) % count}${texture}${level}.${pick(endings)}`;
  }
}

const factsTable: BulkTable = {
  table: 'content_facts',
  columns: [
    { name: 'hash', binary: true },
    { name: 'format' },
    { name: 'readers_version' },
    { name: 'mentions' },
  ],
  onDuplicate: 'ignore',
};

/** A text names three models: one that is there, by its path without extension; one that is not; and one by name. */
function mentionsOf(
  { digest, path }: { digest: Buffer; path: string },
  next: { path: string } | undefined,
): Value[][] {
  if (!path.endsWith('.json') || !next) return [];
  const bare = next.path.replace(/\.[^.]*$/, '');
  const mentions = [
    { text: bare, sort: 'path', where: 'item' },
    { text: `${bare}_lost.glb`, sort: 'path', where: 'model' },
    { text: bare.slice(bare.lastIndexOf('/') + 1), sort: 'name', where: 'name' },
  ];
  return [[hashOf(digest), 'json', readersVersion, JSON.stringify(mentions)]];
}

/** Puts a build of such paths into an empty database, as an index would leave it. */
export async function insertBuild(
  pool: Pool,
  title: string,
  count: number,
  hasMentions = false,
): Promise<void> {
  const { insertId: titleId } = await change(pool, "INSERT INTO titles (name, rights) VALUES (?, '')", [
    title,
  ]);
  const { insertId: channelId } = await change(
    pool,
    "INSERT INTO channels (title_id, name) VALUES (?, 'main')",
    [titleId],
  );
  await change(
    pool,
    "INSERT INTO builds (channel_id, sequence, label, source, released_at, indexed_at) VALUES (?, 1, '1', '/none', NOW(3), NOW(3))",
    [channelId],
  );
  const rows: { digest: Buffer; path: string }[] = [];
  for (const path of manyPaths(count)) rows.push({ digest: pathDigest(path), path });
  rows.sort((a, b) => a.digest.compare(b.digest));
  const batch = 50_000;
  for (let from = 0; from < rows.length; from += batch) {
    const part = rows.slice(from, from + batch);
    await bulkLoad(
      pool,
      pathsTable,
      part.map(({ digest, path }): Value[] => [digest, path]),
    );
    await bulkLoad(
      pool,
      spansTable,
      part.map(({ digest, path }): Value[] => {
        const ending = path.slice(path.lastIndexOf('.') + 1);
        return [
          channelId,
          digest,
          1,
          openEnd,
          role.file,
          formatOfEnding[ending] ?? ending,
          0,
          path.length * 100,
          hashOf(digest),
          digest,
        ];
      }),
    );
    if (hasMentions)
      await bulkLoad(
        pool,
        factsTable,
        part.flatMap((row, at) => mentionsOf(row, part[at + 1])),
      );
  }
}

/**
 * Puts a second build after such a one: about one path in fifty has another content, one in 250 is gone, one in 250 is new,
 * and one in 250 was moved. Which ones, their digests say.
 */
export async function insertUpdate(pool: Pool): Promise<void> {
  const channelId = 1;
  const between = async (
    low: number,
    high: number,
  ): Promise<{ digest: Buffer; path: string; format: string; size: number; hash: Buffer }[]> =>
    select(
      pool,
      `SELECT s.path_digest AS digest, p.path, s.format, s.size, s.hash FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
        WHERE s.channel_id = ? AND s.path_digest >= ? AND s.path_digest < ?`,
      [channelId, Buffer.from([low, ...Buffer.alloc(15)]), Buffer.from([high, ...Buffer.alloc(15)])],
    );
  const span = (
    digest: Buffer,
    { format, size }: { format: string; size: number },
    hash: Buffer,
  ): Value[] => [channelId, digest, 2, openEnd, role.file, format, 0, size, hash, digest];
  const rows: Value[][] = [];
  const fresh: Value[][] = [];
  for (const row of await between(0, 5))
    rows.push(span(row.digest, row, hashOf(Buffer.concat([row.digest, row.digest]))));
  for (const row of await between(6, 7)) {
    const path = `moved/${row.path}`;
    fresh.push([pathDigest(path), path]);
    rows.push(span(pathDigest(path), row, row.hash));
  }
  for (const row of await between(7, 8)) {
    const path = `new/${row.path}`;
    fresh.push([pathDigest(path), path]);
    rows.push(span(pathDigest(path), row, hashOf(Buffer.concat([row.hash, row.hash]))));
  }
  // Ends of what changed (0 to 4), went (5) and moved (6).
  await change(pool, 'UPDATE asset_spans SET last_sequence = 1 WHERE channel_id = ? AND path_digest < ?', [
    channelId,
    Buffer.from([7, ...Buffer.alloc(15)]),
  ]);
  const byDigest = (a: Value[], b: Value[], at: number): number => (a[at] as Buffer).compare(b[at] as Buffer);
  await bulkLoad(
    pool,
    pathsTable,
    fresh.sort((a, b) => byDigest(a, b, 0)),
  );
  await bulkLoad(
    pool,
    spansTable,
    rows.sort((a, b) => byDigest(a, b, 1)),
  );
  // It is there once all of it is.
  await change(
    pool,
    "INSERT INTO builds (channel_id, sequence, label, source, released_at, indexed_at, result) SELECT ?, 2, '2', '/none', NOW(3), NOW(3), JSON_OBJECT('title', 'Search', 'channel', 'main', 'build', '2', 'files', COUNT(*), 'containers', 0, 'bytes', 0, 'newContents', 0, 'newBytes', 0, 'locked', 0, 'unreadable', 0, 'leftOutFiles', 0, 'leftOutBytes', 0, 'unchanged', 0, 'seconds', 0) FROM asset_spans",
    [channelId],
  );
}
