import type { DRACOLoader } from 'three/examples/jsm/loaders/DRACOLoader.js';
import type { GiveDecoders } from './engine/load-model.ts';

const workers = 2;
/** Comes once a model needs it, and stays. */
let draco: Promise<DRACOLoader> | null = null;

/**
 * Gives a loader what models need whose geometry is packed, by Draco or by meshopt: it is unpacked in threads of the page.
 * Pictures in KTX2 are left to the server: their decoder makes code of texts, which pages of ours may not.
 * @param used extensions that the file says it uses, by the names that glTF has for them
 */
export const giveDecoders: GiveDecoders = async (loader, used) => {
  if (used.has('KHR_draco_mesh_compression')) loader.setDRACOLoader(await (draco ??= makeDraco()));
  if (used.has('EXT_meshopt_compression') || used.has('KHR_meshopt_compression')) {
    const { MeshoptDecoder } = await import('three/examples/jsm/libs/meshopt_decoder.module.js');
    loader.setMeshoptDecoder(MeshoptDecoder);
  }
};

async function makeDraco(): Promise<DRACOLoader> {
  const { DRACOLoader: Loader } = await import('three/examples/jsm/loaders/DRACOLoader.js');
  return new Loader().setWorkerLimit(workers);
}
