import type { Document } from '@gltf-transform/core';
import * as z from 'zod';

/*
 * A second reader of what was written as glTF 2.0, which knows nothing of the library that wrote it: places of vertices and corners of
 * triangles, as they lie in the bytes (sections 3.6 and 4.4).
 */

const count = z.number().int().min(0);
const accessorSchema = z.object({
  bufferView: count.optional(),
  byteOffset: count.default(0),
  componentType: z.number(),
  count,
  type: z.string(),
  sparse: z.unknown().optional(),
});
const gltfSchema = z.object({
  buffers: z.array(z.object({ uri: z.string().optional(), byteLength: count })).default([]),
  bufferViews: z
    .array(
      z.object({
        buffer: count,
        byteOffset: count.default(0),
        byteLength: count,
        byteStride: count.optional(),
      }),
    )
    .default([]),
  accessors: z.array(accessorSchema).default([]),
  meshes: z
    .array(
      z.object({
        primitives: z.array(
          z.object({
            attributes: z.record(z.string(), count),
            indices: count.optional(),
            extensions: z.record(z.string(), z.unknown()).optional(),
          }),
        ),
      }),
    )
    .default([]),
});
type Gltf = z.infer<typeof gltfSchema>;

const [jsonChunk, binaryChunk, floats] = [0x4e4f534a, 0x004e4942, 5126];
const indexBytes: Readonly<Record<number, 1 | 2 | 4>> = { 5121: 1, 5123: 2, 5125: 4 };

/** Places of the corners of a primitive, xyz for each; null where it packs them in a way that only its library knows. */
type Corners = Float32Array | null;

/**
 * Corners of all primitives of a GLB or of a glTF with files, in their order.
 * @param resolve bytes of a file beside it @throws RangeError where something lies outside of the bytes
 */
export function plainCorners(
  bytes: Uint8Array,
  resolve: (name: string) => Uint8Array | undefined,
): Corners[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const isBinary = bytes.length >= 12 && view.getUint32(0, true) === 0x46546c67;
  const chunks = isBinary ? chunksOf(bytes, view) : new Map([[jsonChunk, bytes]]);
  const text = new TextDecoder().decode(chunks.get(jsonChunk) ?? new Uint8Array(0));
  const gltf = gltfSchema.parse(JSON.parse(text));
  const buffers = gltf.buffers.map(({ uri }) =>
    uri === undefined ? chunks.get(binaryChunk) : resolve(decodeURIComponent(uri)),
  );
  return gltf.meshes.flatMap(({ primitives }) =>
    primitives.map(({ attributes, indices, extensions }) => {
      if (extensions && Object.keys(extensions).some((name) => /draco|meshopt/i.test(name))) return null;
      const positions = placesOf(gltf, buffers, attributes.POSITION);
      if (!positions) return null;
      if (indices === undefined) return positions;
      const order = indicesOf(gltf, buffers, indices);
      if (!order) return null;
      const corners = new Float32Array(order.length * 3);
      for (let at = 0, to = 0; at < order.length; at++) {
        const from = (order[at] as number) * 3;
        if (from + 2 >= positions.length) throw new RangeError(`there is no vertex ${from / 3}`);
        for (let axis = 0; axis < 3; axis++) corners[to++] = positions[from + axis] as number;
      }
      return corners;
    }),
  );
}

function chunksOf(bytes: Uint8Array, view: DataView): Map<number, Uint8Array> {
  if (view.getUint32(8, true) !== bytes.length)
    throw new RangeError('its length is another one than it says');
  const chunks = new Map<number, Uint8Array>();
  for (let at = 12; at < bytes.length;) {
    const length = view.getUint32(at, true);
    if (at + 8 + length > bytes.length) throw new RangeError('a chunk goes on beyond its end');
    chunks.set(view.getUint32(at + 4, true), bytes.subarray(at + 8, at + 8 + length));
    at += 8 + length;
  }
  return chunks;
}

type Buffers = readonly (Uint8Array | undefined)[];

function viewOf(
  gltf: Gltf,
  buffers: Buffers,
  accessor: Gltf['accessors'][number],
): { view: DataView; stride: number } | null {
  const found = accessor.bufferView === undefined ? undefined : gltf.bufferViews[accessor.bufferView];
  const buffer = found && buffers[found.buffer];
  if (!found || !buffer || accessor.sparse !== undefined) return null;
  const begin = found.byteOffset + accessor.byteOffset;
  if (found.byteOffset + found.byteLength > buffer.length)
    throw new RangeError('a view goes on beyond its buffer');
  return {
    view: new DataView(buffer.buffer, buffer.byteOffset + begin, found.byteLength - accessor.byteOffset),
    stride: found.byteStride ?? 0,
  };
}

function placesOf(gltf: Gltf, buffers: Buffers, at: number | undefined): Corners {
  const accessor = at === undefined ? undefined : gltf.accessors[at];
  if (!accessor || accessor.componentType !== floats || accessor.type !== 'VEC3') return null;
  const found = viewOf(gltf, buffers, accessor);
  if (!found) return null;
  const stride = found.stride || 12;
  const places = new Float32Array(accessor.count * 3);
  for (let vertex = 0, to = 0; vertex < accessor.count; vertex++)
    for (let axis = 0; axis < 3; axis++)
      places[to++] = found.view.getFloat32(vertex * stride + axis * 4, true);
  return places;
}

function indicesOf(gltf: Gltf, buffers: Buffers, at: number): Uint32Array | null {
  const accessor = gltf.accessors[at];
  const bytes = accessor && indexBytes[accessor.componentType];
  const found = accessor && bytes && viewOf(gltf, buffers, accessor);
  if (!found) return null;
  const { view } = found;
  const indices = new Uint32Array(accessor.count);
  for (let index = 0; index < indices.length; index++)
    indices[index] =
      bytes === 1
        ? view.getUint8(index)
        : bytes === 2
          ? view.getUint16(index * 2, true)
          : view.getUint32(index * 4, true);
  return indices;
}

/** Whether a document that the library read has the same corners, bit for bit; true where the plain reader reads none. */
export function hasCorners(document: Document, plain: readonly Corners[]): boolean {
  const primitives = document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives());
  return (
    primitives.length === plain.length &&
    primitives.every((primitive, at) => {
      const corners = plain[at];
      const positions: unknown = primitive.getAttribute('POSITION')?.getArray();
      if (!corners || !(positions instanceof Float32Array)) return true;
      const order = primitive.getIndices()?.getArray() as Uint32Array | null | undefined;
      const length = (order?.length ?? positions.length / 3) * 3;
      if (corners.length !== length) return false;
      for (let corner = 0, at = 0; corner < length; corner += 3, at++) {
        const from = order ? (order[at] as number) * 3 : corner;
        for (let axis = 0; axis < 3; axis++)
          if (!Object.is(corners[corner + axis], positions[from + axis])) return false;
      }
      return true;
    })
  );
}
