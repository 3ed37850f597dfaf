import { siteSettingsSchema, type SiteSettings } from '../../contract/catalogue.ts';
import { change, parseColumn, selectOne, type Queryable } from '../platform/database/rows.ts';
import { NotFoundError } from '../platform/plain-error.ts';

/** How a title's catalogue is published. @throws NotFoundError */
export async function readSite(database: Queryable, titleId: number): Promise<SiteSettings> {
  const row = await selectOne<{ site: unknown }>(database, 'SELECT site FROM titles WHERE id = ?', [titleId]);
  if (!row) throw new NotFoundError(`There is no title ${titleId}.`);
  return siteSettingsSchema.parse(parseColumn(row.site) ?? {});
}

/** @throws NotFoundError */
export async function saveSite(database: Queryable, titleId: number, site: SiteSettings): Promise<void> {
  const { changed } = await change(database, 'UPDATE titles SET site = ? WHERE id = ?', [
    JSON.stringify(site),
    titleId,
  ]);
  if (changed === 0) await readSite(database, titleId);
}
