import { findTitleOf, type PlacedBuild } from '../../acquire/builds/builds.ts';
import type { ArchiveKey } from '../../acquire/keyring/archive-key.ts';
import { openKeys } from '../../acquire/keyring/keys.ts';
import { loadMasterKey } from '../../acquire/keyring/master-key.ts';
import type { DescribeFile } from '../../decode/operations.ts';
import { openedSheet } from '../../decode/opened-sheets.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import { isDescribed } from './described-format.ts';
import { readRecipes, recipeFinder } from '../recipes/recipes.ts';
import { readSheets, sheetFinder, sheetsWithKeys } from './sheets.ts';

/** Where descriptions come from, and the keys that some of them need. */
export interface DescribedIn {
  pool: Queryable;
  folder: Pick<DataFolder, 'root'>;
}

type BuildOfFiles = Pick<PlacedBuild, 'channelId' | 'label' | 'settings'>;

/** What a title's team says of how files of a build are built: by recipes and by format sheets, in the versions that its settings name. */
export async function readDescriptions(where: DescribedIn, build: BuildOfFiles): Promise<DescribeFile> {
  const titleId = await findTitleOf(where.pool, build.channelId);
  const recipeFor = recipeFinder((await readRecipes(where.pool, titleId)).recipes);
  const { sheets } = await readSheets(where.pool, titleId);
  const sheetFor = sheetFinder(sheets);
  const { formatVersions } = build.settings;
  const withKeys = new Set(sheetsWithKeys(sheets));
  const keys = withKeys.size > 0 ? (await keysOf(where, build)).map(({ bytes }) => bytes) : [];
  return (path, format) => {
    if (format === 'recipe') return { recipe: recipeFor(path) };
    const found = sheetFor(path);
    if (found?.format !== format) return {};
    const { text, name } = found.sheet;
    return {
      sheet: { text, version: formatVersions[name] ?? null, ...(withKeys.has(name) && { keys }) },
    };
  };
}

/** What a sheet that is being written is read with in a build. */
export interface SheetSurroundings {
  version: string | null;
  keys: readonly Uint8Array[];
}

/** Of a sheet that need not be kept yet. @throws PlainError where it cannot be used */
export async function surroundingsOf(
  where: DescribedIn,
  build: BuildOfFiles,
  text: string,
): Promise<SheetSurroundings> {
  const { sheet, usesKeyring } = openedSheet(text);
  const keys = usesKeyring ? (await keysOf(where, build)).map(({ bytes }) => bytes) : [];
  return { version: build.settings.formatVersions[sheet.sheet] ?? null, keys };
}

/** Keys for sheets of a build, its own first. */
export async function keysOf(
  { pool, folder }: DescribedIn,
  { channelId, label, settings }: BuildOfFiles,
): Promise<ArchiveKey[]> {
  const titleId = await findTitleOf(pool, channelId);
  return openKeys(pool, () => loadMasterKey(folder.root), titleId, label, settings.keys);
}

/** The same for files of these formats: most are known by their bytes, and nothing has to be looked up. */
export async function descriptionsFor(
  where: DescribedIn,
  build: BuildOfFiles,
  formats: readonly string[],
): Promise<DescribeFile> {
  if (!formats.some(isDescribed)) return () => ({});
  return readDescriptions(where, build);
}
