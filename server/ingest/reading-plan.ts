import { join } from 'node:path';
import type { ReadingSettings } from '../../contract/reading.ts';
import { keepSettings } from '../acquire/builds/settings.ts';
import type { ArchiveKey } from '../acquire/keyring/archive-key.ts';
import type { DataFolder } from '../platform/data-folder.ts';
import type { Pool } from '../platform/database/pool.ts';
import { openKeys } from '../acquire/keyring/keys.ts';
import { loadMasterKey } from '../acquire/keyring/master-key.ts';
import { findContentRoot } from './content-root.ts';
import { readHoleMark } from '../acquire/ways-in/hole-mark.ts';
import type { IntakeJob, LockedPath } from './messages.ts';
import { checkSource, type SourceKind } from './source-path.ts';

export interface BuildToRead {
  buildId: number;
  channelId: number;
  titleId: number;
  build: string;
  source: string;
  settings: ReadingSettings;
}

/** How a build's source is to be read. */
export interface ReadingPlan {
  kind: SourceKind;
  /** The source, down to its content root where that is a folder. */
  place: string;
  /** The same within an archive. */
  rootInArchive: string;
  settings: ReadingSettings;
  keys: ArchiveKey[];
  holeMark: Buffer | null;
}

/**
 * Finds the content root, which is kept for the next build, and opens the keys.
 * @throws PlainError when the source is not there
 */
export async function planReading(pool: Pool, folder: DataFolder, build: BuildToRead): Promise<ReadingPlan> {
  const kind = checkSource(build.source);
  const isRootFound = build.settings.contentRoot === null || build.settings.isRootFound;
  const contentRoot = await findContentRoot(build.source, kind, build.settings.contentRoot, isRootFound);
  const settings = { ...build.settings, contentRoot, isRootFound };
  await keepSettings(pool, build.channelId, build.buildId, build.source, settings);
  const keys = await openKeys(
    pool,
    () => loadMasterKey(folder.root),
    build.titleId,
    build.build,
    settings.keys,
  );
  return {
    kind,
    settings,
    keys,
    place: kind === 'folder' ? join(build.source, contentRoot) : build.source,
    rootInArchive: kind === 'folder' ? '' : contentRoot,
    holeMark: readHoleMark(build.source),
  };
}

/** What the threads are told of it. */
export function intakeJob(
  jobId: number,
  plan: ReadingPlan,
  unlocking: readonly LockedPath[] | null,
  containerSheets: readonly string[],
): IntakeJob {
  return {
    jobId,
    unlocking,
    containerSheets,
    source: plan.place,
    choice: plan.settings.choice,
    keys: plan.keys,
    formatVersions: plan.settings.formatVersions,
    contentRoot: plan.rootInArchive,
    holeMark: plan.holeMark,
  };
}
