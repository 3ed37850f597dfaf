/** A triangle mesh in metres, Y up. */
export interface Shape {
  /** xyz triples. */
  positions: number[];
  normals: number[];
  /** uv pairs. */
  uvs: number[];
  indices: number[];
}

/** A profile of [radius, height] points turned about the Y axis. */
export function turned(profile: readonly (readonly [number, number])[], segments: number): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  profile.forEach(([radius, height], ring) => {
    const before = profile[ring - 1] ?? [radius, height];
    const after = profile[ring + 1] ?? [radius, height];
    const slope = Math.hypot(after[0] - before[0], after[1] - before[1]) || 1;
    for (let step = 0; step <= segments; step++) {
      const angle = (step / segments) * Math.PI * 2;
      shape.positions.push(radius * Math.cos(angle), height, radius * Math.sin(angle));
      const outwards = (after[1] - before[1]) / slope;
      const upwards = (before[0] - after[0]) / slope;
      pushNormal(shape, outwards * Math.cos(angle), upwards, outwards * Math.sin(angle));
      shape.uvs.push(step / segments, 1 - ring / (profile.length - 1));
    }
  });
  const row = segments + 1;
  for (let ring = 0; ring + 1 < profile.length; ring++) {
    for (let step = 0; step < segments; step++) {
      const corner = ring * row + step;
      shape.indices.push(corner, corner + row, corner + 1, corner + 1, corner + row, corner + row + 1);
    }
  }
  return shape;
}

/** A box about a centre. */
export function box(
  centre: readonly [number, number, number],
  size: readonly [number, number, number],
): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  for (const axis of [0, 1, 2]) {
    for (const side of [-1, 1]) {
      const first = shape.positions.length / 3;
      for (const [u, v] of [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ] as const) {
        const point = [0, 0, 0];
        point[axis] = side / 2;
        point[(axis + 1) % 3] = u - 0.5;
        point[(axis + 2) % 3] = v - 0.5;
        shape.positions.push(...point.map((value, k) => value * (size[k] ?? 1) + (centre[k] ?? 0)));
        shape.normals.push(...[0, 1, 2].map((k) => (k === axis ? side : 0)));
        shape.uvs.push(u, v);
      }
      const [a, b, c, d] = [first, first + 1, first + 2, first + 3];
      shape.indices.push(...(side > 0 ? [a, b, c, a, c, d] : [a, c, b, a, d, c]));
    }
  }
  return shape;
}

export function ball(centre: readonly [number, number, number], radius: number, segments: number): Shape {
  const rings = Math.max(3, Math.floor(segments / 2));
  const profile = Array.from({ length: rings + 1 }, (_, ring) => {
    const angle = -Math.PI / 2 + (ring / rings) * Math.PI;
    return [Math.max(radius * Math.cos(angle), 1e-4), radius * Math.sin(angle)] as const;
  });
  return placed(turned(profile, segments), centre);
}

/** A tube along a line of points, of a radius that may change from point to point. */
export function tube(
  points: readonly (readonly [number, number, number, number])[],
  segments: number,
): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  points.forEach(([x, y, z, radius], ring) => {
    for (let step = 0; step <= segments; step++) {
      const angle = (step / segments) * Math.PI * 2;
      shape.positions.push(x + radius * Math.cos(angle), y, z + radius * Math.sin(angle));
      pushNormal(shape, Math.cos(angle), 0, Math.sin(angle));
      shape.uvs.push(step / segments, ring / (points.length - 1));
    }
  });
  const row = segments + 1;
  for (let ring = 0; ring + 1 < points.length; ring++) {
    for (let step = 0; step < segments; step++) {
      const corner = ring * row + step;
      shape.indices.push(corner, corner + row, corner + 1, corner + 1, corner + row, corner + row + 1);
    }
  }
  return shape;
}

/** A boat's hull: cross sections from stern to bow, open above. */
export function hull(length: number, beam: number, depth: number, sections: number): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  const around = 8;
  for (let section = 0; section <= sections; section++) {
    const along = section / sections;
    const width = beam * Math.sin(Math.PI * Math.min(1, 0.16 + along * 0.84)) ** 0.6 * 0.5 + 0.02;
    for (let step = 0; step <= around; step++) {
      const angle = Math.PI + (step / around) * Math.PI;
      const sheer = 0.25 * (along * 2 - 1) ** 2 * depth;
      shape.positions.push(
        (along - 0.5) * length,
        depth * Math.sin(angle) + depth + sheer,
        width * Math.cos(angle),
      );
      pushNormal(shape, 0, Math.sin(angle), Math.cos(angle));
      shape.uvs.push(along * 3, step / around);
    }
  }
  const row = around + 1;
  for (let section = 0; section < sections; section++) {
    for (let step = 0; step < around; step++) {
      const corner = section * row + step;
      shape.indices.push(corner, corner + 1, corner + row, corner + 1, corner + row + 1, corner + row);
    }
  }
  return shape;
}

export function joined(...shapes: readonly Shape[]): Shape {
  const whole: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  for (const shape of shapes) {
    const first = whole.positions.length / 3;
    whole.positions.push(...shape.positions);
    whole.normals.push(...shape.normals);
    whole.uvs.push(...shape.uvs);
    whole.indices.push(...shape.indices.map((index) => index + first));
  }
  return whole;
}

export function placed(shape: Shape, [x, y, z]: readonly [number, number, number]): Shape {
  return { ...shape, positions: shape.positions.map((value, at) => value + ([x, y, z][at % 3] ?? 0)) };
}

function pushNormal(shape: Shape, x: number, y: number, z: number): void {
  const length = Math.hypot(x, y, z) || 1;
  shape.normals.push(x / length, y / length, z / length);
}
