import type { GLTF } from '@gltf-transform/core';

/** What a file says beside shapes, materials and poses: names, cameras, lights, and what its makers put in. */
export type ModelSaid = Record<string, unknown>;

interface Named {
  name?: string;
  extras?: unknown;
}

/**
 * Names and extras of all that a glTF file holds, its cameras and lights whole (glTF 2.0, sections 3.10 and 3.1.1;
 * KHR_lights_punctual). Indices are left out: they are no more than places in lists. Names of nodes, materials and clips are
 * compared with these.
 */
export function saidBy(json: GLTF.IGLTF): ModelSaid {
  const lists = json as unknown as Record<string, Named[] | undefined>;
  const said: ModelSaid = {};
  // By name, with how many are called so: one that is called otherwise is one that came where one went.
  for (const kind of ['nodes', 'meshes', 'images', 'textures', 'skins', 'scenes']) {
    const counts = new Map<string, number>();
    for (const { name } of lists[kind] ?? []) if (name) counts.set(name, (counts.get(name) ?? 0) + 1);
    said[kind] = Object.fromEntries([...counts].map(([name, count]) => [name, `${kind}: ${count}`]));
  }
  said.cameras = (json.cameras ?? []).map(whole);
  const lights = json.extensions?.KHR_lights_punctual as { lights?: unknown[] } | undefined;
  said.lights = (lights?.lights ?? []).map(whole);
  const extras: Record<string, unknown> = {};
  for (const kind of [
    'scenes',
    'nodes',
    'meshes',
    'materials',
    'images',
    'textures',
    'skins',
    'animations',
    'cameras',
  ])
    for (const [at, item] of (lists[kind] ?? []).entries()) {
      // Names of morph targets are compared with these.
      const own = without(item.extras, 'targetNames');
      if (own !== undefined) extras[`${kind} ${item.name ?? at + 1}`] = own;
    }
  if (json.extras !== undefined) extras.file = json.extras;
  said.extras = extras;
  return said;
}

/** Nothing where nothing is left. */
function without(extras: unknown, key: string): unknown {
  if (typeof extras !== 'object' || extras === null || !(key in extras)) return extras;
  const left = Object.fromEntries(Object.entries(extras).filter(([name]) => name !== key));
  return Object.keys(left).length > 0 ? left : undefined;
}

/** Without its extras, which stand by themselves. */
function whole(item: unknown): unknown {
  if (typeof item !== 'object' || item === null) return item;
  return Object.fromEntries(Object.entries(item).filter(([key]) => key !== 'extras'));
}
