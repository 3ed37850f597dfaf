/** Triangles below which a box is not parted further. */
const fewTriangles = 6;
/** Deeper than this no tree goes: what cannot be parted by its place is parted by number. */
const deepest = 64;

/**
 * Boxes in boxes around triangles, each parted in the middle of its longest side (a bounding volume hierarchy): finds the
 * triangle that is nearest to a point by looking at a few of them.
 */
export class TriangleTree {
  /** Where the nearest point lies, after `find`. */
  x = 0;
  y = 0;
  z = 0;
  /** Number of the nearest triangle. */
  triangle = -1;
  /** Least and greatest of each axis, six to a box. */
  private readonly boxes: Float32Array;
  /** For each box its first triangle in `order`, and how many; where there are none, the boxes within follow: the second one's place. */
  private readonly starts: Uint32Array;
  private readonly counts: Uint32Array;
  private readonly order: Uint32Array;
  /** Corners in that order, nine numbers to a triangle. */
  private readonly corners: Float32Array;
  private readonly stack = new Uint32Array(deepest * 2 + 2);
  private readonly stackDistances = new Float64Array(deepest * 2 + 2);
  private boxCount = 0;
  private nearest = Infinity;

  /**
   * @param positions xyz triples
   * @param indices three to a triangle, of places that are finite
   */
  constructor(positions: Float32Array, indices: Uint32Array) {
    const count = Math.floor(indices.length / 3);
    const most = Math.max(1, count * 2);
    this.boxes = new Float32Array(most * 6);
    this.starts = new Uint32Array(most);
    this.counts = new Uint32Array(most);
    this.order = Uint32Array.from({ length: count }, (_, triangle) => triangle);
    const centres = new Float32Array(count * 3);
    for (let triangle = 0; triangle < count; triangle++) {
      const a = (indices[triangle * 3] ?? 0) * 3;
      const b = (indices[triangle * 3 + 1] ?? 0) * 3;
      const c = (indices[triangle * 3 + 2] ?? 0) * 3;
      for (let axis = 0; axis < 3; axis++)
        centres[triangle * 3 + axis] =
          ((positions[a + axis] ?? 0) + (positions[b + axis] ?? 0) + (positions[c + axis] ?? 0)) / 3;
    }
    if (count > 0) this.part(0, count, centres, deepest);
    this.corners = new Float32Array(count * 9);
    for (let at = 0; at < count; at++) {
      const triangle = this.order[at] ?? 0;
      for (let corner = 0; corner < 3; corner++) {
        const from = (indices[triangle * 3 + corner] ?? 0) * 3;
        const to = at * 9 + corner * 3;
        this.corners[to] = positions[from] ?? 0;
        this.corners[to + 1] = positions[from + 1] ?? 0;
        this.corners[to + 2] = positions[from + 2] ?? 0;
      }
    }
    // What lies in a box comes after it: backwards, the boxes within are known.
    for (let box = this.boxCount - 1; box >= 0; box--) this.measure(box);
  }

  /** Makes a box of some triangles, and those within it. @returns its number */
  private part(from: number, to: number, centres: Float32Array, depth: number): void {
    const box = this.boxCount++;
    if (to - from <= fewTriangles || depth <= 1) {
      this.starts[box] = from;
      this.counts[box] = to - from;
      return;
    }
    const middle = this.middleOf(from, to, centres, depth);
    this.part(from, middle, centres, depth - 1);
    this.starts[box] = this.boxCount;
    this.part(middle, to, centres, depth - 1);
  }

  /** Puts triangles on either side of the middle of their longest axis. @returns where the second side begins */
  private middleOf(from: number, to: number, centres: Float32Array, depth: number): number {
    const { order } = this;
    let [axis, low, size] = [0, 0, -1];
    for (let side = 0; side < 3; side++) {
      let least = Infinity;
      let most = -Infinity;
      for (let at = from; at < to; at++) {
        const value = centres[(order[at] ?? 0) * 3 + side] ?? 0;
        if (value < least) least = value;
        if (value > most) most = value;
      }
      if (most - least > size) [axis, low, size] = [side, least, most - least];
    }
    // In the end by number alone, so that no tree is deeper than the stack is long.
    const isShallow = depth > Math.log2(to - from) + 2;
    const split = low + size / 2;
    let begin = from;
    let end = to - 1;
    while (size > 0 && isShallow && begin <= end) {
      if ((centres[(order[begin] ?? 0) * 3 + axis] ?? 0) < split) begin++;
      else {
        const other = order[begin] ?? 0;
        order[begin] = order[end] ?? 0;
        order[end--] = other;
      }
    }
    return begin > from && begin < to ? begin : (from + to) >> 1;
  }

