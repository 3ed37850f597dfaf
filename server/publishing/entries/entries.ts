import {
  entryDetailsSchema,
  entryDraftSchema,
  type Entry,
  type EntryDetails,
  type EntryDraft,
  type EntryInput,
  type EntryPage,
  type EntryQuery,
  type EntryState,
} from '../../../contract/catalogue.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import { factsKey, findFacts } from '../../library/assets/facts.ts';
import { addChange, addItems } from '../../people/history/change-log.ts';
import { changeItemsIn, inHistory, type KeptItems } from '../../people/history/kept-items.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { Pool, PoolConnection } from '../../platform/database/pool.ts';
import {
  change,
  containing,
  parseColumn,
  select,
  selectOne,
  type Queryable,
  type Value,
} from '../../platform/database/rows.ts';
import { role } from '../../acquire/builds/spans.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';
import { pathDigest } from '../../store/hash.ts';
import { readSite } from '../site-settings.ts';
import { keepReview, review } from './review.ts';

/** An entry as its table holds it. */
export interface EntryRow {
  id: number;
  channelId: number;
  name: string;
  internalName: string;
  summary: string;
  credits: string;
  spoiler: number;
  state: EntryState;
  revision: number;
  changedAt: Date;
  details: unknown;
  writtenBy: string;
  approvedBy: string;
}

const entryColumns = `SELECT id, channel_id AS channelId, name, internal_name AS internalName, summary, credits, spoiler, state,
  revision, changed_at AS changedAt, details, written_by AS writtenBy, approved_by AS approvedBy FROM entries`;

/** Entries of some channels, by name. */
export async function listEntries(database: Queryable, channelIds: readonly number[]): Promise<Entry[]> {
  if (channelIds.length === 0) return [];
  const rows = await select<EntryRow>(database, `${entryColumns} WHERE channel_id IN (?) ORDER BY name, id`, [
    channelIds,
  ]);
  return withAssets(database, rows);
}

/** A part of a channel's entries, by name. */
export async function findEntries(
  database: Queryable,
  { channel, state, text, path, offset, limit }: EntryQuery,
): Promise<EntryPage> {
  const where = ['channel_id = ?'];
  const values: Value[] = [channel];
  if (text !== '') {
    where.push('(name LIKE ? OR internal_name LIKE ?)');
    values.push(containing(text), containing(text));
  }
  if (path !== '') {
    where.push('id IN (SELECT entry_id FROM entry_assets WHERE path_digest = ?)');
    values.push(pathDigest(path));
  }
  const counts = await select<{ state: EntryState; count: number }>(
    database,
    `SELECT state, COUNT(*) AS count FROM entries WHERE ${where.join(' AND ')} GROUP BY state`,
    values,
  );
  const states = Object.fromEntries(counts.map((one) => [one.state, one.count]));
  const rows = await select<EntryRow>(
    database,
    `${entryColumns} WHERE ${where.join(' AND ')} ${state === '' ? '' : 'AND state = ?'} ORDER BY name, id LIMIT ? OFFSET ?`,
    [...values, ...(state === '' ? [] : [state]), limit, offset],
  );
  const total = state === '' ? counts.reduce((sum, { count }) => sum + count, 0) : (states[state] ?? 0);
  return { total, states, entries: await withAssets(database, rows) };
}

/** @throws NotFoundError */
export async function findEntry(database: Queryable, id: number): Promise<Entry> {
  const rows = await select<EntryRow>(database, `${entryColumns} WHERE id = ?`, [id]);
  const [entry] = await withAssets(database, rows);
  if (!entry) throw new NotFoundError(`There is no entry ${id}.`);
  return entry;
}

/** An entry as a thing that the history keeps: by its number, with all that a person said. */
export const keptEntries: KeptItems = {
  subject: 'entries',
  async read(connection, _scope, items) {
    const rows = await select<EntryRow>(connection, `${entryColumns} WHERE id IN (?) FOR UPDATE`, [
      items.map(Number),
    ]);
    const states = new Map<string, string>();
    for (const row of rows) {
      const assets = await select<{ path: string }>(
        connection,
        `SELECT p.path FROM entry_assets a JOIN paths p ON p.digest = a.path_digest
          WHERE a.entry_id = ? ORDER BY a.place`,
        [row.id],
      );
      states.set(
        String(row.id),
        stateOf({
          ...row,
          spoiler: row.spoiler === 1,
          paths: assets.map(({ path }) => path),
          details: detailsOf(row.details),
        }),
      );
    }
    return states;
  },
  async write(connection, _scope, states) {
    for (const [item, state] of states) {
      const id = Number(item);
      if (state === null) await change(connection, 'DELETE FROM entries WHERE id = ?', [id]);
      else await writeEntry(connection, id, entryDraftSchema.parse(JSON.parse(state)));
    }
  },
};

