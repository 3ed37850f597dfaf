import type { HaulRecord, HaulRequest } from '../../contract/hauls.ts';
import { findBuild, findChannel } from '../acquire/builds/builds.ts';
import { findAt } from '../library/assets/assets.ts';
import type { Queryable } from '../platform/database/rows.ts';
import { PlainError } from '../platform/plain-error.ts';

/** The channel that a record names. @throws NotFoundError */
export function findChannelNamed(database: Queryable, { title, channel }: HaulRecord): Promise<number> {
  return findChannel(database, title, channel);
}

/**
 * What gives the same files as a record tells of: its sources, and nothing beside them.
 * @throws PlainError that names the first source which is another one by now, or gone
 */
export async function requestOfRecord(
  database: Queryable,
  channelId: number,
  { name, sources, settings, arrangements }: HaulRecord,
): Promise<HaulRequest> {
  const builds = new Map<string, Awaited<ReturnType<typeof findBuild>>>();
  for (const { path, build: label, blake3 } of sources) {
    const build = builds.get(label) ?? (await findBuild(database, channelId, label));
    builds.set(label, build);
    const found = await findAt(database, build, path);
    if (!found) throw new PlainError(`The build ${label} has no ${path} here.`);
    if (found.hash !== blake3)
      throw new PlainError(
        `In the build ${label}, ${path} is another content here than the one that was taken out: its BLAKE3 is ${found.hash ?? 'not known'}, and ${blake3} was written down.`,
      );
  }
  const assets = sources.map(({ path, build }) => ({ path, build }));
  return { channel: channelId, haul: null, name, assets, settings, arrangements: arrangements ?? [] };
}
