/** Triangles that hang together over their edges. */
export interface Shell {
  /** xyz triples; each place once. */
  positions: Float32Array;
  /** Three to a triangle, anticlockwise seen from outside. */
  indices: Uint32Array;
}

/** Places nearer than this share of the whole size are one. */
const samePlace = 1e-6;

/**
 * Takes triangles apart into shells that share no edge, with one vertex to a place and without triangles that have no area.
 * @param parts positions in one space, with what is made of them
 */
export function shellsOf(parts: readonly Shell[]): Shell[] {
  const { places, corners } = joined(parts);
  const parents = Uint32Array.from({ length: corners.length / 3 }, (_, triangle) => triangle);
  const rootOf = (triangle: number): number => {
    let root = triangle;
    while (parents[root] !== root) {
      parents[root] = parents[parents[root] ?? 0] ?? 0;
      root = parents[root] ?? 0;
    }
    return root;
  };
  const edges = new Map<number, number>();
  for (let corner = 0; corner < corners.length; corner++) {
    const triangle = Math.floor(corner / 3);
    const next = corner % 3 === 2 ? corner - 2 : corner + 1;
    const key = edgeKey(corners[corner] ?? 0, corners[next] ?? 0);
    const known = edges.get(key);
    if (known === undefined) edges.set(key, triangle);
    else parents[rootOf(triangle)] = rootOf(known);
  }
  const groups = new Map<number, number[]>();
  for (let triangle = 0; triangle < parents.length; triangle++) {
    const root = rootOf(triangle);
    const group = groups.get(root);
    if (group) group.push(triangle);
    else groups.set(root, [triangle]);
  }
  return [...groups.values()].map((triangles) => shellOf(triangles, places, corners));
}

/** Of two vertices, whichever way round. */
function edgeKey(a: number, b: number): number {
  return a < b ? a * 2 ** 26 + b : b * 2 ** 26 + a;
}

/** One vertex to a place, over all parts. */
function joined(parts: readonly Shell[]): { places: Float32Array; corners: Uint32Array } {
  let size = 0;
  for (const { positions } of parts) for (const value of positions) size = Math.max(size, Math.abs(value));
  const step = size * samePlace || 1;
  const known = new Map<string, number>();
  const places: number[] = [];
  const corners: number[] = [];
  for (const { positions, indices } of parts) {
    const own = new Map<number, number>();
    const placeOf = (vertex: number): number => {
      const found = own.get(vertex);
      if (found !== undefined) return found;
      const [x = 0, y = 0, z = 0] = positions.subarray(vertex * 3, vertex * 3 + 3);
      const key = `${Math.round(x / step)} ${Math.round(y / step)} ${Math.round(z / step)}`;
      let place = known.get(key);
      if (place === undefined) {
        known.set(key, (place = known.size));
        places.push(x, y, z);
      }
      own.set(vertex, place);
      return place;
    };
    for (let at = 0; at + 2 < indices.length; at += 3) {
      const [a, b, c] = [indices[at], indices[at + 1], indices[at + 2]].map((one) => placeOf(one ?? 0));
      if (a === b || b === c || a === c) continue;
      corners.push(a ?? 0, b ?? 0, c ?? 0);
    }
  }
  return { places: new Float32Array(places), corners: new Uint32Array(corners) };
}

function shellOf(triangles: readonly number[], places: Float32Array, corners: Uint32Array): Shell {
  const own = new Map<number, number>();
  const positions: number[] = [];
  const indices = new Uint32Array(triangles.length * 3);
  triangles.forEach((triangle, at) => {
    for (let k = 0; k < 3; k++) {
      const place = corners[triangle * 3 + k] ?? 0;
      let vertex = own.get(place);
      if (vertex === undefined) {
        own.set(place, (vertex = own.size));
        positions.push(places[place * 3] ?? 0, places[place * 3 + 1] ?? 0, places[place * 3 + 2] ?? 0);
      }
      indices[at * 3 + k] = vertex;
    }
  });
  return { positions: new Float32Array(positions), indices };
}

