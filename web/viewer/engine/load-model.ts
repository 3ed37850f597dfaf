import { Mesh, type AnimationClip, type Material, type Object3D } from 'three';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { failureOf, received } from '../receive.ts';

export interface LoadedModel {
  scene: Object3D;
  clips: AnimationClip[];
}

/** Gives a loader what a file needs that is packed. @param used extensions that the file says it uses */
export type GiveDecoders = (loader: GLTFLoader, used: ReadonlySet<string>) => Promise<void>;

export interface LoadingOptions {
  /** Nothing where models come unpacked. */
  giveDecoders?: GiveDecoders | undefined;
  signal?: AbortSignal | undefined;
  /** Called with what has come so far. @param total null where nobody says how much there is */
  onProgress?: ((bytes: number, total: number | null) => void) | undefined;
}

/**
 * Loads a model in glTF or GLB, with the files that it names beside it.
 * @throws Error that says why it cannot be shown; AbortError where it was stopped
 */
export async function loadModel(
  address: string,
  { signal, onProgress, giveDecoders }: LoadingOptions = {},
): Promise<LoadedModel> {
  const response = await fetch(address, signal ? { signal } : {});
  if (!response.ok) throw new Error(await failureOf(response));
  const said = Number(response.headers.get('content-length') ?? 0);
  const bytes = await received(response, (count) => onProgress?.(count, said > 0 ? said : null));
  const folder = address.slice(0, address.lastIndexOf('/') + 1);
  const loader = new GLTFLoader();
  if (giveDecoders) await giveDecoders(loader, extensionsUsedIn(bytes));
  const gltf = await loader.parseAsync(bytes, folder);
  signal?.throwIfAborted();
  await keepVariants(gltf);
  return { scene: gltf.scene, clips: gltf.animations };
}

/** First bytes of a GLB, and where its JSON begins (glTF 2.0, 4.4). */
const glbMagic = 0x46546c67;
const glbHeaderBytes = 20;

/** Names of the extensions that a glTF or GLB says it uses; none where it cannot be made out. */
export function extensionsUsedIn(bytes: ArrayBuffer): ReadonlySet<string> {
  const view = new DataView(bytes);
  const isGlb = bytes.byteLength >= glbHeaderBytes && view.getUint32(0, true) === glbMagic;
  const json = isGlb
    ? new Uint8Array(
        bytes,
        glbHeaderBytes,
        Math.min(view.getUint32(12, true), bytes.byteLength - glbHeaderBytes),
      )
    : new Uint8Array(bytes);
  const list = /"extensionsUsed"\s*:\s*\[([^\]]*)\]/.exec(new TextDecoder().decode(json))?.[1] ?? '';
  return new Set([...list.matchAll(/"([^"]+)"/g)].map(([, name = '']) => name));
}

/** Sets of materials of a file (KHR_materials_variants), as the loader hands them on. */
interface VariantsOfFile {
  variants?: { name?: string }[];
}
interface VariantsOfMesh {
  mappings?: { material?: number; variants?: number[] }[];
}
const variantsName = 'KHR_materials_variants';

function extensionOf<T>(userData: Record<string, unknown>): T | undefined {
  return (userData.gltfExtensions as Record<string, T> | undefined)?.[variantsName];
}

/** Puts to each mesh what it wears in which set of the file. */
async function keepVariants({ scene, parser, userData }: GLTF): Promise<void> {
  const names = extensionOf<VariantsOfFile>(userData)?.variants;
  if (!Array.isArray(names)) return;
  const meshes: { mesh: Mesh; mappings: NonNullable<VariantsOfMesh['mappings']> }[] = [];
  scene.traverse((object) => {
    const mappings = extensionOf<VariantsOfMesh>(object.userData)?.mappings;
    if (object instanceof Mesh && Array.isArray(mappings)) meshes.push({ mesh: object as Mesh, mappings });
  });
  for (const { mesh, mappings } of meshes) {
    const worn: Record<string, Material> = {};
    const own = mesh.material as Material;
    for (const { material, variants } of mappings) {
      if (material === undefined || !Array.isArray(variants)) continue;
      mesh.material = (await parser.getDependency('material', material)) as Material;
      // Colours of vertices and the like make another material of it.
      parser.assignFinalMaterial(mesh);
      for (const at of variants) worn[names[at]?.name ?? `set ${at + 1}`] = mesh.material;
    }
    mesh.material = own;
    mesh.userData.variantMaterials = worn;
  }
}
