import * as THREE from 'three';
import { ReadError } from '../../reading.ts';
import { withoutLoading } from '../from-three.ts';

/** Words of the header, each of four bytes, little end first (the format as id Software published it with its sources). */
const header = {
  ...{
    ident: 0,
    version: 1,
    frameSize: 4,
    skins: 5,
    vertices: 6,
    uvs: 7,
    triangles: 8,
    commands: 9,
    frames: 10,
  },
  ...{ skinsAt: 11, uvsAt: 12, trianglesAt: 13, framesAt: 14, end: 16 },
} as const;
const [ident, version, headerBytes] = [0x32504449, 8, 68];
const [skinBytes, uvBytes, triangleBytes, frameHeadBytes, vertexBytes] = [64, 4, 12, 40, 4];
/** Corners of all frames beyond which the first frame alone is read: they take 24 bytes each. */
const mostCorners = 12_000_000;

/**
 * A model of MD2: one shape, with a frame for each moment of its clips. Three’s loader swaps two axes without turning the third,
 * and so mirrors it: that is put right, as are the corners, which stand the other way round.
 * @throws ReadError that names what goes beyond the file
 */
export async function readMd2(
  bytes: Uint8Array,
): Promise<{ mesh: THREE.Mesh; clips: THREE.AnimationClip[] }> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < headerBytes)
    throw new ReadError(
      `this MD2 model is cut short: its header has ${headerBytes} bytes, and it has ${bytes.length}`,
    );
  const at = (word: number): number => view.getInt32(word * 4, true);
  if (at(header.ident) !== ident || at(header.version) !== version)
    throw new ReadError(`this is no MD2 model: it begins with neither “IDP2” nor version ${version}`);
  const frameBytes = frameHeadBytes + at(header.vertices) * vertexBytes;
  const parts: [what: string, from: number, count: number, each: number][] = [
    ['skins', at(header.skinsAt), at(header.skins), skinBytes],
    ['UVs', at(header.uvsAt), at(header.uvs), uvBytes],
    ['triangles', at(header.trianglesAt), at(header.triangles), triangleBytes],
    ['frames', at(header.framesAt), at(header.frames), frameBytes],
  ];
  for (const [what, from, count, each] of parts)
    if (count < 0 || (count > 0 && (from < headerBytes || from + count * each > bytes.length)))
      throw new ReadError(
        `this MD2 model is cut short: its ${count} ${what} from byte ${from} on take ${count * each} bytes, and it has ${bytes.length}`,
      );
  if (at(header.frames) < 1 || at(header.triangles) < 1)
    throw new ReadError('this MD2 model has no frame, or no triangle');
  for (let triangle = 0; triangle < at(header.triangles); triangle++)
    for (let corner = 0; corner < 6; corner++) {
      const place = view.getUint16(at(header.trianglesAt) + triangle * triangleBytes + corner * 2, true);
      const count = corner < 3 ? at(header.vertices) : at(header.uvs);
      if (place >= count)
        throw new ReadError(
          `this MD2 model is damaged: triangle ${triangle} names ${corner < 3 ? 'vertex' : 'UV'} ${place} of ${count}`,
        );
    }
  const copy = new Uint8Array(bytes);
  const copied = new DataView(copy.buffer);
  // What stands behind its end is not its own; the loader refuses it.
  copied.setInt32(header.end * 4, copy.length, true);
  if (at(header.frames) * at(header.triangles) * 3 > mostCorners) copied.setInt32(header.frames * 4, 1, true);
  const { MD2Loader } = await import('three/examples/jsm/loaders/MD2Loader.js');
  const geometry = withoutLoading(() => new MD2Loader().parse(copy.buffer)) as THREE.BufferGeometry & {
    animations?: THREE.AnimationClip[];
  };
  // One frame is no movement.
  const clips = copied.getInt32(header.frames * 4, true) > 1 ? (geometry.animations ?? []) : [];
  const attributes = [
    ...Object.entries(geometry.attributes),
    ...Object.entries(geometry.morphAttributes).flatMap(([name, list]) =>
      (list ?? []).map((attribute) => [name, attribute] as const),
    ),
  ];
  for (const [name, attribute] of attributes) turn(name, attribute.array as Float32Array);
  if (clips.length === 0) geometry.morphAttributes = {};
  const material = new THREE.MeshStandardMaterial({ color: 0xcccccc });
  const skin = skinName(bytes, at(header.skins) > 0 ? at(header.skinsAt) : -1);
  if (skin !== '') {
    material.name = skin.slice(skin.lastIndexOf('/') + 1).replace(/\.[a-z0-9]{2,4}$/i, '');
    material.map = new THREE.Texture();
    material.map.userData = { file: skin };
    material.color.set(0xffffff);
  }
  return { mesh: new THREE.Mesh(geometry, material), clips };
}

/** Its first skin; a name that begins with a dot alone lies beside the model. */
function skinName(bytes: Uint8Array, from: number): string {
  if (from < 0) return '';
  const end = bytes.indexOf(0, from);
  const name = new TextDecoder('latin1').decode(
    bytes.subarray(from, Math.min(from + skinBytes, end < 0 ? from : end)),
  );
  return name.replaceAll('\\', '/').replace(/^\.(?=[^./])/, '');
}

/** Three corners after one another: the third axis the other way, and the corners in the other order. */
function turn(name: string, values: Float32Array): void {
  const size = name === 'uv' ? 2 : 3;
  if (size === 3) for (let at = 2; at < values.length; at += 3) values[at] = -(values[at] ?? 0);
  for (let at = 0; at + size * 3 <= values.length; at += size * 3)
    for (let part = 0; part < size; part++) {
      const kept = values[at + part] ?? 0;
      values[at + part] = values[at + size * 2 + part] ?? 0;
      values[at + size * 2 + part] = kept;
    }
}
