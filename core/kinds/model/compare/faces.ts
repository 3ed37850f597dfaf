import type { SharedTriangles } from './shared-triangles.ts';
import type { Surface } from './surface.ts';

/** Triangles that lie on one another are rarely more than two; where a part has shrunk to a point, all of them do. */
export const mostPartners = 16;

/** Whether as many triangles of the newer surface lie at a place as of the older one, by the first of these. */
export function clearPlaces({ partners, next }: SharedTriangles): (partner: number) => boolean {
  const counts = new Map<number, number>();
  for (const partner of partners) if (partner >= 0) counts.set(partner, (counts.get(partner) ?? 0) + 1);
  return (partner) => {
    let there = 0;
    for (let at = partner; at >= 0 && there <= mostPartners; at = next[at] ?? -1) there++;
    const now = counts.get(partner) ?? 0;
    return there === now || there > mostPartners;
  };
}

/** The side from which a face is seen, by the order of its corners. */
export const windingName = 'sides of faces';

/** Whether the corners go round the other way; null of a triangle whose corners are not three places. */
export function isTurnedOver(
  triangle: number,
  partner: number,
  old: Surface,
  now: Surface,
  { oldVertices, newVertices }: SharedTriangles,
): boolean | null {
  const keys = (surface: Surface, vertices: Float64Array, at: number): [number, number, number] => [
    vertices[surface.indices[at * 3] ?? 0] ?? 0,
    vertices[surface.indices[at * 3 + 1] ?? 0] ?? 0,
    vertices[surface.indices[at * 3 + 2] ?? 0] ?? 0,
  ];
  const [a, b, c] = keys(old, oldVertices, partner);
  const [p, q, r] = keys(now, newVertices, triangle);
  if (a === b || b === c || a === c) return null;
  const isSame =
    (p === a && q === b && r === c) || (p === b && q === c && r === a) || (p === c && q === a && r === b);
  return !isSame;
}
