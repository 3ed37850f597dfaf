import type { Document } from '@gltf-transform/core';
import type { ModelDetail } from '../../../../contract/comparisons.ts';
import { instancesOf, triangleCount, type TriangleBatch } from '../triangles.ts';

type Part = ModelDetail['parts'][number];

/** What stands for a part's name where it has none. */
export const unnamedPart = 'unnamed';

interface CountedPart {
  triangles: number;
  /** Places of its batches among all that `trianglesOf` gives. */
  batches: number[];
}

/** The drawn parts of the default scene by name, in the order in which `trianglesOf` goes through them. */
export function partsOf(document: Document): Map<string, CountedPart> {
  const parts = new Map<string, CountedPart>();
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  let batch = 0;
  scene?.traverse((node) => {
    const mesh = node.getMesh();
    for (const primitive of mesh?.listPrimitives() ?? []) {
      const triangles = triangleCount(primitive);
      if (triangles === 0 || !primitive.getAttribute('POSITION')) continue;
      const material = primitive.getMaterial()?.getName() ?? '';
      const name = node.getName() || mesh?.getName() || unnamedPart;
      const key = (mesh?.listPrimitives().length ?? 1) > 1 && material !== '' ? `${name}, ${material}` : name;
      const part = parts.get(key) ?? { triangles: 0, batches: [] };
      const count = instancesOf(node)?.length ?? 1;
      part.triangles += triangles * count;
      for (let at = 0; at < count; at++) part.batches.push(batch++);
      parts.set(key, part);
    }
  });
  return parts;
}

/**
 * Parts matched by name; those that are left by the number of their triangles and where they stand.
 * @param newDistances greatest distance of each batch of the newer model to the older one, and the other way round
 */
export function compareParts(
  old: { document: Document; batches: readonly TriangleBatch[] },
  now: { document: Document; batches: readonly TriangleBatch[] },
  newDistances: readonly number[],
  oldDistances: readonly number[],
  sameMetres: number,
): Part[] {
  const before = partsOf(old.document);
  const after = partsOf(now.document);
  const renamed = matchRenamed(before, after, old.batches, now.batches);
  const greatest = (batches: readonly number[], distances: readonly number[]): number =>
    batches.reduce((most, batch) => Math.max(most, distances[batch] ?? 0), 0);
  const result: Part[] = [];
  for (const [name, part] of after) {
    const oldName = before.has(name) ? name : renamed.get(name);
    const then = oldName === undefined ? undefined : before.get(oldName);
    if (!then) {
      result.push({
        name,
        status: 'added',
        oldTriangles: null,
        newTriangles: part.triangles,
        greatestMetres: null,
      });
      continue;
    }
    const metres = Math.max(greatest(part.batches, newDistances), greatest(then.batches, oldDistances));
    result.push({
      name: oldName === name ? name : `${oldName ?? ''} → ${name}`,
      status: metres > sameMetres || then.triangles !== part.triangles ? 'changed' : 'same',
      oldTriangles: then.triangles,
      newTriangles: part.triangles,
      greatestMetres: metres,
    });
  }
  const taken = new Set(renamed.values());
  for (const [name, part] of before)
    if (!after.has(name) && !taken.has(name))
      result.push({
        name,
        status: 'gone',
        oldTriangles: part.triangles,
        newTriangles: null,
        greatestMetres: null,
      });
  const order = { added: 0, gone: 1, changed: 2, same: 3 } as const;
  return result.sort(
    (a, b) => order[a.status] - order[b.status] || (b.greatestMetres ?? 0) - (a.greatestMetres ?? 0),
  );
}

/** @returns old names by new ones */
function matchRenamed(
  before: ReadonlyMap<string, CountedPart>,
  after: ReadonlyMap<string, CountedPart>,
  oldBatches: readonly TriangleBatch[],
  newBatches: readonly TriangleBatch[],
): Map<string, string> {
  const mark = ({ triangles, batches }: CountedPart, all: readonly TriangleBatch[]): string =>
    `${triangles} ${batches.map((batch) => firstCorner(all[batch])).join(' ')}`;
  const free = new Map<string, string>();
  for (const [name, part] of before) if (!after.has(name)) free.set(mark(part, oldBatches), name);
  const renamed = new Map<string, string>();
  for (const [name, part] of after) {
    if (before.has(name)) continue;
    const key = mark(part, newBatches);
    const there = free.get(key);
    if (there === undefined) continue;
    renamed.set(name, there);
    free.delete(key);
  }
  return renamed;
}

/** Lowest corner of a batch, to the centimetre. */
function firstCorner(batch: TriangleBatch | undefined): string {
  const lowest = [Infinity, Infinity, Infinity];
  for (let at = 0; at < (batch?.positions.length ?? 0); at++)
    lowest[at % 3] = Math.min(lowest[at % 3] ?? 0, batch?.positions[at] ?? 0);
  return lowest.map((value) => value.toFixed(2)).join(',');
}
