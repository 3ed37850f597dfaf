import { kernels } from './module.ts';

/** Computation that runs in WebAssembly. Nothing of it is kept between two calls but what lies in the buffers. */
export interface Kernels {
  /** To be called once the tables of BC7 are written. */
  prepareBc7(): void;
  /** Decodes rows of BC7 blocks from `first` to `output`. */
  decodeBc7(blocksAcross: number, blockRows: number): void;
  /** The same for BC1 to BC5, and 0 for BC1 that is opaque throughout. */
  decodeBlocks(format: number, blocksAcross: number, blockRows: number): void;
  clearSums(toWidth: number): void;
  addRows(rows: number, width: number, toWidth: number): void;
  finishRow(toWidth: number): void;
  clearCounts(): void;
  addDifferences(
    rows: number,
    width: number,
    from: number,
    mask: number,
    tiles: number,
    blocks: number,
  ): void;
  /** Samples in `first`, 0 floats, 1 of 16 bits, 2 of 32; energies in `sums` from 2048 on. */
  bandEnergies(sort: number, channels: number, scale: number): void;
  clearExtremes(): void;
  /** Least and greatest sum of all channels and the largest of any go to `sums`. */
  addExtremes(sort: number, channels: number, frames: number, apart: number, full: number): void;
  /** Sums of products of rows of floats in `first`, block by block, to `sums`. */
  addProducts(rows: number, samples: number, blockSamples: number): void;
  /** The highest sample of each block of floats in `first`, as floats to `output`. */
  findPeaks(samples: number, blockSamples: number): void;
  /** Interleaved integers in `first` as floats, channel after channel, to `output`. */
  toFloats(isShort: boolean, channels: number, frames: number, below: number, above: number): void;
  /** Pixels that a buffer holds. */
  stripPixels: number;
  /** Buffers of pixels, 32 bits each: two that come in, one that goes out. */
  first: Uint8Array;
  second: Uint8Array;
  output: Uint8Array;
  /** Tables that are written once. */
  tables: Int32Array;
  waves: Float64Array;
  numbers: Int32Array;
  sums: Float64Array;
  steps: Uint8Array;
}

type Exports = Record<
  'first' | 'second' | 'output' | 'tables' | 'waves' | 'numbers' | 'sums' | 'steps' | 'stripPixels',
  WebAssembly.Global
> &
  Pick<
    Kernels,
    | 'prepareBc7'
    | 'decodeBc7'
    | 'decodeBlocks'
    | 'clearSums'
    | 'addRows'
    | 'finishRow'
    | 'clearCounts'
    | 'addDifferences'
    | 'bandEnergies'
    | 'clearExtremes'
    | 'addExtremes'
    | 'addProducts'
    | 'findPeaks'
    | 'toFloats'
  > & {
    memory: WebAssembly.Memory;
  };

let made: Kernels | null | undefined;

/**
 * The kernels of this thread, made when they are first asked for; null where there is no WebAssembly with vectors. The memory
 * never grows, so that its views never detach.
 */
export function findKernels(): Kernels | null {
  if (made === undefined) made = make();
  return made;
}

function make(): Kernels | null {
  try {
    const bytes = Uint8Array.from(atob(kernels), (letter) => letter.charCodeAt(0));
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(bytes));
    return buffersOf(exports as unknown as Exports);
  } catch {
    // An engine without vectors: everything is computed without.
    return null;
  }
}

function buffersOf(exports: Exports): Kernels {
  const { memory } = exports;
  const at = (
    name: 'first' | 'second' | 'output' | 'tables' | 'waves' | 'numbers' | 'sums' | 'steps',
  ): number => exports[name].value as number;
  const stripPixels = exports.stripPixels.value as number;
  const bytes = (name: 'first' | 'second' | 'output'): Uint8Array =>
    new Uint8Array(memory.buffer, at(name), stripPixels * 4);
  return {
    prepareBc7: exports.prepareBc7,
    decodeBc7: exports.decodeBc7,
    decodeBlocks: exports.decodeBlocks,
    clearSums: exports.clearSums,
    addRows: exports.addRows,
    finishRow: exports.finishRow,
    clearCounts: exports.clearCounts,
    addDifferences: exports.addDifferences,
    bandEnergies: exports.bandEnergies,
    clearExtremes: exports.clearExtremes,
    addExtremes: exports.addExtremes,
    addProducts: exports.addProducts,
    findPeaks: exports.findPeaks,
    toFloats: exports.toFloats,
    stripPixels,
    first: bytes('first'),
    second: bytes('second'),
    output: bytes('output'),
    tables: new Int32Array(memory.buffer, at('tables'), (at('waves') - at('tables')) / 4),
    waves: new Float64Array(memory.buffer, at('waves'), (at('numbers') - at('waves')) / 8),
    numbers: new Int32Array(memory.buffer, at('numbers'), (at('sums') - at('numbers')) / 4),
    sums: new Float64Array(memory.buffer, at('sums'), (at('steps') - at('sums')) / 8),
    steps: new Uint8Array(memory.buffer, at('steps'), at('first') - at('steps')),
  };
}
