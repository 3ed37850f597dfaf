import type { Document } from '@gltf-transform/core';
import { named } from '../../comparing.ts';
import { triangleCount } from '../triangles.ts';
import { unnamedPart } from './parts.ts';

/** Triangles by the name of their material, part by part. */
type Worn = Map<string, Map<string, number>>;

function wornIn(document: Document): Worn {
  const worn: Worn = new Map();
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  scene?.traverse((node) => {
    const mesh = node.getMesh();
    for (const primitive of mesh?.listPrimitives() ?? []) {
      const triangles = triangleCount(primitive);
      if (triangles === 0) continue;
      const part = node.getName() || mesh?.getName() || unnamedPart;
      const material = primitive.getMaterial()?.getName() ?? '';
      const materials = worn.get(part) ?? new Map<string, number>();
      materials.set(material, (materials.get(material) ?? 0) + triangles);
      worn.set(part, materials);
    }
  });
  return worn;
}

const mostListed = 2;

/**
 * Parts that wear another material than they did, in words.
 * @param renamed older names of materials by newer ones
 */
export function describeWorn(
  old: Document,
  now: Document,
  oldPartOf: (part: string) => string,
  renamed: ReadonlyMap<string, string>,
): string[] {
  const [before, after] = [wornIn(old), wornIn(now)];
  const pairs = new Map<string, string[]>();
  const mixed: string[] = [];
  for (const [part, materials] of after) {
    const then = before.get(oldPartOf(part));
    if (!then) continue;
    const [gone, added] = [new Map(then), new Map<string, number>()];
    for (const [material, triangles] of materials) {
      const name = renamed.get(material) ?? material;
      const left = (gone.get(name) ?? 0) - triangles;
      if (left > 0) gone.set(name, left);
      else gone.delete(name);
      if (left < 0) added.set(material, -left);
    }
    const [from, ...others] = gone.keys();
    const [to, ...more] = added.keys();
    // Only what changed hands: more or fewer triangles are told with the shape.
    if (from === undefined || to === undefined) continue;
    if (others.length + more.length > 0) {
      mixed.push(part);
      continue;
    }
    const key = JSON.stringify([from, to]);
    pairs.set(key, [...(pairs.get(key) ?? []), part]);
  }
  const text = (name: string): string => (name === '' ? 'no material' : named(name));
  const words: string[] = [];
  const told = new Set<string>();
  for (const [key, parts] of pairs) {
    if (told.has(key)) continue;
    const [from = '', to = ''] = JSON.parse(key) as [string, string];
    const back = pairs.get(JSON.stringify([to, from]));
    if (back) {
      told.add(JSON.stringify([to, from]));
      words.push(`materials ${text(from)} and ${text(to)} swapped on ${partsText([...parts, ...back])}`);
    } else words.push(`${text(to)} instead of ${text(from)} on ${partsText(parts)}`);
  }
  if (mixed.length > 0) words.push(`other materials on ${partsText(mixed)}`);
  return words;
}

function partsText(parts: readonly string[]): string {
  return parts.length <= mostListed
    ? `${parts.length === 1 ? 'part' : 'parts'} ${parts.map(named).join(' and ')}`
    : `${parts.length.toLocaleString('en')} parts`;
}
