/** What is known of a part of a model. */
export interface PartOfModel {
  name: string;
  /** Names of the nodes that it hangs on, from the outermost. */
  above: readonly string[];
  material: string;
  hasUvs: boolean;
  hasTexture: boolean;
  triangles: number;
  /** Whether its shape is closed, which takes time to find out. */
  isClosed: () => boolean;
}

export type HelperKind = 'collision' | 'shadow' | 'occlusion' | 'reflection' | 'locator';

export interface Helper {
  kind: HelperKind;
  /** Why it is taken for one, in a sentence. */
  reason: string;
}

/** Name parts that games use for what is not to be seen (common practice, no published source). */
const words: Readonly<Record<HelperKind, readonly string[]>> = {
  collision: [
    ...['collision', 'collisions', 'collider', 'colliders', 'coll', 'col', 'ucx', 'ubx', 'usp', 'ucp'],
    ...['hitbox', 'physics', 'phys', 'navmesh', 'walkmesh'],
  ],
  shadow: ['shadow', 'shadows', 'shadowcaster', 'shadowmesh', 'shad'],
  occlusion: ['occlusion', 'occluder', 'occluders', 'occ', 'portal', 'antiportal'],
  reflection: ['reflection', 'reflections', 'refl'],
  locator: ['locator', 'locators', 'loc', 'attach', 'socket', 'dummy', 'helper', 'helpers'],
};
const kinds = new Map(
  (Object.entries(words) as [HelperKind, readonly string[]][]).flatMap(([kind, list]) =>
    list.map((word) => [word, kind] as const),
  ),
);
/** Words that mean a helper behind or before another word, and are words of things by themselves. */
const besideOthers: ReadonlySet<string> = new Set(['col', 'loc']);

/** So many triangles of plain parts are looked through in all: helpers are simple, and nobody waits for them. */
const mostLookedThrough = 40_000;

/** Parts of a name: `UCX_boatHull.001` has ucx, boat, hull. */
export function nameParts(name: string): string[] {
  return name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z]+/)
    .filter((part) => part !== '');
}

/**
 * Which parts of a model are shapes that players do not see: collision, shadow, occlusion, copies for reflections, locators.
 * Told by name parts, of the part, of what it hangs on, or of its material; or by being a plain closed shape without UVs and
 * texture where the others have them.
 * @returns null for each that is none, in the order of the parts
 */
export function helperShapes(parts: readonly PartOfModel[]): (Helper | null)[] {
  const found = parts.map(byName);
  // Where all is hidden nothing is left to look at: then the names mean something else.
  const isAll = found.every((helper) => helper !== null);
  if (isAll && parts.length > 0) return parts.map(() => null);
  const seen = parts.filter((_, at) => found[at] === null);
  const dressed = seen.filter(({ hasUvs, hasTexture }) => hasUvs && hasTexture);
  // Most of the rest has to be otherwise, or this is how the game makes its models.
  const isTold = dressed.length > 0 && dressed.length >= (seen.length - 1) * 0.75;
  let left = isTold ? mostLookedThrough : 0;
  return parts.map((part, at) => {
    const known = found[at] ?? null;
    if (known || part.hasUvs || part.hasTexture || part.triangles > left) return known;
    left -= part.triangles;
    return part.isClosed() ? plainAndClosed : null;
  });
}

function byName({ name, above, material }: PartOfModel): Helper | null {
  const places = [
    ...[{ text: name, what: 'its name' }],
    ...above.map((text) => ({ text, what: `the name of “${text}”, which it hangs on,` })),
    ...[{ text: material, what: `its material “${material}”` }],
  ];
  for (const { text, what } of places) {
    const parts = nameParts(text);
    const word = parts.find(
      (part) => kinds.has(part) && (!besideOthers.has(part) || (parts.length > 1 && isAtAnEnd(parts, part))),
    );
    const kind = word === undefined ? undefined : kinds.get(word);
    if (kind) return { kind, reason: `${what} has “${word}”` };
  }
  return null;
}

function isAtAnEnd(parts: readonly string[], part: string): boolean {
  return parts[0] === part || parts[parts.length - 1] === part;
}

const plainAndClosed: Helper = {
  kind: 'collision',
  reason: 'it is closed, without UVs and texture, and the others have both',
};
