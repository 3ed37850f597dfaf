/** What an independent look at triangles finds: an STL's, with one vertex to a place. */
export interface LookedAtSolid {
  triangles: number;
  /** Edges that are not met once each way for each time they are met the other way. */
  openEdges: number;
  /** Vertices less edges plus triangles: 2 for each closed surface without handles. */
  euler: number;
  /** Of what is enclosed, in cubic units: the sum of the volumes of tetrahedra to the origin. */
  volume: number;
  /** Lengths of its box. */
  size: [number, number, number];
}

/** Looks at the triangles of a binary STL without any of the product's code. */
export function lookAtStl(bytes: Uint8Array): LookedAtSolid {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const triangles = view.getUint32(80, true);
  const places = new Map<string, number>();
  const edges = new Map<string, number>();
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  let volume = 0;
  for (let triangle = 0; triangle < triangles; triangle++) {
    const corners = [0, 1, 2].map((k) =>
      [0, 1, 2].map((axis) => view.getFloat32(84 + triangle * 50 + 12 + k * 12 + axis * 4, true)),
    );
    const [a = [], b = [], c = []] = corners;
    const [ax = 0, ay = 0, az = 0, bx = 0, by = 0, bz = 0, cx = 0, cy = 0, cz = 0] = [...a, ...b, ...c];
    volume += (ax * (by * cz - bz * cy) - ay * (bx * cz - bz * cx) + az * (bx * cy - by * cx)) / 6;
    const names = corners.map((corner) => {
      corner.forEach((value, axis) => {
        low[axis] = Math.min(low[axis] ?? 0, value);
        high[axis] = Math.max(high[axis] ?? 0, value);
      });
      const key = corner.join();
      if (!places.has(key)) places.set(key, places.size);
      return places.get(key) ?? 0;
    });
    for (let k = 0; k < 3; k++) {
      const [from = 0, to = 0] = [names[k], names[(k + 1) % 3]];
      if (from === to) continue;
      const key = from < to ? `${from} ${to}` : `${to} ${from}`;
      edges.set(key, (edges.get(key) ?? 0) + (from < to ? 1 : -1));
    }
  }
  return {
    triangles,
    openEdges: [...edges.values()].filter((sum) => sum !== 0).length,
    euler: places.size - edges.size + triangles,
    volume,
    size: high.map((value, axis) => value - (low[axis] ?? 0)) as [number, number, number],
  };
}
