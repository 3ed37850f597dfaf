/** Corners of a shape in metres, as xyz triples, with uv pairs where there are any. */
export interface ShapeWithUvs {
  positions: ArrayLike<number>;
  uvs: ArrayLike<number> | null;
  /** Three to a triangle; null where corners follow one another. */
  indices: ArrayLike<number> | null;
}

/**
 * How many triangles a square metre has around each corner: one over the mean area of the triangles that meet there.
 * @returns 0 where no triangle with an area does
 */
export function triangleDensity(shape: ShapeWithUvs): Float32Array {
  const [areas, counts] = sums(shape, (area) => area);
  return areas.map((area, corner) => (area > 0 ? (counts[corner] ?? 0) / area : 0));
}

/**
 * How many texels of a picture lie along a metre around each corner: the root of texels to area.
 * @param width of the picture, in texels
 * @returns 0 where there are no UVs, or no triangle with an area
 */
export function texelDensity(shape: ShapeWithUvs, width: number, height: number): Float32Array {
  const { uvs } = shape;
  if (!uvs) return new Float32Array(shape.positions.length / 3);
  const [areas] = sums(shape, (area) => area);
  const [texels] = sums(shape, (_, a, b, c) => {
    const [ua, va] = [uvs[a * 2] ?? 0, uvs[a * 2 + 1] ?? 0];
    const across = ((uvs[b * 2] ?? 0) - ua) * ((uvs[c * 2 + 1] ?? 0) - va);
    const down = ((uvs[c * 2] ?? 0) - ua) * ((uvs[b * 2 + 1] ?? 0) - va);
    return (Math.abs(across - down) / 2) * width * height;
  });
  return texels.map((count, corner) => {
    const area = areas[corner] ?? 0;
    return area > 0 ? Math.sqrt(count / area) : 0;
  });
}

/** Sums of something of the triangles that have an area, and how many there are, by the corners that they have. */
function sums(
  { positions, indices }: ShapeWithUvs,
  of: (area: number, a: number, b: number, c: number) => number,
): [Float32Array, Uint32Array] {
  const corners = positions.length / 3;
  const count = indices?.length ?? corners;
  const [totals, counts] = [new Float32Array(corners), new Uint32Array(corners)];
  for (let at = 0; at + 2 < count; at += 3) {
    const [a, b, c] = indices
      ? [indices[at] ?? 0, indices[at + 1] ?? 0, indices[at + 2] ?? 0]
      : [at, at + 1, at + 2];
    const area = areaOf(positions, a, b, c);
    if (!(area > 0)) continue;
    const value = of(area, a, b, c);
    for (const corner of [a, b, c]) {
      totals[corner] = (totals[corner] ?? 0) + value;
      counts[corner] = (counts[corner] ?? 0) + 1;
    }
  }
  return [totals, counts];
}

function areaOf(positions: ArrayLike<number>, a: number, b: number, c: number): number {
  const along = (corner: number, axis: number): number =>
    (positions[corner * 3 + axis] ?? 0) - (positions[a * 3 + axis] ?? 0);
  const [ux, uy, uz] = [along(b, 0), along(b, 1), along(b, 2)];
  const [vx, vy, vz] = [along(c, 0), along(c, 1), along(c, 2)];
  return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
}
