/** A unit quaternion xyzw. */
export type Quaternion = [x: number, y: number, z: number, w: number];

/** Hamilton product: the turn b, then the turn a, both about the fixed axes. */
export function product(a: Quaternion, b: Quaternion): Quaternion {
  const [ax, ay, az, aw] = a;
  const [bx, by, bz, bw] = b;
  return [
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
    aw * bw - ax * bx - ay * by - az * bz,
  ];
}

const axes = {
  X: [1, 0, 0],
  Y: [0, 1, 0],
  Z: [0, 0, 1],
} as const;

/** A turn about one axis; radians. */
export function about(axis: keyof typeof axes, angle: number): Quaternion {
  const [x, y, z] = axes[axis];
  const half = Math.sin(angle / 2);
  return [x * half, y * half, z * half, Math.cos(angle / 2)];
}

/**
 * Of Euler angles about X, Y and Z: the axes are turned along, in the order in which they are named (intrinsic), so that
 * the turn of the last named axis is applied to a vector first.
 */
export function ofEuler(angles: readonly [number, number, number], order: string): Quaternion {
  let turn: Quaternion = [0, 0, 0, 1];
  for (const axis of order) {
    const angle = angles['XYZ'.indexOf(axis)] ?? 0;
    turn = product(turn, about(axis as keyof typeof axes, angle));
  }
  return turn;
}

/** Of length 1; the identity where it has no length. */
export function unit([x, y, z, w]: Quaternion): Quaternion {
  const length = Math.hypot(x, y, z, w);
  return length > 0 ? [x / length, y / length, z / length, w / length] : [0, 0, 0, 1];
}

/**
 * From Z up to Y up: a turn of -90 degrees about X (common practice, no published source). A position (x, y, z) becomes
 * (x, z, -y), and so does the axis of a rotation.
 */
export function yUp([x, y, z]: readonly [number, number, number]): [number, number, number] {
  return [x, z, -y || 0];
}