  private measure(box: number): void {
    const { boxes, corners } = this;
    const [least, most] = [
      [Infinity, Infinity, Infinity],
      [-Infinity, -Infinity, -Infinity],
    ];
    const take = (axis: number, value: number): void => {
      if (value < (least[axis] ?? 0)) least[axis] = value;
      if (value > (most[axis] ?? 0)) most[axis] = value;
    };
    const count = this.counts[box] ?? 0;
    const start = this.starts[box] ?? 0;
    if (count > 0) for (let at = start * 9; at < (start + count) * 9; at++) take(at % 3, corners[at] ?? 0);
    else
      for (const within of [box + 1, start])
        for (let axis = 0; axis < 3; axis++) {
          take(axis, boxes[within * 6 + axis] ?? 0);
          take(axis, boxes[within * 6 + 3 + axis] ?? 0);
        }
    boxes.set(least, box * 6);
    boxes.set(most, box * 6 + 3);
  }

  /**
   * Finds the nearest triangle that is nearer than a distance. Its place and number are in the tree's own fields.
   * @returns the distance; Infinity where there is none
   */
  find(x: number, y: number, z: number, bound = Infinity): number {
    this.triangle = -1;
    this.nearest = bound * bound;
    if (this.boxCount === 0) return Infinity;
    const { stack, stackDistances, counts, starts } = this;
    let height = 1;
    stack[0] = 0;
    stackDistances[0] = this.toBox(0, x, y, z);
    while (height > 0) {
      height--;
      if ((stackDistances[height] ?? 0) >= this.nearest) continue;
      const box = stack[height] ?? 0;
      const count = counts[box] ?? 0;
      const start = starts[box] ?? 0;
      if (count > 0) {
        for (let at = start; at < start + count; at++) this.look(at, x, y, z);
        continue;
      }
      const first = this.toBox(box + 1, x, y, z);
      const second = this.toBox(start, x, y, z);
      // The nearer one is looked at first: it lies on top.
      const isFirst = first <= second;
      stack[height] = isFirst ? start : box + 1;
      stackDistances[height++] = isFirst ? second : first;
      stack[height] = isFirst ? box + 1 : start;
      stackDistances[height++] = isFirst ? first : second;
    }
    return this.triangle < 0 ? Infinity : Math.sqrt(this.nearest);
  }

  private toBox(box: number, x: number, y: number, z: number): number {
    const { boxes } = this;
    const at = box * 6;
    const dx = Math.max((boxes[at] ?? 0) - x, 0, x - (boxes[at + 3] ?? 0));
    const dy = Math.max((boxes[at + 1] ?? 0) - y, 0, y - (boxes[at + 4] ?? 0));
    const dz = Math.max((boxes[at + 2] ?? 0) - z, 0, z - (boxes[at + 5] ?? 0));
    return dx * dx + dy * dy + dz * dz;
  }

  /** The nearest point of one triangle, by the region in which the point lies (Ericson, Real-Time Collision Detection, 5.1.5). */
  private look(at: number, x: number, y: number, z: number): void {
    const { corners } = this;
    const place = at * 9;
    const ax = corners[place] ?? 0;
    const ay = corners[place + 1] ?? 0;
    const az = corners[place + 2] ?? 0;
    const ux = (corners[place + 3] ?? 0) - ax;
    const uy = (corners[place + 4] ?? 0) - ay;
    const uz = (corners[place + 5] ?? 0) - az;
    const vx = (corners[place + 6] ?? 0) - ax;
    const vy = (corners[place + 7] ?? 0) - ay;
    const vz = (corners[place + 8] ?? 0) - az;
    const px = x - ax;
    const py = y - ay;
    const pz = z - az;
    const d1 = ux * px + uy * py + uz * pz;
    const d2 = vx * px + vy * py + vz * pz;
    const uu = ux * ux + uy * uy + uz * uz;
    const uv = ux * vx + uy * vy + uz * vz;
    const vv = vx * vx + vy * vy + vz * vz;
    const d3 = d1 - uu;
    const d4 = d2 - uv;
    const d5 = d1 - uv;
    const d6 = d2 - vv;
    let s = 0;
    let t = 0;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (d1 <= 0 && d2 <= 0) {
      // The first corner.
    } else if (d3 >= 0 && d4 <= d3) s = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) s = d1 / (d1 - d3);
    else if (d6 >= 0 && d5 <= d6) t = 1;
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) t = d2 / (d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      t = (d4 - d3) / (d4 - d3 + (d5 - d6));
      s = 1 - t;
    } else {
      const share = 1 / (va + vb + vc);
      s = vb === 0 && vc === 0 ? 0 : vb * share;
      t = vc * share;
    }
    const qx = ax + s * ux + t * vx;
    const qy = ay + s * uy + t * vy;
    const qz = az + s * uz + t * vz;
    const squared = (x - qx) ** 2 + (y - qy) ** 2 + (z - qz) ** 2;
    if (!(squared < this.nearest)) return;
    this.nearest = squared;
    this.triangle = this.order[at] ?? 0;
    this.x = qx;
    this.y = qy;
    this.z = qz;
  }
}
