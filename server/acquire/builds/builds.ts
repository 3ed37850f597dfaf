import { intakeResultSchema, type Build, type Problem, type Title } from '../../../contract/builds.ts';
import { parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { settingsOf } from './settings.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

interface BuildRow {
  id: number;
  channelId: number;
  sequence: number | null;
  label: string;
  source: string;
  releasedAt: Date;
  indexedAt: Date | null;
  factsVersion: number | null;
  factsRevision: number;
  result: unknown;
  settings: unknown;
}

const buildColumns = `SELECT id, channel_id AS channelId, sequence, label, source, released_at AS releasedAt,
  indexed_at AS indexedAt, facts_version AS factsVersion, facts_revision AS factsRevision, result, settings FROM builds`;

/** Every title with its channels and their builds, oldest build first. */
export async function listTitles(database: Queryable): Promise<Title[]> {
  const titles = await select<{ id: number; name: string; rights: string }>(
    database,
    'SELECT id, name, rights FROM titles ORDER BY name',
  );
  const channels = await select<{ id: number; titleId: number; name: string }>(
    database,
    'SELECT id, title_id AS titleId, name FROM channels ORDER BY id',
  );
  const builds = (
    await select<BuildRow>(database, `${buildColumns} ORDER BY sequence IS NULL, sequence`)
  ).map(toBuild);
  return titles.map((title) => ({
    ...title,
    channels: channels
      .filter((channel) => channel.titleId === title.id)
      .map(({ id, name }) => ({ id, name, builds: builds.filter((build) => build.channelId === id) })),
  }));
}

/** @throws NotFoundError that says which of the two is not known */
export async function findChannel(database: Queryable, title: string, channel: string): Promise<number> {
  const row = await selectOne<{ id: number | null }>(
    database,
    'SELECT c.id FROM titles t LEFT JOIN channels c ON c.title_id = t.id AND c.name = ? WHERE t.name = ?',
    [channel, title],
  );
  if (!row) throw new NotFoundError(`There is no title named ${title}.`);
  if (row.id === null) throw new NotFoundError(`The title ${title} has no channel named ${channel}.`);
  return row.id;
}

/** @throws NotFoundError */
export async function findTitleNamed(database: Queryable, name: string): Promise<number> {
  const row = await selectOne<{ id: number }>(database, 'SELECT id FROM titles WHERE name = ?', [name]);
  if (!row) throw new NotFoundError(`There is no title named ${name}.`);
  return row.id;
}

/** @throws NotFoundError */
export async function nameOfTitle(database: Queryable, titleId: number): Promise<string> {
  const row = await selectOne<{ name: string }>(database, 'SELECT name FROM titles WHERE id = ?', [titleId]);
  if (!row) throw new NotFoundError(`There is no title ${titleId}.`);
  return row.name;
}

/** The title that a channel is of. @throws NotFoundError */
export async function findTitleOf(database: Queryable, channelId: number): Promise<number> {
  const row = await selectOne<{ titleId: number }>(
    database,
    'SELECT title_id AS titleId FROM channels WHERE id = ?',
    [channelId],
  );
  if (!row) throw new NotFoundError(`There is no channel ${channelId}.`);
  return row.titleId;
}

export interface PlacedBuild extends Build {
  sequence: number;
}

/** A build that has been indexed, by its label. @throws NotFoundError */
export async function findBuild(database: Queryable, channelId: number, label: string): Promise<PlacedBuild> {
  const row = await selectOne<BuildRow>(database, `${buildColumns} WHERE channel_id = ? AND label = ?`, [
    channelId,
    label,
  ]);
  if (!row) throw new NotFoundError(`There is no build labelled ${label} in this channel.`);
  const build = toBuild(row);
  if (build.sequence === null)
    throw new NotFoundError(`The build ${label} has not been indexed to its end yet.`);
  return { ...build, sequence: build.sequence };
}

/** A build that has been indexed, by its number. @throws NotFoundError */
export async function findBuildOf(database: Queryable, id: number): Promise<PlacedBuild> {
  const row = await selectOne<BuildRow>(database, `${buildColumns} WHERE id = ?`, [id]);
  const build = row && toBuild(row);
  if (!build || build.sequence === null) throw new NotFoundError(`There is no indexed build ${id}.`);
  return { ...build, sequence: build.sequence };
}

/** The build at a place of its channel's line; null where there is none. */
export async function buildAt(
  database: Queryable,
  channelId: number,
  sequence: number,
): Promise<PlacedBuild | null> {
  const row = await selectOne<{ id: number }>(
    database,
    'SELECT id FROM builds WHERE channel_id = ? AND sequence = ?',
    [channelId, sequence],
  );
  return row && findBuildOf(database, row.id);
}

/** Whether no build of its channel comes after it. */
export async function isNewestBuild(
  database: Queryable,
  { channelId, sequence }: PlacedBuild,
): Promise<boolean> {
  const row = await selectOne<{ newest: number }>(
    database,
    'SELECT MAX(sequence) AS newest FROM builds WHERE channel_id = ?',
    [channelId],
  );
  return (row?.newest ?? sequence) <= sequence;
}

/** The build that came last in a channel. @throws NotFoundError where it has none */
export async function newestBuild(database: Queryable, channelId: number): Promise<PlacedBuild> {
  const row = await selectOne<{ id: number }>(
    database,
    'SELECT id FROM builds WHERE channel_id = ? AND sequence IS NOT NULL ORDER BY sequence DESC LIMIT 1',
    [channelId],
  );
  return findBuildOf(database, row?.id ?? 0);
}

/** The build before another one on its line; null of the first. */
export async function placedBefore(database: Queryable, build: PlacedBuild): Promise<PlacedBuild | null> {
  const row = await selectOne<{ id: number }>(
    database,
    'SELECT id FROM builds WHERE channel_id = ? AND sequence < ? ORDER BY sequence DESC LIMIT 1',
    [build.channelId, build.sequence],
  );
  return row && findBuildOf(database, row.id);
}

export interface NamedBuild {
  id: number;
  title: string;
  channel: string;
  label: string;
}

/** @throws NotFoundError */
export async function findBuildById(database: Queryable, id: number): Promise<NamedBuild> {
  const row = await selectOne<NamedBuild>(
    database,
    `SELECT b.id, t.name AS title, c.name AS channel, b.label FROM builds b JOIN channels c ON c.id = b.channel_id
       JOIN titles t ON t.id = c.title_id WHERE b.id = ?`,
    [id],
  );
  if (!row) throw new NotFoundError(`There is no build ${id}.`);
  return row;
}

export async function listProblems(database: Queryable, buildId: number): Promise<Problem[]> {
  const rows = await select<Omit<Problem, 'locked'> & { locked: number }>(
    database,
    `SELECT p.path, q.reason, q.locked FROM problems q JOIN paths p ON p.digest = q.path_digest WHERE q.build_id = ? ORDER BY p.path`,
    [buildId],
  );
  return rows.map((row) => ({ ...row, locked: row.locked === 1 }));
}

function toBuild(row: BuildRow): Build {
  const result = row.result === null ? null : intakeResultSchema.parse(parseColumn(row.result));
  return {
    id: row.id,
    channelId: row.channelId,
    sequence: row.sequence,
    label: row.label,
    source: row.source,
    releasedAt: row.releasedAt.toISOString(),
    indexedAt: row.indexedAt?.toISOString() ?? null,
    factsVersion: row.factsVersion,
    factsRevision: row.factsRevision,
    files: result?.files ?? 0,
    containers: result?.containers ?? 0,
    bytes: result?.bytes ?? 0,
    newContents: result?.newContents ?? 0,
    newBytes: result?.newBytes ?? 0,
    locked: result?.locked ?? 0,
    unreadable: result?.unreadable ?? 0,
    leftOutFiles: result?.leftOutFiles ?? 0,
    leftOutBytes: result?.leftOutBytes ?? 0,
    settings: settingsOf(row.settings),
  };
}
