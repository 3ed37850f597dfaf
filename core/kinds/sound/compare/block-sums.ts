import { findKernels, type Kernels } from '../../../kernels/kernels.ts';

/** So long are the blocks that one sound is held against the other in. */
export const blockSeconds = 0.01;

/**
 * Sums of products of two sounds in blocks: enough to find out by which mixture of the older one's channels a newer one's
 * channel was made, over any choice of blocks, without going through the samples again.
 */
export interface BlockSums {
  /** The older one's channels, and a constant. */
  inputs: number;
  outputs: number;
  blocks: number;
  blockFrames: number;
  /** First frame of the newer one that is looked at, and the frame after the last. */
  from: number;
  to: number;
  /** For each block inputs x inputs, then inputs x outputs, then the outputs' energies. */
  sums: Float64Array;
  stride: number;
}

/** @param kernels null where it is to be computed without */
export function blockSums(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  shiftFrames: number,
  sampleRate: number,
  kernels = findKernels(),
): BlockSums {
  const [before, after] = [old.slice(0, 8), now.slice(0, 8)];
  const inputs = before.length + 1;
  const outputs = after.length;
  const from = Math.max(0, shiftFrames);
  const to = Math.max(from, Math.min(after[0]?.length ?? 0, (before[0]?.length ?? 0) + shiftFrames));
  const blockFrames = Math.max(16, Math.round(sampleRate * blockSeconds));
  const blocks = Math.ceil((to - from) / blockFrames);
  const stride = inputs * inputs + inputs * outputs + outputs;
  const sums = new Float64Array(blocks * stride);
  const found: BlockSums = { inputs, outputs, blocks, blockFrames, from, to, sums, stride };
  if (kernels && kernels.stripPixels >= blockFrames * (before.length + outputs)) {
    addInKernel(kernels, found, before, after, shiftFrames);
    return found;
  }
  const constant = inputs - 1;
  for (let block = 0; block < blocks; block++) {
    const [first, end] = [from + block * blockFrames, Math.min(to, from + (block + 1) * blockFrames)];
    const at = block * stride;
    const cross = at + inputs * inputs;
    for (let i = 0; i < before.length; i++) {
      const a = before[i];
      if (!a) continue;
      let sum = 0;
      for (let frame = first; frame < end; frame++) sum += a[frame - shiftFrames] ?? 0;
      sums[at + i * inputs + constant] = sum;
      sums[at + constant * inputs + i] = sum;
      for (let j = i; j < before.length; j++) {
        const value = product(a, before[j], first - shiftFrames, end - shiftFrames, 0);
        sums[at + i * inputs + j] = value;
        sums[at + j * inputs + i] = value;
      }
      for (let output = 0; output < outputs; output++)
        sums[cross + i * outputs + output] = product(
          a,
          after[output],
          first - shiftFrames,
          end - shiftFrames,
          shiftFrames,
        );
    }
    sums[at + constant * inputs + constant] = end - first;
    for (let output = 0; output < outputs; output++) {
      const b = after[output];
      if (!b) continue;
      let sum = 0;
      for (let frame = first; frame < end; frame++) sum += b[frame] ?? 0;
      sums[cross + constant * outputs + output] = sum;
      sums[cross + inputs * outputs + output] = product(b, b, first, end, 0);
    }
  }
  return found;
}

/** The same, of as many whole blocks at once as there is room for. */
function addInKernel(
  kernels: Kernels,
  { inputs, outputs, blocks, blockFrames, from, to, sums, stride }: BlockSums,
  before: readonly Float32Array[],
  after: readonly Float32Array[],
  shiftFrames: number,
): void {
  const rows = before.length + outputs;
  const constant = inputs - 1;
  // For each row its sum, and its products with itself and those after it.
  const perBlock = rows + (rows * (rows + 1)) / 2;
  const room = new Float32Array(kernels.first.buffer, kernels.first.byteOffset, kernels.stripPixels);
  const atOnce = Math.min(
    Math.floor(kernels.stripPixels / rows / blockFrames),
    Math.floor(kernels.sums.length / perBlock),
  );
  for (let block = 0; block < blocks; block += atOnce) {
    const begin = from + block * blockFrames;
    const end = Math.min(to, begin + atOnce * blockFrames);
    const frames = end - begin;
    for (let row = 0; row < rows; row++) {
      const isBefore = row < before.length;
      const samples = isBefore ? before[row] : after[row - before.length];
      const shift = isBefore ? shiftFrames : 0;
      const there = samples?.subarray(begin - shift, end - shift) ?? new Float32Array(0);
      room.set(there, row * frames);
      // A channel may be shorter than the others.
      room.fill(0, row * frames + there.length, (row + 1) * frames);
    }
    kernels.addProducts(rows, frames, blockFrames);
    for (let part = 0, place = 0; part * blockFrames < frames; part++) {
      const at = (block + part) * stride;
      const cross = at + inputs * inputs;
      sums[at + constant * inputs + constant] = Math.min(blockFrames, frames - part * blockFrames);
      for (let row = 0; row < rows; row++) {
        const sum = kernels.sums[place++] ?? 0;
        const output = row - before.length;
        if (output < 0) sums[at + row * inputs + constant] = sums[at + constant * inputs + row] = sum;
        else sums[cross + constant * outputs + output] = sum;
        for (let other = row; other < rows; other++) {
          const product = kernels.sums[place++] ?? 0;
          if (other < before.length)
            sums[at + row * inputs + other] = sums[at + other * inputs + row] = product;
          else if (output < 0) sums[cross + row * outputs + other - before.length] = product;
          else if (other === row) sums[cross + inputs * outputs + output] = product;
        }
      }
    }
  }
}

