/** Which triangles of a list are to be turned round. */
export interface Facing {
  /** 1 for those that are. */
  turned: Uint8Array;
  count: number;
}

interface Meeting {
  triangle: number;
  /** Whether it goes from the smaller to the greater number. */
  isUp: boolean;
}

/**
 * Finds the triangles that face another way than their neighbours, and closed shapes that face inwards (whose signed volume, the sum
 * of tetrahedra to a point, is below zero).
 * @param positions xyz triples; places that are equal are one
 * @param indices three to a triangle
 */
export function facingOf(positions: Float32Array, indices: Uint32Array): Facing {
  const places = placesOf(positions);
  const count = indices.length / 3;
  const edges = new Map<number, Meeting[]>();
  for (let corner = 0; corner < indices.length; corner++) {
    const from = places[indices[corner] ?? 0] ?? 0;
    const to = places[indices[corner % 3 === 2 ? corner - 2 : corner + 1] ?? 0] ?? 0;
    if (from === to) continue;
    const key = from < to ? from * 2 ** 26 + to : to * 2 ** 26 + from;
    const meeting = { triangle: Math.floor(corner / 3), isUp: from < to };
    const known = edges.get(key);
    if (known) known.push(meeting);
    else edges.set(key, [meeting]);
  }
  const neighbours = Array.from({ length: count }, (): { triangle: number; isOpposed: boolean }[] => []);
  const isOpen = new Uint8Array(count);
  for (const meetings of edges.values()) {
    const [first, second] = meetings;
    // Where more than two meet, nothing says which belong together.
    if (!first || !second || meetings.length > 2) {
      for (const { triangle } of meetings) isOpen[triangle] = 1;
      continue;
    }
    const isOpposed = first.isUp === second.isUp;
    neighbours[first.triangle]?.push({ triangle: second.triangle, isOpposed });
    neighbours[second.triangle]?.push({ triangle: first.triangle, isOpposed });
  }
  const turned = new Uint8Array(count);
  const seen = new Uint8Array(count);
  for (let start = 0; start < count; start++) {
    if (seen[start]) continue;
    const group = groupFrom(start, neighbours, seen, turned);
    const turns = group.reduce((sum, triangle) => sum + (turned[triangle] ?? 0), 0);
    const isClosed = !group.some((triangle) => isOpen[triangle]);
    const isWrong = isClosed
      ? volumeOf(positions, indices, group, turned) < 0
      : // A sheet has no outside: what most of it says stays.
        turns * 2 > group.length;
    if (isWrong) for (const triangle of group) turned[triangle] = turned[triangle] ? 0 : 1;
  }
  return { turned, count: turned.reduce((sum, one) => sum + one, 0) };
}

function placesOf(positions: Float32Array): Uint32Array {
  const known = new Map<string, number>();
  return Uint32Array.from({ length: positions.length / 3 }, (_, vertex) => {
    const key = positions.subarray(vertex * 3, vertex * 3 + 3).join(' ');
    const place = known.get(key) ?? known.size;
    known.set(key, place);
    return place;
  });
}

/** All that hang together with a triangle, each turned so that it faces as the first does. */
function groupFrom(
  start: number,
  neighbours: readonly (readonly { triangle: number; isOpposed: boolean }[])[],
  seen: Uint8Array,
  turned: Uint8Array,
): number[] {
  const group = [start];
  seen[start] = 1;
  for (let at = 0; at < group.length; at++) {
    const triangle = group[at] ?? 0;
    for (const { triangle: next, isOpposed } of neighbours[triangle] ?? []) {
      if (seen[next]) continue;
      seen[next] = 1;
      turned[next] = isOpposed ? 1 - (turned[triangle] ?? 0) : (turned[triangle] ?? 0);
      group.push(next);
    }
  }
  return group;
}

/** Six times the volume that triangles enclose; below zero where they face inwards. */
export function enclosedVolume(positions: Float32Array, indices: Uint32Array): number {
  const count = indices.length / 3;
  return volumeOf(positions, indices, [...Array(count).keys()], new Uint8Array(count));
}

function volumeOf(
  positions: Float32Array,
  indices: Uint32Array,
  group: readonly number[],
  turned: Uint8Array,
): number {
  const first = (indices[(group[0] ?? 0) * 3] ?? 0) * 3;
  let sum = 0;
  for (const triangle of group) {
    const corner = (k: number, axis: number): number =>
      (positions[(indices[triangle * 3 + k] ?? 0) * 3 + axis] ?? 0) - (positions[first + axis] ?? 0);
    const volume =
      corner(0, 0) * (corner(1, 1) * corner(2, 2) - corner(1, 2) * corner(2, 1)) -
      corner(0, 1) * (corner(1, 0) * corner(2, 2) - corner(1, 2) * corner(2, 0)) +
      corner(0, 2) * (corner(1, 0) * corner(2, 1) - corner(1, 1) * corner(2, 0));
    sum += turned[triangle] ? -volume : volume;
  }
  return sum;
}
