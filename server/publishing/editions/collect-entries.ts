import type { KeptEntry, EditionAsset, AssetSource } from '../../../contract/editions.ts';
import type { EditionProblem } from '../../../contract/catalogue.ts';
import { addressOf } from '../../../core/catalogue/address.ts';
import { isWithheld, withheldIn, type Withheld } from '../../../core/catalogue/withheld.ts';
import { describe } from '../../../core/findings/evidence.ts';
import { formatOf } from '../../../core/kinds/formats.ts';
import { decodeEnvelope } from '../../../core/kinds/sound/envelope.ts';
import type { Channel } from '../../../contract/builds.ts';
import { openEnd, role } from '../../acquire/builds/spans.ts';
import { factsKey, findFacts, type KnownFacts } from '../../library/assets/facts.ts';
import { stepsOf as historyOf, type Span } from '../../library/assets/history.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { detailsOf, type EntryRow } from '../entries/entries.ts';
import { stepsOf } from '../notes/notes.ts';

const entriesAtOnce = 500;

type PublishedRow = Omit<EntryRow, 'state' | 'revision' | 'writtenBy' | 'approvedBy'>;

interface AssetRow {
  entryId: number;
  digest: Buffer;
  path: string;
  body: string | null;
  steps: unknown;
}

type SpanRow = Omit<Span, 'hash'> & { digest: Buffer; hash: Buffer | null };

export interface CollectedEntries {
  entries: KeptEntry[];
  problems: EditionProblem[];
}

/**
 * What is published of some channels, by number: each entry with its assets as the newest build has them, their history and
 * their notes. What is withheld is nowhere in it, and told among the problems.
 */
export async function* collectEntries(
  database: Queryable,
  channels: readonly Channel[],
  withheld: Withheld,
): AsyncGenerator<CollectedEntries> {
  if (channels.length === 0) return;
  const labels = new Map(channels.map((channel) => [channel.id, labelsOf(channel)]));
  const names = await publishedNames(database, labels);
  for (let last = 0; ;) {
    const rows = await select<PublishedRow>(
      database,
      `SELECT id, channel_id AS channelId, name, internal_name AS internalName, summary, credits, spoiler, details,
          changed_at AS changedAt
         FROM entries WHERE channel_id IN (?) AND state = 'published' AND id > ? ORDER BY id LIMIT ?`,
      [channels.map(({ id }) => id), last, entriesAtOnce],
    );
    const end = rows.at(-1);
    if (!end) return;
    last = end.id;
    yield await collectBatch(database, { channels, labels, names, withheld }, rows);
  }
}

/** An entry as others name it: a spoiler neither by its name nor by its address. */
type Named = Pick<KeptEntry['entry'], 'name' | 'address'>;

/** All that is published, by number: relations lead to nothing else. */
async function publishedNames(database: Queryable, labels: Labels): Promise<Map<number, Named>> {
  const rows = await select<Pick<PublishedRow, 'id' | 'name' | 'channelId' | 'spoiler' | 'details'>>(
    database,
    `SELECT id, name, channel_id AS channelId, spoiler, details FROM entries
      WHERE channel_id IN (?) AND state = 'published'`,
    [[...labels.keys()]],
  );
  return new Map(
    rows.map((row) => {
      const isSpoiler = isStillSpoiler(row, labels.get(row.channelId) ?? noLabels);
      return [
        row.id,
        { name: isSpoiler ? 'a spoiler' : row.name, address: addressOf(row.id, isSpoiler ? '' : row.name) },
      ];
    }),
  );
}

/** Labels of the builds of each channel, by their places on its line. */
type Labels = ReadonlyMap<number, ReadonlyMap<number, string>>;
const noLabels: ReadonlyMap<number, string> = new Map();

function labelsOf({ builds }: Channel): Map<number, string> {
  return new Map(
    builds.flatMap(({ sequence, label }) => (sequence === null ? [] : [[sequence, label] as const])),
  );
}

