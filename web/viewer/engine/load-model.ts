import type { AnimationClip, Object3D } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { failureOf, received } from '../receive.ts';

export interface LoadedModel {
  scene: Object3D;
  clips: AnimationClip[];
}

export interface LoadingOptions {
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
  { signal, onProgress }: LoadingOptions = {},
): Promise<LoadedModel> {
  const response = await fetch(address, signal ? { signal } : {});
  if (!response.ok) throw new Error(await failureOf(response));
  const said = Number(response.headers.get('content-length') ?? 0);
  const bytes = await received(response, (count) => onProgress?.(count, said > 0 ? said : null));
  const folder = address.slice(0, address.lastIndexOf('/') + 1);
  const { scene, animations } = await new GLTFLoader().parseAsync(bytes, folder);
  signal?.throwIfAborted();
  return { scene, clips: animations };
}