function product(
  a: Float32Array,
  b: Float32Array | undefined,
  from: number,
  to: number,
  shift: number,
): number {
  let sum = 0;
  if (b) for (let at = from; at < to; at++) sum += (a[at] ?? 0) * (b[at + shift] ?? 0);
  return sum;
}

/** Factors of each input, the constant last, for each output. */
export type Mixture = number[][];

/** By which mixture of the older channels the newer ones are nearest to themselves, over some blocks (least squares). */
export function mixtureOf(sums: BlockSums, isTaken: (block: number) => boolean): Mixture {
  const { inputs, outputs, blocks, stride } = sums;
  const total = new Float64Array(stride);
  for (let block = 0; block < blocks; block++)
    if (isTaken(block))
      for (let at = 0; at < stride; at++)
        total[at] = (total[at] ?? 0) + (sums.sums[block * stride + at] ?? 0);
  return Array.from({ length: outputs }, (_, output) => {
    const rows = Array.from({ length: inputs }, (_, i) => [
      ...total.subarray(i * inputs, (i + 1) * inputs),
      total[inputs * inputs + i * outputs + output] ?? 0,
    ]);
    return solved(rows);
  });
}

/** Gauss-Jordan with pivots; what has no spread of its own, as the same channel twice, is left at nothing. */
function solved(rows: number[][]): number[] {
  const size = rows.length;
  const scales = rows.map((row, at) => Math.abs(row[at] ?? 0));
  const order: number[] = [];
  const used = new Set<number>();
  for (let column = 0; column < size; column++) {
    let best = -1;
    for (let row = 0; row < size; row++)
      if (
        !used.has(row) &&
        (best < 0 || Math.abs(rows[row]?.[column] ?? 0) > Math.abs(rows[best]?.[column] ?? 0))
      )
        best = row;
    const chosen = rows[best];
    const pivot = chosen?.[column] ?? 0;
    if (!chosen || Math.abs(pivot) <= (scales[column] ?? 0) * 1e-9 + 1e-300) {
      order.push(-1);
      continue;
    }
    used.add(best);
    order.push(best);
    for (let at = 0; at <= size; at++) chosen[at] = (chosen[at] ?? 0) / pivot;
    for (const row of rows) {
      if (row === chosen) continue;
      const by = row[column] ?? 0;
      if (by !== 0) for (let at = 0; at <= size; at++) row[at] = (row[at] ?? 0) - by * (chosen[at] ?? 0);
    }
  }
  return order.map((row) => (row < 0 ? 0 : (rows[row]?.[size] ?? 0)));
}

/** Energies of a block: of what a mixture says, of the two multiplied, of the newer one. All outputs together. */
export interface BlockEnergies {
  said: number;
  both: number;
  there: number;
  frames: number;
}

export function energiesOf(sums: BlockSums, mixture: Mixture, block: number): BlockEnergies {
  const { inputs, outputs, stride } = sums;
  const at = block * stride;
  const cross = at + inputs * inputs;
  let [said, both, there] = [0, 0, 0];
  for (let output = 0; output < outputs; output++) {
    const factors = mixture[output] ?? [];
    for (let i = 0; i < inputs; i++) {
      const factor = factors[i] ?? 0;
      if (factor === 0) continue;
      both += factor * (sums.sums[cross + i * outputs + output] ?? 0);
      for (let j = 0; j < inputs; j++)
        said += factor * (factors[j] ?? 0) * (sums.sums[at + i * inputs + j] ?? 0);
    }
    there += sums.sums[cross + inputs * outputs + output] ?? 0;
  }
  return { said, both, there, frames: (sums.sums[at + inputs * inputs - 1] ?? 1) * outputs };
}

/** What is left of a block once the mixture is taken out. Sums of squares cancel to about fourteen digits. */
export function leftOf({ said, both, there }: BlockEnergies): number {
  const left = there - 2 * both + said;
  return left <= (there + said) * 1e-13 ? 0 : left;
}
