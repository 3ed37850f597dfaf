import type { AnimationClip, Object3D } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';

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

async function failureOf(response: Response): Promise<string> {
  const answer: unknown = await response.json().catch(() => null);
  if (typeof answer === 'object' && answer !== null && 'error' in answer && typeof answer.error === 'string')
    return answer.error;
  return `the server answered with ${response.status}`;
}

async function received(response: Response, onCount: (bytes: number) => void): Promise<ArrayBuffer> {
  const pieces: Uint8Array[] = [];
  let count = 0;
  const reader = response.body?.getReader();
  if (!reader) return response.arrayBuffer();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    pieces.push(value);
    count += value.length;
    onCount(count);
  }
  const all = new Uint8Array(count);
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all.buffer;
}
