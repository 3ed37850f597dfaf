import * as THREE from 'three';
import { ReadError, isReadError, type ReadRequest } from '../../reading.ts';
import { documentFromThree, isEmbedded, withoutLoading } from '../from-three.ts';
import { unitsNotSaid, type ModelDocument } from '../model-document.ts';
import { materialsOf } from './mtl.ts';

interface Loaded {
  root: THREE.Object3D;
  clips?: readonly THREE.AnimationClip[];
  units: string;
}

type Loader = (request: ReadRequest) => Promise<Loaded>;

/** Formats that three's loaders read. They say little of damage: what comes out is looked at, too. */
export const threeLoaders: Readonly<Record<string, Loader>> = {
  obj: loadObj,
  stl: loadStl,
  ply: loadPly,
  dae: loadCollada,
  fbx: loadFbx,
  bvh: loadBvh,
  md2: loadMd2,
};

/** @throws ReadError */
export async function readThreeModel(format: string, request: ReadRequest): Promise<ModelDocument> {
  const loader = threeLoaders[format];
  if (!loader) throw new ReadError(`there is no reader for ${format}`);
  let loaded: Loaded;
  const names = new Set<string>();
  const blobs = new Set<string>();
  try {
    loaded = await loader(request);
  } catch (error) {
    if (isReadError(error)) throw error;
    throw new ReadError(`this ${format.toUpperCase()} model cannot be read: ${plain(error)}`);
  }
  loaded.root.traverse((object) => {
    for (const material of ([] as THREE.Material[]).concat((object as THREE.Mesh).material ?? []))
      for (const value of Object.values(material) as unknown[])
        if (value instanceof THREE.Texture && typeof value.userData.file === 'string')
          (isEmbedded(value.userData.file) ? blobs : names).add(value.userData.file);
  });
  const missing: string[] = [];
  const pictures = new Map<string, Uint8Array>();
  for (const name of names) {
    const bytes = await request.resolve(name);
    if (bytes) pictures.set(name, bytes);
    else missing.push(name);
  }
  for (const url of blobs) {
    pictures.set(url, new Uint8Array(await (await fetch(url)).arrayBuffer()));
    URL.revokeObjectURL(url);
  }
  return {
    document: documentFromThree(loaded.root, loaded.clips ?? [], pictures),
    missing,
    units: loaded.units,
  };
}

async function loadObj({ bytes, resolve }: ReadRequest): Promise<Loaded> {
  const { OBJLoader } = await import('three/examples/jsm/loaders/OBJLoader.js');
  const text = textOf(bytes);
  if (!/^\s*v\s/m.test(text))
    throw new ReadError('this OBJ model has no line that begins with “v”: no vertices');
  const root = new OBJLoader().parse(text);
  // Normals that it does not have are made up by the loader: what is made of the faces says nothing of its own.
  if (!/^\s*vn\s/m.test(text))
    root.traverse((object) => (object as Partial<THREE.Mesh>).geometry?.deleteAttribute('normal'));
  const libraries = [...text.matchAll(/^\s*mtllib\s+(.+?)\s*$/gm)].map(([, name = '']) => name);
  const materials = new Map<string, THREE.Material>();
  for (const name of libraries) {
    const library = await resolve(name.replaceAll('\\', '/'));
    if (library) for (const material of materialsOf(textOf(library))) materials.set(material.name, material);
  }
  root.traverse((object) => {
    const mesh = object as THREE.Mesh;
    if (Array.isArray(mesh.material))
      mesh.material = mesh.material.map((material) => materials.get(material.name) ?? material);
    else if (mesh.material as THREE.Material | undefined)
      mesh.material = materials.get(mesh.material.name) ?? mesh.material;
  });
  return { root, units: unitsNotSaid };
}

/** STL, both sorts. A binary one has 50 bytes to a triangle after 84 (common practice, no published standard). */
async function loadStl({ bytes }: ReadRequest): Promise<Loaded> {
  const { STLLoader } = await import('three/examples/jsm/loaders/STLLoader.js');
  const count = bytes.length >= 84 ? new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true) : -1;
  const begin = textOf(bytes.subarray(0, 256));
  const isText = /^\s*solid\b/.test(begin) && bytes.length !== 84 + count * 50;
  if (!isText && bytes.length < 84 + count * 50)
    throw new ReadError(
      `this STL model is cut short: byte 80 tells of ${count} triangles, which take ${84 + count * 50} bytes, and it has ${bytes.length}`,
    );
  if (!isText && count < 0) throw new ReadError('this STL model is cut short: its header alone has 84 bytes');
  if (isText && !/\bendsolid\b/.test(textOf(bytes.subarray(-4096))))
    throw new ReadError('this STL model is cut short: it does not end with “endsolid”');
  return { root: meshOf(withoutLoading(() => new STLLoader().parse(bufferOf(bytes)))), units: unitsNotSaid };
}

