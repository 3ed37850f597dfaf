import * as z from 'zod';
import type { FittingClip, FittingClips } from '../../../contract/clips.ts';
import { boneKey, matchBones } from '../../../core/kinds/model/pose/bone-names.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { role } from '../../acquire/builds/spans.ts';
import { select, type Queryable } from '../../platform/database/rows.ts';
import { findAt } from '../assets/assets.ts';
import { factsKey, findFacts } from '../assets/facts.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

/** Clips that share fewer of their bones with a model are of something else. */
const leastShare = 0.25;
/** So many clips are listed. */
const mostClips = 2000;
/** So many lists of bones are asked for at once. */
const listsAtOnce = 500;

const namesSchema = z.array(z.string());

/**
 * Lists of bones that were read in this server’s lifetime, and before: few, however many clips there are, and they never
 * change. Looking through them takes the place of opening clips.
 */
export class BoneLists {
  private readonly lists = new Map<string, { digest: Buffer; names: string[] }>();
  private last = 0;

  async all(database: Queryable): Promise<ReadonlyMap<string, { digest: Buffer; names: string[] }>> {
    const rows = await select<{ id: number; digest: Buffer; names: string }>(
      database,
      'SELECT id, digest, names FROM bone_lists WHERE id > ? ORDER BY id',
      [this.last],
    );
    for (const { id, digest, names } of rows) {
      this.lists.set(digest.toString('hex'), { digest, names: namesSchema.parse(JSON.parse(names)) });
      this.last = id;
    }
    return this.lists;
  }
}

/**
 * Clips of a build that move bones which a model has.
 * @param family paths of the model’s family: their clips come first, and may share fewer bones
 * @throws NotFoundError
 */
export async function findFittingClips(
  database: Queryable,
  lists: BoneLists,
  build: PlacedBuild,
  path: string,
  family: ReadonlySet<string>,
): Promise<FittingClips> {
  const asset = await findAt(database, build, path);
  if (!asset) throw new NotFoundError(`The build ${build.label} has no asset at ${path}.`);
  const none = { bones: 0, clips: [], isCut: false };
  if (asset.hash === null) return none;
  const known = await lists.all(database);
  const own = await select<{ digest: Buffer }>(
    database,
    'SELECT digest FROM content_bones WHERE hash = ? AND format = ? AND is_moved = 0',
    [Buffer.from(asset.hash, 'hex'), asset.format],
  );
  const bones = own.flatMap(({ digest }) => known.get(digest.toString('hex'))?.names ?? []);
  if (bones.length === 0) return none;
  const has = new Set(bones.map(boneKey));
  const fitting = new Map<string, { digest: Buffer; moved: number; matched: number }>();
  for (const [key, { digest, names }] of known) {
    const { matched } = matchBones(names, has);
    if (matched > 0) fitting.set(key, { digest, moved: names.length, matched });
  }
  // The best first, so that what is cut off is what fits worst.
  const inOrder = [...fitting.values()].sort(
    (a, b) => b.matched / b.moved - a.matched / a.moved || b.matched - a.matched,
  );
  const rows: ClipRow[] = [];
  for (let from = 0; from < inOrder.length && rows.length <= mostClips; from += listsAtOnce)
    rows.push(
      ...(await filesThatMove(
        database,
        build,
        inOrder.slice(from, from + listsAtOnce).map(({ digest }) => digest),
      )),
    );
  const facts = await findFacts(
    database,
    rows.map(({ hash, format }) => ({ hash: hash.toString('hex'), format })),
  );
  const clips = rows.flatMap(({ path: at, hash, format, digest, clips: names }): FittingClip[] => {
    const match = fitting.get(digest.toString('hex'));
    const isOfFamily = family.has(at);
    if (at === path || !match || (!isOfFamily && match.matched / match.moved < leastShare)) return [];
    const said = facts.get(factsKey(hash.toString('hex'), format))?.facts;
    const lengths =
      said && (said.kind === 'clip' || said.kind === 'model')
        ? new Map(said.clips.map(({ name, seconds }) => [name, seconds]))
        : null;
    const { moved, matched } = match;
    return namesSchema
      .parse(JSON.parse(names))
      .map((clip) => ({ path: at, clip, seconds: lengths?.get(clip) ?? null, moved, matched, isOfFamily }));
  });
  clips.sort(
    (a, b) =>
      Number(b.isOfFamily) - Number(a.isOfFamily) ||
      b.matched / b.moved - a.matched / a.moved ||
      b.matched - a.matched ||
      inOrderOf(a.path, b.path) ||
      inOrderOf(a.clip, b.clip),
  );
  return { bones: has.size, clips: clips.slice(0, mostClips), isCut: clips.length > mostClips };
}

function inOrderOf(first: string, second: string): number {
  return first < second ? -1 : first > second ? 1 : 0;
}

interface ClipRow {
  path: string;
  hash: Buffer;
  format: string;
  digest: Buffer;
  clips: string;
}

async function filesThatMove(
  database: Queryable,
  build: PlacedBuild,
  digests: readonly Buffer[],
): Promise<ClipRow[]> {
  return select<ClipRow>(
    database,
    `SELECT p.path, s.hash, s.format, b.digest, b.clips
       FROM content_bones b FORCE INDEX (bones_by_list)
       JOIN asset_spans s FORCE INDEX (spans_by_hash) ON s.hash = b.hash AND s.channel_id = ? AND s.format = b.format
       JOIN paths p ON p.digest = s.path_digest
      WHERE b.is_moved = 1 AND b.digest IN (?) AND s.first_sequence <= ? AND s.last_sequence >= ? AND s.role = ?
      LIMIT ?`,
    [build.channelId, digests, build.sequence, build.sequence, role.file, mostClips + 1],
  );
}
