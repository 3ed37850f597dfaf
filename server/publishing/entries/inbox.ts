import type { EntryState, Inbox } from '../../../contract/catalogue.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import { ladderOf } from '../../../core/names/family-members.ts';
import { Lexicon } from '../../../core/names/lexicon.ts';
import { findTitleOf, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { readLexiconState } from '../../library/names/lexicons.ts';
import { role } from '../../acquire/builds/spans.ts';
import { select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { detailsOf } from './entries.ts';

const mostChanged = 500;
const mostFresh = 300;
/** Kinds that are looked at for an entry of their own. */
const newsKinds = new Set(['picture', 'model', 'clip', 'sound', 'map', 'film']);

/** What a span means for the catalogue: what became of things that have entries, and what is new and has none. */
export async function readInbox(database: Queryable, from: PlacedBuild, to: PlacedBuild): Promise<Inbox> {
  const changed = await select<{
    entry: number;
    name: string;
    state: EntryState;
    path: string;
    before: Buffer | null;
    after: Buffer | null;
  }>(
    database,
    `SELECT e.id AS entry, e.name, e.state, p.path, o.hash AS 'before', n.hash AS 'after'
       FROM entries e JOIN entry_assets a ON a.entry_id = e.id JOIN paths p ON p.digest = a.path_digest
       LEFT JOIN asset_spans o ON o.channel_id = e.channel_id AND o.path_digest = a.path_digest AND o.role = ?
         AND o.first_sequence <= ? AND o.last_sequence >= ?
       LEFT JOIN asset_spans n ON n.channel_id = e.channel_id AND n.path_digest = a.path_digest AND n.role = ?
         AND n.first_sequence <= ? AND n.last_sequence >= ?
      WHERE e.channel_id = ? AND NOT (o.hash <=> n.hash) ORDER BY e.name, e.id LIMIT ?`,
    [
      ...[role.file, from.sequence, from.sequence, role.file, to.sequence, to.sequence],
      ...[to.channelId, mostChanged],
    ],
  );
  return {
    changed: changed.map(({ before, after, ...row }) => ({
      ...row,
      what: before === null ? 'came' : after === null ? 'went' : 'changed',
    })),
    ...(await readFresh(database, from, to)),
    due: await readDue(database, to.channelId),
  };
}

// New by path and by content, and in no entry.
const freshCondition = `FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
  WHERE s.channel_id = ? AND s.first_sequence > ? AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = ?
    AND s.hash IS NOT NULL AND s.format IN (?)
    AND NOT EXISTS (SELECT 1 FROM asset_spans o WHERE o.channel_id = s.channel_id AND o.path_digest = s.path_digest
      AND o.first_sequence <= ? AND o.last_sequence >= ?)
    AND NOT EXISTS (SELECT 1 FROM asset_spans c WHERE c.hash = s.hash AND c.channel_id = s.channel_id
      AND c.first_sequence <= ? AND c.last_sequence >= ?)
    AND NOT EXISTS (SELECT 1 FROM entry_assets a JOIN entries e ON e.id = a.entry_id
      WHERE a.path_digest = s.path_digest AND e.channel_id = s.channel_id)`;

async function readFresh(
  database: Queryable,
  from: PlacedBuild,
  to: PlacedBuild,
): Promise<Pick<Inbox, 'fresh' | 'newTotal'>> {
  const formats = await select<{ format: string }>(
    database,
    'SELECT DISTINCT format FROM asset_spans WHERE channel_id = ? AND first_sequence > ? AND first_sequence <= ?',
    [to.channelId, from.sequence, to.sequence],
  );
  const wanted = formats.map(({ format }) => format).filter((format) => newsKinds.has(formatOf(format).kind));
  if (wanted.length === 0) return { fresh: [], newTotal: 0 };
  const { sequence } = from;
  const values = [
    ...[to.channelId, sequence, to.sequence, to.sequence, role.file, wanted],
    ...[sequence, sequence, sequence, sequence],
  ];
  const rows = await select<{ path: string; format: string; bytes: number }>(
    database,
    `SELECT p.path, s.format, s.size AS bytes ${freshCondition} ORDER BY s.size DESC, p.path LIMIT ?`,
    [...values, mostFresh],
  );
  const said = await readLexiconState(database, await findTitleOf(database, to.channelId));
  const lexicon = new Lexicon(said.entries, said.rules, said.refused);
  // Levels of detail are one thing: its largest file, which comes first, stands for them.
  const met = new Set<string>();
  const things = rows.filter(({ path, format }) => {
    if (formatOf(format).kind !== 'model') return true;
    const thing = path.slice(0, path.lastIndexOf('/') + 1) + ladderOf(path, lexicon);
    if (met.has(thing)) return false;
    met.add(thing);
    return true;
  });
  const [counted] = await select<{ total: number }>(
    database,
    `SELECT COUNT(*) AS total ${freshCondition}`,
    values,
  );
  return {
    // Where not all were looked at, the others count file by file.
    newTotal: (counted?.total ?? 0) - (rows.length - things.length),
    fresh: things.map(({ path, format, bytes }) => ({ path, kind: formatOf(format).kind, bytes })),
  };
}

/** Withheld entries whose day has come, or whose build is there: somebody looks at them again. */
async function readDue(database: Queryable, channelId: number): Promise<Inbox['due']> {
  const rows = await select<{ entry: number; name: string; details: unknown }>(
    database,
    "SELECT id AS entry, name, details FROM entries WHERE channel_id = ? AND state = 'withheld' ORDER BY name",
    [channelId],
  );
  const due: Inbox['due'] = [];
  for (const { entry, name, details } of rows) {
    const { withheldUntil: until } = detailsOf(details);
    if (until === '') continue;
    const isDay = /^\d{4}-\d{2}-\d{2}$/.test(until);
    const isOver = isDay
      ? until <= new Date().toISOString().slice(0, 10)
      : (await selectOne(
          database,
          'SELECT id FROM builds WHERE channel_id = ? AND label = ? AND sequence IS NOT NULL',
          [...[channelId, until]],
        )) !== null;
    if (isOver) due.push({ entry, name, until });
  }
  return due;
}