/** A spoiler is none any more when the build is there that it lasts until. */
function isStillSpoiler(
  { spoiler, details }: Pick<PublishedRow, 'spoiler' | 'details'>,
  labels: ReadonlyMap<number, string>,
): boolean {
  if (spoiler !== 1) return false;
  const { spoilerUntil } = detailsOf(details);
  return spoilerUntil === '' || ![...labels.values()].includes(spoilerUntil);
}

/** What is known of all entries. */
interface Surroundings {
  channels: readonly Channel[];
  labels: Labels;
  names: ReadonlyMap<number, Named>;
  withheld: Withheld;
}

async function collectBatch(
  database: Queryable,
  { channels, labels: byChannel, names, withheld }: Surroundings,
  rows: readonly PublishedRow[],
): Promise<CollectedEntries> {
  const assets = await select<AssetRow>(
    database,
    `SELECT a.entry_id AS entryId, a.path_digest AS digest, p.path, n.body, n.steps FROM entry_assets a
       JOIN entries e ON e.id = a.entry_id JOIN paths p ON p.digest = a.path_digest
       LEFT JOIN notes n ON n.channel_id = e.channel_id AND n.path_digest = a.path_digest
      WHERE a.entry_id IN (?) ORDER BY a.entry_id, a.place`,
    [rows.map(({ id }) => id)],
  );
  const spans = await spansOf(database, channels, assets);
  const newest = [...spans.values()].flatMap((list) => list.at(-1) ?? []);
  const facts = await findFacts(
    database,
    newest.map(({ hash, format }) => ({ hash, format })),
  );
  const byEntry = new Map<number, AssetRow[]>();
  for (const asset of assets) byEntry.set(asset.entryId, [...(byEntry.get(asset.entryId) ?? []), asset]);
  const problems: EditionProblem[] = [];
  const entries = rows.map((row) => {
    const channel = channels.find(({ id }) => id === row.channelId);
    const labels = byChannel.get(row.channelId) ?? noLabels;
    const tell = (text: string, mend: string, isSerious = false): void =>
      void problems.push({ entry: row.id, name: row.name, text, mend, isSerious });
    const kept = (byEntry.get(row.id) ?? []).flatMap((asset) => {
      const list = spans.get(keyOf(row.channelId, asset.digest)) ?? [];
      return assetOf(asset, list, labels, facts, withheld, tell) ?? [];
    });
    return entryOf(row, channel?.name ?? '', labels, kept, names, withheld, tell);
  });
  return { entries, problems };
}

const keyOf = (channelId: number, digest: Buffer): string => `${channelId} ${digest.toString('hex')}`;

async function spansOf(
  database: Queryable,
  channels: readonly Channel[],
  assets: readonly AssetRow[],
): Promise<Map<string, Span[]>> {
  const found = new Map<string, Span[]>();
  if (assets.length === 0) return found;
  for (const { id } of channels) {
    const rows = await select<SpanRow>(
      database,
      `SELECT path_digest AS digest, first_sequence AS firstSequence, last_sequence AS lastSequence, hash, size, format
         FROM asset_spans WHERE channel_id = ? AND path_digest IN (?) AND role = ? ORDER BY path_digest, first_sequence`,
      [id, assets.map(({ digest }) => digest), role.file],
    );
    for (const { digest, ...row } of rows) {
      const key = keyOf(id, digest);
      const span = { ...row, hash: row.hash?.toString('hex') ?? null };
      found.set(key, [...(found.get(key) ?? []), span]);
    }
  }
  return found;
}

type Tell = (text: string, mend: string, isSerious?: boolean) => void;
type KeptAsset = { asset: EditionAsset; source: AssetSource };

