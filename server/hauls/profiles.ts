import { haulSettingsSchema, type HaulSettings } from '../../contract/haul-settings.ts';
import type { Profile } from '../../contract/hauls.ts';
import { shippedProfiles } from '../../core/hauls/shipped-profiles.ts';
import { change, parseColumn, select, type Queryable } from '../platform/database/rows.ts';
import { ConflictError } from '../platform/plain-error.ts';

/** Settings by name: those that come with the product, then the team's own. */
export async function listProfiles(database: Queryable): Promise<Profile[]> {
  const rows = await select<{ name: string; settings: unknown }>(
    database,
    'SELECT name, settings FROM profiles ORDER BY name',
  );
  const own = rows.map(({ name, settings }) => ({
    name,
    settings: haulSettingsSchema.parse(parseColumn(settings)),
    isShipped: false,
  }));
  return [...shippedProfiles, ...own];
}

/** @throws ConflictError for the name of one that came with the product */
export async function keepProfile(database: Queryable, name: string, settings: HaulSettings): Promise<void> {
  refuseShipped(name);
  await change(
    database,
    'INSERT INTO profiles (name, settings) VALUES (?, ?) ON DUPLICATE KEY UPDATE settings = VALUES(settings)',
    [name, JSON.stringify(settings)],
  );
}

export async function dropProfile(database: Queryable, name: string): Promise<void> {
  refuseShipped(name);
  await change(database, 'DELETE FROM profiles WHERE name = ?', [name]);
}

function refuseShipped(name: string): void {
  if (shippedProfiles.some((profile) => profile.name === name))
    throw new ConflictError(`“${name}” came with the product: keep yours under another name.`);
}