async function loadPly({ bytes }: ReadRequest): Promise<Loaded> {
  const { PLYLoader } = await import('three/examples/jsm/loaders/PLYLoader.js');
  const head = textOf(bytes.subarray(0, 65_536));
  const promised = Number(/element vertex (\d+)/.exec(head)?.[1] ?? -1);
  if (promised < 0) throw new ReadError('this PLY model has no line “element vertex” in its header');
  // The least that an element takes is a byte, or a digit and a space.
  for (const [, element = '', count = ''] of head.matchAll(/^\s*element\s+(\S+)\s+(\d+)/gm))
    if (Number(count) > bytes.length)
      throw new ReadError(
        `this PLY model is cut short: its header promises ${count} of “${element}”, and it has ${bytes.length} bytes`,
      );
  let geometry: THREE.BufferGeometry;
  try {
    geometry = new PLYLoader().parse(bufferOf(bytes));
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw new ReadError(
      `this PLY model is cut short: what its header promises goes on beyond its ${bytes.length} bytes`,
    );
  }
  const found = geometry.getAttribute('position')?.count ?? 0;
  const values = geometry.getAttribute('position')?.array ?? [];
  if (found < promised)
    throw new ReadError(
      `this PLY model is cut short: its header promises ${promised} vertices, and ${found} are there`,
    );
  if (Array.prototype.some.call(values, (value: number) => !Number.isFinite(value)))
    throw new ReadError('this PLY model is damaged: positions among its vertices are no numbers');
  return { root: geometry.getIndex() ? meshOf(geometry) : new THREE.Points(geometry), units: unitsNotSaid };
}

async function loadCollada({ bytes, platform }: ReadRequest): Promise<Loaded> {
  const { ColladaLoader } = await import('three/examples/jsm/loaders/ColladaLoader.js');
  await platform.provideDom();
  const text = textOf(bytes);
  const result = withoutLoading(() => new ColladaLoader().parse(text, ''));
  if (!result) throw new ReadError('this Collada model cannot be read: it is no valid XML');
  const [, metres = '1'] = /<unit[^>]*\bmeter="([^"]+)"/.exec(text) ?? [];
  const [, axis = 'Y_UP'] = /<up_axis>\s*(\w+)\s*<\/up_axis>/.exec(text) ?? [];
  // The loader has applied both.
  return {
    root: result.scene,
    clips: result.scene.animations,
    units: `${Number(metres) || 1} m to a unit, ${axis.replace('_UP', ' up')}`,
  };
}

async function loadFbx({ bytes }: ReadRequest): Promise<Loaded> {
  const { FBXLoader } = await import('three/examples/jsm/loaders/FBXLoader.js');
  const manager = new THREE.LoadingManager();
  const nothing = new THREE.TextureLoader();
  for (const extension of [/\.tga$/i, /\.tiff?$/i, /\.dds$/i, /\.exr$/i])
    manager.addHandler(extension, nothing);
  const result = withWindow(() => withoutLoading(() => new FBXLoader(manager).parse(bufferOf(bytes), '')));
  const said: unknown = result.userData.unitScaleFactor;
  // Centimetres to a unit; the loader has turned Z up to Y up.
  const centimetres = typeof said === 'number' && said > 0 ? said : 1;
  return {
    root: scaled(result, centimetres / 100),
    clips: result.animations,
    units: centimetres === 1 ? 'centimetres' : centimetres === 100 ? 'metres' : `${centimetres} cm to a unit`,
  };
}

async function loadMd2({ bytes }: ReadRequest): Promise<Loaded> {
  const { readMd2 } = await import('./md2.ts');
  const { mesh, clips } = await readMd2(bytes);
  return { root: mesh, clips, units: unitsNotSaid };
}

async function loadBvh({ bytes }: ReadRequest): Promise<Loaded> {
  const { BVHLoader } = await import('three/examples/jsm/loaders/BVHLoader.js');
  const text = textOf(bytes);
  const promised = Number(/Frames:\s*(\d+)/.exec(text)?.[1] ?? -1);
  const rows =
    text
      .slice(Math.max(0, text.indexOf('Frame Time')))
      .trim()
      .split('\n').length - 1;
  if (promised < 0) throw new ReadError('this BVH file has no line “Frames:”');
  if (rows < promised)
    throw new ReadError(`this BVH file is cut short: it promises ${promised} frames, and ${rows} are there`);
  const { skeleton, clip } = new BVHLoader().parse(text);
  const root = new THREE.Group();
  const [first] = skeleton.bones;
  if (first) root.add(first);
  return { root, clips: [clip], units: unitsNotSaid };
}

/** The loader asks for the window's size where the file has a camera. */
function withWindow<Result>(work: () => Result): Result {
  if ('window' in globalThis) return work();
  Object.assign(globalThis, { window: { innerWidth: 1, innerHeight: 1 } });
  try {
    return work();
  } finally {
    delete (globalThis as { window?: unknown }).window;
  }
}

function meshOf(geometry: THREE.BufferGeometry): THREE.Mesh {
  return new THREE.Mesh(geometry, new THREE.MeshStandardMaterial({ color: 0xcccccc }));
}

/** Centimetres to metres is a scale of 0.01 (common practice, no published source). */
function scaled(root: THREE.Object3D, scale: number): THREE.Object3D {
  if (scale === 1) return root;
  const holder = new THREE.Group();
  holder.scale.setScalar(scale);
  holder.add(root);
  return holder;
}

function textOf(bytes: Uint8Array): string {
  const [first = 0, second = 0] = bytes;
  const encoding =
    first === 0xff && second === 0xfe ? 'utf-16le' : first === 0xfe && second === 0xff ? 'utf-16be' : 'utf-8';
  return new TextDecoder(encoding).decode(bytes);
}

/** A copy of their own: a subclass's own `slice` need not copy. */
function bufferOf(bytes: Uint8Array): ArrayBuffer {
  return new Uint8Array(bytes).buffer;
}

function plain(error: unknown): string {
  return (
    (error instanceof Error ? error.message : String(error)).replace(/^THREE\.\w+: /, '').split('\n')[0] ?? ''
  );
}
