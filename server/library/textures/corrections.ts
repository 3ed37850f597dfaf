import * as z from 'zod';
import { saidTextureSchema, type SaidTexture, type SayTextures } from '../../../contract/texture-sets.ts';
import { plural } from '../../../core/figures.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { Author } from '../../people/history/change-log.ts';
import { changeItems, type KeptItems } from '../../people/history/kept-items.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';

const slotSchema = saidTextureSchema.omit({ texture: true }).extend({ path: z.string() });
type Slot = z.infer<typeof slotSchema>;

/** What a role of a material of a model is called in the history: no path and no role has a tab. */
function slotKey({ path, material, role }: Slot): string {
  return `${path}\t${role}\t${material}`;
}

function slotOfKey(key: string): Slot {
  const [path = '', role = '', ...material] = key.split('\t');
  return slotSchema.parse({ path, role, material: material.join('\t') });
}

/** What a slot is looked up by. */
function slotDigest({ material, role }: Omit<Slot, 'path'>): Buffer {
  return pathDigest(`${material}\t${role}`);
}

const stateSchema = saidTextureSchema.pick({ texture: true });

/** What people say of textures, one item for each role of a material of a model. */
export const keptTextures: KeptItems = {
  subject: 'textures',
  async read(connection, { titleId }, items) {
    const states = new Map<string, string>();
    for (const item of items) {
      const slot = slotOfKey(item);
      const [row] = await select<{ texture: string | null }>(
        connection,
        `SELECT texture FROM texture_corrections
          WHERE title_id = ? AND path_digest = ? AND slot_digest = ? FOR UPDATE`,
        [titleId, pathDigest(slot.path), slotDigest(slot)],
      );
      if (row) states.set(item, JSON.stringify({ texture: row.texture }));
    }
    return states;
  },
  async write(connection, { titleId }, states) {
    for (const [item, state] of states) {
      const slot = slotOfKey(item);
      const key = [titleId, pathDigest(slot.path), slotDigest(slot)];
      if (state === null)
        await change(
          connection,
          'DELETE FROM texture_corrections WHERE title_id = ? AND path_digest = ? AND slot_digest = ?',
          key,
        );
      else
        await change(
          connection,
          `INSERT INTO texture_corrections (title_id, path_digest, slot_digest, material, role, texture)
             VALUES (?, ?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE texture = VALUES(texture)`,
          [...key, slot.material, slot.role, stateSchema.parse(JSON.parse(state)).texture],
        );
    }
  },
};

/** What was said of the textures of a model. */
export async function listSaidTextures(
  database: Queryable,
  titleId: number,
  path: string,
): Promise<SaidTexture[]> {
  const rows = await select<SaidTexture>(
    database,
    `SELECT material, role, texture FROM texture_corrections
      WHERE title_id = ? AND path_digest = ? ORDER BY material, role`,
    [titleId, pathDigest(path)],
  );
  return rows.map((row) => saidTextureSchema.parse(row));
}

/** Says which files the roles of a model’s materials are, and takes back what holds no longer. @throws ConflictError, NotFoundError */
export async function sayTextures(
  pool: Pool,
  { channel, path, said, drop }: SayTextures,
  author: Author,
): Promise<void> {
  const states = new Map<string, string | null>([
    ...drop.map((slot) => [slotKey({ path, ...slot }), null] as const),
    ...said.map(({ texture, ...slot }) => [slotKey({ path, ...slot }), JSON.stringify({ texture })] as const),
  ]);
  const what =
    said.length === 0
      ? `took back what was said of ${plural(drop.length, 'texture')} of ${path}`
      : `said which files are ${plural(said.length, 'texture')} of ${path}`;
  const titleId = await findTitleOf(pool, channel);
  await changeItems(pool, keptTextures, { titleId, channelId: null }, states, what, author);
}
