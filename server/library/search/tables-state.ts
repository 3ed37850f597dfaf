import * as z from 'zod';
import { readersVersion } from '../../../core/kinds/read.ts';

/** Of the form that the tables have in files. */
const tablesVersion = 3;

/** What the tables of a channel are made of. */
export const tablesStateSchema = z.object({
  tablesVersion: z.number(),
  readersVersion: z.number(),
  /** Jobs so far that change what lies in builds that are there. */
  changes: z.number(),
  builds: z.array(
    z.object({
      id: z.number(),
      sequence: z.number(),
      indexedAt: z.string(),
      factsVersion: z.number().nullable(),
      /** Counts up with facts that come when all have been read. */
      factsRevision: z.number().nullable(),
    }),
  ),
});
export type TablesState = z.infer<typeof tablesStateSchema>;

export function tablesState(rest: Pick<TablesState, 'changes' | 'builds'>): TablesState {
  return { tablesVersion, readersVersion, ...rest };
}

/** What has come since tables were made. */
export interface Since {
  /** Place of the newest build that they know. */
  newest: number;
  hasMoreBuilds: boolean;
  /** Places of builds of which more has been read. */
  read: number[];
}

/** @returns null where what the tables know of has changed, so that they have to be made anew */
export function since(known: TablesState, now: TablesState): Since | null {
  const rest = ({ tablesVersion, readersVersion, changes }: TablesState): string =>
    `${tablesVersion} ${readersVersion} ${changes}`;
  const last = known.builds.at(-1);
  if (!last || rest(known) !== rest(now)) return null;
  const read: number[] = [];
  for (const [at, build] of known.builds.entries()) {
    const same = now.builds[at];
    if (
      !same ||
      same.id !== build.id ||
      same.sequence !== build.sequence ||
      same.indexedAt !== build.indexedAt
    )
      return null;
    if (same.factsVersion !== build.factsVersion || same.factsRevision !== build.factsRevision)
      read.push(build.sequence);
  }
  return { newest: last.sequence, hasMoreBuilds: now.builds.length > known.builds.length, read };
}
