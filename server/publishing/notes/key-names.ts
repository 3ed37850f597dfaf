import type { KeptKey } from '../../../contract/keyring.ts';
import type { Build } from '../../../contract/builds.ts';
import { nameOfTitle } from '../../acquire/builds/builds.ts';
import { listKeyring } from '../../acquire/keyring/keys.ts';
import type { Queryable } from '../../platform/database/rows.ts';

/** What a key is called in notes: what was remarked of it, and its number where nothing was. Never its value. */
export function keyName({ id, remark }: Pick<KeptKey, 'id' | 'remark'>): string {
  return remark === '' ? `key ${id}` : remark;
}

/** Names of the keys of a title that a build is read with. */
export async function keyNamesOf(
  database: Queryable,
  titleId: number,
  { label, settings }: Pick<Build, 'label' | 'settings'>,
): Promise<string[]> {
  const title = await nameOfTitle(database, titleId);
  const { keys } = await listKeyring(database);
  return keys
    .filter((key) => key.title === title)
    .filter(({ builds }) => builds.length === 0 || builds.includes(label))
    .filter(({ id }) => settings.keys === null || settings.keys.includes(id))
    .map(keyName)
    .sort();
}
