import type { MapScene, ModelCost } from '../../../contract/assets.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import type { SceneWithTargets } from '../questions.ts';
import { factsKey, findFacts } from './facts.ts';

/** A map with what each of its models costs, from facts: known before anything is loaded. */
export async function withCosts(
  database: Queryable,
  { targets, ...scene }: SceneWithTargets,
): Promise<MapScene> {
  const known = await findFacts(database, targets);
  const costs: Record<string, ModelCost> = {};
  for (const { path, hash, format, size } of targets) {
    const facts = known.get(factsKey(hash, format))?.facts;
    if (facts?.kind !== 'model') continue;
    const { triangles, vertices, materials, textures, boundsMetres: bounds } = facts;
    costs[path] = { bytes: size, triangles, vertices, materials, textures, bounds };
  }
  return { ...scene, costs };
}
