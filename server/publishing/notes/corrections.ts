import type { StepOf } from '../../../contract/notes.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import { saidOfFamily } from '../../library/families/corrections.ts';
import { listLinksFrom } from '../../library/references/accepted-links.ts';
import { listSaidTextures } from '../../library/textures/corrections.ts';
import type { Queryable } from '../../platform/database/rows.ts';

type Correction = Omit<StepOf<'correct'>, 'words' | 'does'>;

/** What people corrected of an asset: its family, the links in it, the pictures of its materials. */
export async function correctionsOf(
  database: Queryable,
  channelId: number,
  path: string,
): Promise<Correction[]> {
  const titleId = await findTitleOf(database, channelId);
  const family = await saidOfFamily(database, channelId, path);
  const links = await listLinksFrom(database, channelId, path);
  const textures = await listSaidTextures(database, titleId, path);
  return [
    ...(family ? [{ subject: 'family' as const, path, where: '', is: family.with }] : []),
    ...links.map(({ text, target }) => ({ subject: 'link' as const, path, where: text, is: target })),
    ...textures.map(({ material, role, texture }) => ({
      ...{ subject: 'texture' as const, path, where: `${material}\t${role}`, is: texture },
    })),
  ];
}