/**
 * Closes the holes of a shell: each rim gets a point in its middle, and triangles from there.
 * @returns how many were closed; null where rims are not rings, or are too much of the shell for it to have an inside
 */
export function closeHoles({ positions, indices }: Shell): { shell: Shell; holes: number } | null {
  const open = openEdges(indices);
  if (open.size === 0) return { shell: { positions, indices }, holes: 0 };
  let count = 0;
  for (const ends of open.values()) count += ends.length;
  // A sheet is mostly rim.
  if (count * 8 > indices.length) return null;
  const more: number[] = [];
  const points = [...positions];
  let holes = 0;
  while (open.size > 0) {
    const ring = ringOf(open);
    if (!ring) return null;
    holes++;
    const middle = points.length / 3;
    for (let axis = 0; axis < 3; axis++)
      points.push(ring.reduce((sum, vertex) => sum + (positions[vertex * 3 + axis] ?? 0), 0) / ring.length);
    ring.forEach((vertex, at) => more.push(ring[(at + 1) % ring.length] ?? 0, vertex, middle));
  }
  const all = new Uint32Array(indices.length + more.length);
  all.set(indices);
  all.set(more, indices.length);
  return { shell: { positions: new Float32Array(points), indices: all }, holes };
}

/** Edges that no other triangle has the other way round, from where they begin to where they end. */
function openEdges(indices: Uint32Array): Map<number, number[]> {
  const counts = new Map<number, number>();
  const keyOf = (from: number, to: number): number => from * 2 ** 26 + to;
  const edges = function* (): Generator<[number, number]> {
    for (let corner = 0; corner < indices.length; corner++)
      yield [indices[corner] ?? 0, indices[corner % 3 === 2 ? corner - 2 : corner + 1] ?? 0];
  };
  for (const [from, to] of edges()) counts.set(keyOf(from, to), (counts.get(keyOf(from, to)) ?? 0) + 1);
  const open = new Map<number, number[]>();
  for (const [from, to] of edges()) {
    const back = counts.get(keyOf(to, from)) ?? 0;
    const own = counts.get(keyOf(from, to)) ?? 0;
    if (own <= back) continue;
    counts.set(keyOf(from, to), own - 1);
    const ends = open.get(from);
    if (ends) ends.push(to);
    else open.set(from, [to]);
  }
  return open;
}

/** Takes a ring out of open edges; null where they lead nowhere. */
function ringOf(open: Map<number, number[]>): number[] | null {
  const first = [...open.keys()][0] ?? 0;
  const ring: number[] = [];
  const seen = new Map<number, number>();
  for (let at = first; ;) {
    // Where a rim touches itself, the ring that is closed already goes first.
    const known = seen.get(at);
    if (known !== undefined) {
      giveBack(open, ring.slice(0, known), ring[known] ?? at);
      return ring.slice(known);
    }
    seen.set(at, ring.length);
    ring.push(at);
    const ends = open.get(at);
    const to = ends?.pop();
    if (ends && ends.length === 0) open.delete(at);
    if (to === undefined) return null;
    at = to;
  }
}

function giveBack(open: Map<number, number[]>, lead: readonly number[], last: number): void {
  lead.forEach((from, at) => {
    const to = lead[at + 1] ?? last;
    const ends = open.get(from);
    if (ends) ends.push(to);
    else open.set(from, [to]);
  });
}

/** The same triangles seen from the other side. */
export function turnedInsideOut({ positions, indices }: Shell): Shell {
  const turned = indices.slice();
  for (let at = 0; at < turned.length; at += 3) {
    turned[at + 1] = indices[at + 2] ?? 0;
    turned[at + 2] = indices[at + 1] ?? 0;
  }
  return { positions, indices: turned };
}