/** The same text for the same entry, whatever it was read from. */
function stateOf({
  channelId,
  name,
  internalName,
  summary,
  credits,
  spoiler,
  state,
  paths,
  details,
}: EntryDraft): string {
  return JSON.stringify({
    channelId,
    name,
    internalName,
    summary,
    credits,
    spoiler,
    state,
    paths: [...new Set(paths)],
    // Entries had none at first: what says nothing more stays the text that it was.
    ...(JSON.stringify(details) === noDetails ? {} : { details }),
  });
}

const noDetails = JSON.stringify(entryDetailsSchema.parse({}));

/** Details as a column holds them. */
export function detailsOf(column: unknown): EntryDetails {
  return entryDetailsSchema.parse(parseColumn(column) ?? {});
}

async function writeEntry(connection: PoolConnection, id: number, draft: EntryDraft): Promise<void> {
  await change(
    connection,
    `INSERT INTO entries (id, channel_id, name, internal_name, summary, credits, spoiler, state, details, revision, changed_at)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 1, NOW(3))
     ON DUPLICATE KEY UPDATE name = VALUES(name), internal_name = VALUES(internal_name), summary = VALUES(summary),
       credits = VALUES(credits), spoiler = VALUES(spoiler), state = VALUES(state), details = VALUES(details), revision = revision + 1,
       changed_at = VALUES(changed_at)`,
    [
      id,
      draft.channelId,
      draft.name,
      draft.internalName,
      draft.summary,
      draft.credits,
      draft.spoiler ? 1 : 0,
      draft.state,
      JSON.stringify(draft.details),
    ],
  );
  await change(connection, 'DELETE FROM entry_assets WHERE entry_id = ?', [id]);
  await placeAssets(connection, id, draft.paths);
}

/** @throws ConflictError where the title asks for two people, and this is one */
export async function createEntry(pool: Pool, said: EntryInput, by: string): Promise<Entry> {
  const draft = entryDraftSchema.parse(said);
  const titleId = await findTitleOf(pool, draft.channelId);
  const { twoPeople } = await readSite(pool, titleId);
  const reviewed = review(null, draft, true, by, twoPeople);
  const id = await inHistory(pool, titleId, async (connection) => {
    // Its number comes first: the history names it by that.
    const { insertId } = await change(
      connection,
      `INSERT INTO entries (channel_id, name, internal_name, summary, credits, spoiler, state, revision, changed_at)
       VALUES (?, ?, '', '', '', 0, 'draft', 0, NOW(3))`,
      [draft.channelId, draft.name],
    );
    await writeEntry(connection, insertId, draft);
    await keepReview(connection, insertId, reviewed);
    const changeId = await addChange(
      connection,
      'entries',
      { titleId, channelId: draft.channelId },
      by,
      `made the entry “${draft.name}”`,
    );
    await addItems(connection, changeId, [{ item: String(insertId), before: null, after: stateOf(draft) }]);
    return insertId;
  });
  return findEntry(pool, id);
}

/** @throws ConflictError when somebody saved the entry since `revision` was read, or nobody else has approved it */
export async function saveEntry(
  pool: Pool,
  id: number,
  draft: EntryDraft,
  revision: number,
  by: string,
): Promise<Entry> {
  await changeEntry(pool, id, draft, `changed the entry “${draft.name}”`, by, revision);
  return findEntry(pool, id);
}

/** Removes an entry; nothing happens where there is none. */
export async function removeEntry(pool: Pool, id: number, by: string): Promise<void> {
  const row = await selectOne<EntryRow>(pool, `${entryColumns} WHERE id = ?`, [id]);
  if (row) await changeEntry(pool, id, null, `removed the entry “${row.name}”`, by, null);
}

