import type { Sample } from './proposal.ts';

/** A number at one place of every file. */
export interface Candidate {
  at: number;
  bytes: 2 | 4;
  isLittle: boolean;
  values: Float64Array;
  distinct: number;
}

/** Headers are rarely longer; what lies further back is found by offsets. */
const headerBytes = 192;

/** All numbers of 2 and 4 bytes in the headers of the files that are no larger than these. */
export function candidatesOf(samples: readonly Sample[]): Candidate[] {
  const length = Math.min(headerBytes, ...samples.map(({ bytes }) => bytes.length));
  const views = samples.map(({ bytes }) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength));
  const found: Candidate[] = [];
  for (const bytes of [4, 2] as const)
    for (const isLittle of [true, false])
      for (let at = 0; at + bytes <= length; at++) {
        const values = Float64Array.from(views, (view) =>
          bytes === 4 ? view.getUint32(at, isLittle) : view.getUint16(at, isLittle),
        );
        if (values.some((value, file) => value > (samples[file]?.size ?? 0))) continue;
        if (values.every((value) => value === 0)) continue;
        found.push({ at, bytes, isLittle, values, distinct: new Set(values).size });
      }
  return found;
}

export function overlaps(a: Pick<Candidate, 'at' | 'bytes'>, b: Pick<Candidate, 'at' | 'bytes'>): boolean {
  return a.at < b.at + b.bytes && b.at < a.at + a.bytes;
}

/** `y` as a whole number of times `x`, and something that is the same in all files; null where it is not. */
export function linear(x: Float64Array, y: Float64Array): { slope: number; rest: number } | null {
  const [x0 = 0, y0 = 0] = [x[0], y[0]];
  let other = 1;
  while (other < x.length && x[other] === x0) other++;
  if (other === x.length) return null;
  const slope = ((y[other] ?? 0) - y0) / ((x[other] ?? 0) - x0);
  if (!Number.isInteger(slope) || slope < 1) return null;
  const rest = y0 - slope * x0;
  for (let at = 1; at < x.length; at++) if ((y[at] ?? 0) !== rest + slope * (x[at] ?? 0)) return null;
  return { slope, rest };
}

/** The same of two numbers, as in a file with two lists. */
export function linearOfTwo(
  a: Float64Array,
  b: Float64Array,
  y: Float64Array,
): { slopes: [number, number]; rest: number } | null {
  const count = y.length;
  for (let first = 1; first < count; first++)
    for (let second = first + 1; second < count; second++) {
      const at = (values: Float64Array, place: number): number => (values[place] ?? 0) - (values[0] ?? 0);
      const [a1, b1, y1] = [at(a, first), at(b, first), at(y, first)];
      const [a2, b2, y2] = [at(a, second), at(b, second), at(y, second)];
      const determinant = a1 * b2 - a2 * b1;
      if (determinant === 0) continue;
      const slopes: [number, number] = [(y1 * b2 - y2 * b1) / determinant, (a1 * y2 - a2 * y1) / determinant];
      if (!slopes.every((slope) => Number.isInteger(slope) && slope >= 1)) return null;
      const rest = (y[0] ?? 0) - slopes[0] * (a[0] ?? 0) - slopes[1] * (b[0] ?? 0);
      const holds = y.every(
        (value, place) => value === rest + slopes[0] * (a[place] ?? 0) + slopes[1] * (b[place] ?? 0),
      );
      return holds ? { slopes, rest } : null;
    }
  return null;
}
