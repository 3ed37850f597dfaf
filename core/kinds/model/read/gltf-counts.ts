import type { GLTF, JSONDocument } from '@gltf-transform/core';
import { ReadError } from '../../reading.ts';

/** Bytes of a component (glTF 2.0, section 3.6.2.2). */
const componentBytes: Readonly<Record<number, number>> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
};
const elementSizes: Readonly<Record<string, number>> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
};
/**
 * What is not stored as it is (zeros, sparse values, packed by Draco or meshopt) may grow to this many times the bytes that
 * are there: a plain grid packed by meshopt and Draco grew 110 times at the most in our own trials; common practice, no
 * published limit.
 */
const packedRatio = 1000;
const freeBytes = 16 * 1024 ** 2;
const mostBytes = 1024 ** 3;

/**
 * Compares what accessors and buffer views promise with the bytes that are there, before anything is made for them.
 * @throws ReadError that names the first one that promises more
 */
export function checkCounts({ json, resources }: JSONDocument, fileBytes: number): void {
  const buffers = (json.buffers ?? []).map((buffer, at) => bufferBytes(buffer, at, resources));
  const stored = buffers.reduce((sum, bytes) => sum + bytes, fileBytes);
  const limit = Math.min(mostBytes, freeBytes + packedRatio * stored);
  for (const [at, view] of (json.bufferViews ?? []).entries()) {
    const packed = packedView(view);
    const { buffer, byteOffset = 0, byteLength } = packed ?? view;
    const there = buffers[buffer];
    if (
      !isCount(byteLength) ||
      !isCount(byteOffset) ||
      there === undefined ||
      byteOffset + byteLength > there
    )
      throw new ReadError(
        `its buffer view ${at} promises ${byteLength} bytes at ${byteOffset}, and its buffer has ${there ?? 0}`,
      );
    if (packed && (!isCount(view.byteLength) || view.byteLength > limit))
      throw new ReadError(`its buffer view ${at} promises to unpack to ${view.byteLength} bytes`);
  }
  let made = 0;
  for (const [at, accessor] of (json.accessors ?? []).entries()) {
    const { count, bufferView, byteOffset = 0, sparse } = accessor;
    const elementBytes = (elementSizes[accessor.type] ?? 0) * (componentBytes[accessor.componentType] ?? 0);
    if (!isCount(count) || elementBytes === 0)
      throw new ReadError(`its accessor ${at} promises ${count} elements of ${accessor.type}`);
    if (bufferView !== undefined) {
      const view = json.bufferViews?.[bufferView];
      const needed = byteOffset + (count - 1) * (view?.byteStride ?? elementBytes) + elementBytes;
      if (count > 0 && (!view || needed > view.byteLength))
        throw new ReadError(
          `its accessor ${at} promises ${count} elements, which take ${needed} bytes, and its buffer view has ${view?.byteLength ?? 0}`,
        );
    }
    if (sparse && (!isCount(sparse.count) || sparse.count > count))
      throw new ReadError(`its accessor ${at} promises ${sparse.count} sparse values of ${count}`);
    if (sparse) {
      const [indices, values] = [
        json.bufferViews?.[sparse.indices.bufferView],
        json.bufferViews?.[sparse.values.bufferView],
      ];
      const indexBytes = sparse.count * (componentBytes[sparse.indices.componentType] ?? 4);
      if (indexBytes > (indices?.byteLength ?? 0) || sparse.count * elementBytes > (values?.byteLength ?? 0))
        throw new ReadError(`its accessor ${at} promises ${sparse.count} sparse values, more than are there`);
    }
    made += count * elementBytes;
    if (made > limit)
      throw new ReadError(
        `its accessors promise more than ${limit.toLocaleString('en')} bytes of data, and the file has ${stored.toLocaleString('en')}`,
      );
  }
}

function bufferBytes(
  { uri, byteLength }: GLTF.IBuffer,
  at: number,
  resources: JSONDocument['resources'],
): number {
  if (uri?.startsWith('data:')) return Math.ceil(((uri.length - uri.indexOf(',')) * 3) / 4);
  const there = resources[uri ?? '@glb.bin']?.byteLength;
  // A buffer of meshopt's fallback has no bytes of its own.
  if (there === undefined) return at > 0 || uri === undefined ? byteLength : 0;
  return there;
}

/** Where the packed bytes of a view lie (EXT_meshopt_compression). */
function packedView(
  view: GLTF.IBufferView,
): { buffer: number; byteOffset?: number; byteLength: number } | null {
  const packed: unknown =
    view.extensions?.['EXT_meshopt_compression'] ?? view.extensions?.['KHR_meshopt_compression'];
  return (packed as { buffer: number; byteOffset?: number; byteLength: number } | undefined) ?? null;
}

function isCount(value: unknown): value is number {
  return typeof value === 'number' && Number.isSafeInteger(value) && value >= 0;
}
