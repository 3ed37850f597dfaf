import type { TriangleBatch } from '../../core/kinds/model/triangles.ts';

type Random = () => number;
type Batches = readonly TriangleBatch[];

const moved = (batches: Batches, move: (x: number, y: number, z: number) => readonly number[]): Batches =>
  batches.map((batch) => {
    const positions = new Float32Array(batch.positions.length);
    for (let at = 0; at + 2 < positions.length; at += 3)
      positions.set(
        move(batch.positions[at] ?? 0, batch.positions[at + 1] ?? 0, batch.positions[at + 2] ?? 0),
        at,
      );
    return { ...batch, positions };
  });

/** The longest side of all, in metres. */
function extentOf(batches: Batches): number {
  let [low, high] = [Infinity, -Infinity];
  for (const { positions } of batches)
    for (const value of positions) {
      low = Math.min(low, value);
      high = Math.max(high, value);
    }
  return high > low ? high - low : 1;
}

/** Takes away the triangles that a question says no to. */
const without = (batches: Batches, keeps: (at: number, all: number) => boolean): Batches =>
  batches.map((batch) => ({
    ...batch,
    indices: batch.indices.filter((_, at) => keeps(Math.floor(at / 3), batch.indices.length / 3)),
  }));

/** What artists do to a model between two builds. */
const edits: Readonly<Record<string, (batches: Batches, random: Random) => Batches>> = {
  'longer one way': (batches, random) => {
    const share = 1 + (random() * 0.2 + 0.05) * (random() < 0.5 ? -0.6 : 1);
    const axis = Math.floor(random() * 3);
    return moved(batches, (...place) => place.map((value, at) => (at === axis ? value * share : value)));
  },
  'surface worked over': (batches, random) => {
    const step = extentOf(batches) * 0.02;
    const [a, b, c] = [random() * 6, random() * 6, random() * 6];
    const wave = 20 / extentOf(batches);
    return moved(batches, (x, y, z) => [
      x + step * Math.sin(y * wave + a),
      y + step * Math.sin(z * wave + b),
      z + step * Math.sin(x * wave + c),
    ]);
  },
  'a tenth of the triangles gone': (batches, random) => {
    const begin = random() * 0.9;
    return without(batches, (at, all) => at < all * begin || at >= all * (begin + 0.1));
  },
  'another unit': (batches, random) => {
    const scale = random() < 0.5 ? 100 : 0.01;
    return moved(batches, (...place) => place.map((value) => value * scale));
  },
  'turned and placed elsewhere': (batches, random) => {
    const angle = random() * Math.PI;
    const [cosine, sine, far] = [Math.cos(angle), Math.sin(angle), extentOf(batches)];
    return moved(batches, (x, y, z) => [x * cosine - z * sine + far, y, x * sine + z * cosine]);
  },
  'each triangle in four': (batches) => batches.map(inFour),
  'coarser places': (batches) => {
    const step = extentOf(batches) / 200;
    return moved(batches, (...place) => place.map((value) => Math.round(value / step) * step));
  },
  'a part added': (batches) => {
    const first = batches[0];
    if (!first) return batches;
    const share = Math.max(3, Math.floor(first.indices.length / 3 / 5) * 3);
    const part = { ...first, indices: first.indices.slice(0, share) };
    return [...batches, ...moved([part], (x, y, z) => [x, y + extentOf(batches) * 0.1, z])];
  },
};

function inFour(batch: TriangleBatch): TriangleBatch {
  const positions: number[] = [];
  // With its place on the texture behind that in space.
  const corner = (index: number): number[] => [
    ...batch.positions.subarray(index * 3, index * 3 + 3),
    ...(batch.uvs?.subarray(index * 2, index * 2 + 2) ?? [0, 0]),
  ];
  const middle = (a: number[], b: number[]): number[] => a.map((value, axis) => (value + (b[axis] ?? 0)) / 2);
  for (let at = 0; at + 2 < batch.indices.length; at += 3) {
    const [a, b, c] = [...batch.indices.subarray(at, at + 3)].map(corner) as [number[], number[], number[]];
    const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)];
    for (const place of [a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca]) positions.push(...place);
  }
  const parts = (from: number, to: number): Float32Array =>
    Float32Array.from(positions.filter((_, at) => at % 5 >= from && at % 5 < to));
  return {
    ...batch,
    positions: parts(0, 3),
    uvs: batch.uvs && parts(3, 5),
    indices: Uint32Array.from({ length: positions.length / 5 }, (_, at) => at),
  };
}

/** A shape changed in a way drawn by lot, and what was done. */
export function editShape(batches: Batches, random: Random): { edit: string; batches: Batches } {
  const names = Object.keys(edits);
  const edit = names[Math.floor(random() * names.length)] ?? '';
  return { edit, batches: edits[edit]?.(batches, random) ?? batches };
}
