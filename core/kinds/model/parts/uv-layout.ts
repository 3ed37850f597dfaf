/** How a shape is laid out on its pictures. */
export interface UvLayout {
  /** Edges of triangles, each once: u and v of one end, then of the other. v runs down, as pictures do (glTF 2.0, 3.8.2.2). */
  edges: Float32Array;
  triangles: number;
  /** Triangles that reach beyond the picture. */
  outside: number;
  /** Share of the picture that triangles cover, each counted: more than 1 where they lie over one another. */
  coverage: number;
  /** Smallest and largest u and v, with the picture itself in it. */
  min: [number, number];
  max: [number, number];
}

export interface UvShape {
  /** u and v of each corner. */
  uvs: ArrayLike<number>;
  /** Null where corners follow one another. */
  indices: ArrayLike<number> | null;
}

/** Edges beyond this many are left out: they would be one colour. */
const mostEdges = 3_000_000;
/** What reaches a hair beyond an edge is rounded. */
const hair = 1e-4;

/** Lays shapes out that share a material. */
export function uvLayoutOf(shapes: readonly UvShape[]): UvLayout {
  const count = shapes.reduce((sum, { uvs, indices }) => sum + (indices?.length ?? uvs.length / 2), 0);
  const edges = new Float32Array(Math.min(count, mostEdges) * 4);
  let filled = 0;
  const layout: UvLayout = {
    ...{ edges, triangles: 0, outside: 0, coverage: 0, min: [0, 0], max: [1, 1] },
  };
  for (const { uvs, indices } of shapes) {
    const length = indices?.length ?? uvs.length / 2;
    /** Edges that were drawn, as one number of both ends: the same one of two triangles is one line. */
    const drawn = new Set<number>();
    const corners = uvs.length / 2;
    for (let at = 0; at + 2 < length; at += 3) {
      const places = [0, 1, 2].map((corner) => (indices ? (indices[at + corner] ?? 0) : at + corner));
      const us = places.map((place) => uvs[place * 2] ?? 0);
      const vs = places.map((place) => uvs[place * 2 + 1] ?? 0);
      if (![...us, ...vs].every((value) => Number.isFinite(value))) continue;
      layout.triangles++;
      const [u0 = 0, u1 = 0, u2 = 0] = us;
      const [v0 = 0, v1 = 0, v2 = 0] = vs;
      layout.coverage += Math.abs((u1 - u0) * (v2 - v0) - (u2 - u0) * (v1 - v0)) / 2;
      const lowest = Math.min(...us, ...vs);
      const highest = Math.max(...us, ...vs);
      if (lowest < -hair || highest > 1 + hair) layout.outside++;
      layout.min = [Math.min(layout.min[0], ...us), Math.min(layout.min[1], ...vs)];
      layout.max = [Math.max(layout.max[0], ...us), Math.max(layout.max[1], ...vs)];
      for (let corner = 0; corner < 3; corner++) {
        const next = (corner + 1) % 3;
        const [a, b] = [places[corner] ?? 0, places[next] ?? 0];
        const key = Math.min(a, b) * corners + Math.max(a, b);
        if (drawn.has(key) || filled >= edges.length) continue;
        drawn.add(key);
        edges[filled++] = us[corner] ?? 0;
        edges[filled++] = vs[corner] ?? 0;
        edges[filled++] = us[next] ?? 0;
        edges[filled++] = vs[next] ?? 0;
      }
    }
  }
  return { ...layout, edges: edges.subarray(0, filled) };
}
