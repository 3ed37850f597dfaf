import { Logger, WebIO, type GLTF, type JSONDocument } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import { ReadError, isReadError, type ReadRequest } from '../../reading.ts';
import type { ModelDocument } from '../model-document.ts';

const grey =
  'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNoaGj4DwAFhAKAjM1mJgAAAABJRU5ErkJggg==';

/**
 * glTF 2.0 and GLB, packed by Draco or meshopt too. Missing pictures are stood in for, missing buffers are not.
 * @throws ReadError where the bytes, or a buffer that they name, are missing or damaged
 */
export async function readGltf({
  bytes,
  resolve,
  platform,
}: Pick<ReadRequest, 'bytes' | 'resolve' | 'platform'>): Promise<ModelDocument> {
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions(ALL_EXTENSIONS);
  try {
    const source = bytes[0] === 0x67 ? await io.binaryToJSON(bytes) : { json: parse(bytes), resources: {} };
    const missing = await gather(source, resolve);
    const used = source.json.extensionsUsed ?? [];
    if (used.includes('KHR_draco_mesh_compression'))
      io.registerDependencies({ 'draco3d.decoder': await platform.openDraco() });
    if (used.includes('EXT_meshopt_compression')) {
      await MeshoptDecoder.ready;
      io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
    }
    return { document: await io.readJSON(source), missing, units: 'metres, Y up' };
  } catch (error) {
    if (isReadError(error)) throw error;
    const reason = error instanceof Error ? error.message : String(error);
    throw new ReadError(`this glTF model cannot be read: ${reason}`);
  }
}

function parse(bytes: Uint8Array): GLTF.IGLTF {
  const json: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  if (typeof json !== 'object' || json === null || !('asset' in json)) {
    throw new ReadError('this is not a glTF model: it has no “asset”');
  }
  return json as GLTF.IGLTF;
}

/** Fetches the files that the model names, and puts a grey pixel for pictures that the build lacks. */
async function gather({ json, resources }: JSONDocument, resolve: ReadRequest['resolve']): Promise<string[]> {
  const missing: string[] = [];
  for (const buffer of json.buffers ?? []) {
    if (!buffer.uri || buffer.uri.startsWith('data:')) continue;
    const found = await resolve(decodeURIComponent(buffer.uri));
    if (!found) throw new ReadError(`it names the buffer ${buffer.uri}, which the build lacks`);
    resources[buffer.uri] = new Uint8Array(found);
  }
  for (const image of json.images ?? []) {
    if (!image.uri || image.uri.startsWith('data:')) continue;
    const found = await resolve(decodeURIComponent(image.uri));
    if (found) {
      resources[image.uri] = new Uint8Array(found);
    } else {
      missing.push(image.uri);
      image.uri = grey;
    }
  }
  return missing;
}