async function changeEntry(
  pool: Pool,
  id: number,
  draft: EntryDraft | null,
  what: string,
  by: string,
  revision: number | null,
): Promise<void> {
  const faster = new ConflictError(
    'Somebody else saved this entry meanwhile: load it again to see their version.',
  );
  const known = await selectOne<EntryRow>(pool, `${entryColumns} WHERE id = ?`, [id]);
  if (!known) throw faster;
  const titleId = await findTitleOf(pool, known.channelId);
  await inHistory(pool, titleId, async (connection) => {
    const row = await selectOne<EntryRow>(connection, `${entryColumns} WHERE id = ? FOR UPDATE`, [id]);
    if (!row || (revision !== null && row.revision !== revision)) throw faster;
    const scope = { titleId, channelId: row.channelId };
    const { twoPeople } = await readSite(connection, titleId);
    const before = (await keptEntries.read(connection, scope, [String(id)])).get(String(id));
    const isChanged = draft !== null && before !== stateOf({ ...draft, state: row.state });
    const reviewed = draft && review(row, draft, isChanged, by, twoPeople);
    const state = draft && stateOf(draft);
    await changeItemsIn(connection, keptEntries, scope, new Map([[String(id), state]]), what, {
      by,
      seen: null,
    });
    if (reviewed) await keepReview(connection, id, reviewed);
  });
}

async function placeAssets(database: Queryable, entryId: number, paths: readonly string[]): Promise<void> {
  for (const [place, path] of [...new Set(paths)].entries()) {
    const digest = pathDigest(path);
    await change(database, 'INSERT IGNORE INTO paths (digest, path) VALUES (?, ?)', [digest, path]);
    await change(database, 'INSERT INTO entry_assets (entry_id, place, path_digest) VALUES (?, ?, ?)', [
      entryId,
      place,
      digest,
    ]);
  }
}

interface AssetRow {
  entryId: number;
  path: string;
  build: string | null;
  firstBuild: string | null;
  format: string | null;
  hash: Buffer | null;
  size: number | null;
  note: string | null;
}

/** The assets of entries as the newest build that has them has them. */
async function withAssets(database: Queryable, entries: readonly EntryRow[]): Promise<Entry[]> {
  if (entries.length === 0) return [];
  const rows = await select<AssetRow>(
    database,
    `SELECT a.entry_id AS entryId, p.path, s.format, s.hash, s.size, n.body AS note,
        (SELECT b.label FROM builds b WHERE b.channel_id = e.channel_id AND b.sequence <= s.last_sequence
          ORDER BY b.sequence DESC LIMIT 1) AS build,
        (SELECT b.label FROM asset_spans f JOIN builds b ON b.channel_id = f.channel_id AND b.sequence = f.first_sequence
          WHERE f.channel_id = e.channel_id AND f.path_digest = a.path_digest AND f.role = ?
          ORDER BY f.first_sequence LIMIT 1) AS firstBuild
       FROM entry_assets a JOIN entries e ON e.id = a.entry_id JOIN paths p ON p.digest = a.path_digest
       LEFT JOIN asset_spans s ON s.channel_id = e.channel_id AND s.path_digest = a.path_digest AND s.role = ?
         AND s.first_sequence = (SELECT MAX(l.first_sequence) FROM asset_spans l
           WHERE l.channel_id = e.channel_id AND l.path_digest = a.path_digest AND l.role = ?)
       LEFT JOIN notes n ON n.channel_id = e.channel_id AND n.path_digest = a.path_digest
      WHERE a.entry_id IN (?) ORDER BY a.entry_id, a.place`,
    [role.file, role.file, role.file, entries.map(({ id }) => id)],
  );
  const assets = rows.map((row) => ({
    ...row,
    format: row.format ?? 'binary',
    hash: row.hash?.toString('hex') ?? null,
  }));
  const facts = await findFacts(database, assets);
  return entries.map((entry) => {
    const own = assets.filter(({ entryId }) => entryId === entry.id);
    return {
      ...entry,
      spoiler: entry.spoiler === 1,
      details: detailsOf(entry.details),
      changedAt: entry.changedAt.toISOString(),
      paths: own.map(({ path }) => path),
      assets: own.map(({ path, build, firstBuild, format, hash, size, note }) => {
        const known = facts.get(factsKey(hash, format));
        return {
          path,
          build,
          firstBuild,
          kind: formatOf(format).kind,
          format,
          hash,
          size,
          hasPreview: (known?.previewHash ?? null) !== null,
          facts: known?.facts ?? null,
          note: note ?? '',
        };
      }),
    };
  });
}