function assetOf(
  { path, body, steps }: AssetRow,
  spans: readonly Span[],
  labels: ReadonlyMap<number, string>,
  facts: ReadonlyMap<string, KnownFacts>,
  withheld: Withheld,
  tell: Tell,
): KeptAsset | null {
  const last = spans.at(-1);
  const first = spans[0];
  if (!last?.hash || !first) {
    if (!withheld.paths.has(path))
      tell(`No build holds ${path}.`, 'Take its path out of the entry, or give it the one that it has now.');
    return null;
  }
  const known = facts.get(factsKey(last.hash, last.format));
  if (isWithheld({ path, hash: last.hash, resources: known?.resources ?? [] }, withheld)) {
    tell(
      'One of its assets is withheld, or shows something that is: it is left out.',
      'Take it out of this entry, or publish the entry that withholds it.',
      true,
    );
    return null;
  }
  const sound = known?.facts?.kind === 'sound' ? known.facts : null;
  const [loop] = sound?.loops ?? [];
  const written = { body: body ?? '', steps: stepsOf(steps) };
  const isWritten = written.body !== '' || written.steps.length > 0;
  const leak = isWritten ? withheldIn(JSON.stringify(written), withheld) : null;
  if (leak !== null)
    tell(
      `The note on ${path} names something that is withheld: the note is left out.`,
      'Change the note.',
      true,
    );
  return {
    source: {
      ...{ hash: last.hash, previewHash: known?.previewHash ?? null },
      resources: known?.resources ?? [],
    },
    asset: {
      path,
      kind: known?.facts?.kind === 'clip' ? 'clip' : formatOf(last.format).kind,
      format: last.format,
      build: labels.get(last.lastSequence === openEnd ? Math.max(...labels.keys()) : last.lastSequence) ?? '',
      firstBuild: labels.get(first.firstSequence) ?? '',
      bytes: last.size ?? 0,
      facts: describe(known?.facts ?? null) ?? '',
      preview: known?.previewHash ? `previews/${known.previewHash.slice(0, 32)}.webp` : null,
      // Its name is found when it is made: whether it can be shown is not known before.
      shown: null,
      envelope: sound ? decodeEnvelope(sound.envelope).map((value) => Math.round(value * 100) / 100) : null,
      loopSeconds:
        sound && loop && sound.sampleRate > 0
          ? [loop.startFrame / sound.sampleRate, loop.endFrame / sound.sampleRate]
          : null,
      history: historyOf(spans, labels).map(({ build, what }) => ({ build, what })),
      note: isWritten && leak === null ? written : null,
    },
  };
}

function entryOf(
  row: PublishedRow,
  channel: string,
  labels: ReadonlyMap<number, string>,
  kept: readonly KeptAsset[],
  names: ReadonlyMap<number, Named>,
  withheld: Withheld,
  tell: Tell,
): KeptEntry {
  const { id, name, internalName, summary, credits, changedAt } = row;
  const details = detailsOf(row.details);
  if (kept.every(({ asset }) => asset.preview === null && asset.envelope === null))
    tell('It has no picture.', 'Add an asset that has one, or make one with the viewer.');
  const fences = summary.match(/^```/gm)?.length ?? 0;
  if (fences % 2 === 1) tell('Its summary opens a block of code and never closes it.', 'Close it with ```.');
  const leak = withheldIn(JSON.stringify([name, internalName, summary, credits, details]), withheld);
  if (leak !== null)
    tell('It names something that is withheld in its own words.', 'Change its words: nobody else can.', true);
  const gone = details.relations.filter(({ entry }) => !names.has(entry));
  if (gone.length > 0)
    tell(
      'It is related to an entry that is not published: that is left out.',
      'Publish the other one, or take the relation away.',
    );
  return {
    sources: kept.map(({ source }) => source),
    entry: {
      ...{
        id,
        address: names.get(id)?.address ?? addressOf(id, ''),
        channel,
        name,
        internalName,
        summary,
        credits,
      },
      ...{ names: details.names, aliases: details.aliases, thing: details.thing, tags: details.tags },
      sources: details.sources,
      spoiler: isStillSpoiler(row, labels),
      ...{ rights: details.rights, downloads: details.downloads },
      relations: details.relations.flatMap(({ as, entry }) => {
        const other = names.get(entry);
        return other === undefined ? [] : [{ as, ...other }];
      }),
      changedAt: changedAt.toISOString(),
      assets: kept.map(({ asset }) => asset),
    },
  };
}
