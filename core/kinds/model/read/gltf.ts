import { Logger, WebIO, type GLTF, type JSONDocument } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import { ReadError, isReadError, type ReadRequest } from '../../reading.ts';
import type { ModelDocument } from '../model-document.ts';
import { saidBy } from './gltf-said.ts';
import { checkCounts } from './gltf-counts.ts';

/** What stands in for a picture that is missing. */
export const greyPicture =
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
    const source = bytes[0] === 0x67 ? chunksOf(bytes) : { json: parse(bytes), resources: {} };
    // Before pictures are stood in for.
    const said = saidBy(source.json);
    const missing = await gather(source, resolve);
    checkCounts(source, bytes.length);
    const used = source.json.extensionsUsed ?? [];
    if (used.includes('KHR_draco_mesh_compression'))
      io.registerDependencies({ 'draco3d.decoder': await platform.openDraco() });
    if (used.includes('EXT_meshopt_compression')) {
      await MeshoptDecoder.ready;
      io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
    }
    return { document: await io.readJSON(source), missing, units: 'metres, Y up', said };
  } catch (error) {
    if (isReadError(error)) throw error;
    const reason = error instanceof Error ? error.message : String(error);
    throw new ReadError(`this glTF model cannot be read: ${reason}`);
  }
}

/**
 * The two chunks of a GLB (glTF 2.0, section 4.4). The library's own way refuses a GLB that names files beside it, which
 * games have.
 */
function chunksOf(bytes: Uint8Array): JSONDocument {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20)
    throw new ReadError(`this GLB is cut short: its header has 20 bytes, and the file ${bytes.length}`);
  const version = view.getUint32(4, true);
  if (version !== 2) throw new ReadError(`this GLB has version ${version}, and 2 is read`);
  const promised = view.getUint32(8, true);
  if (promised > bytes.length)
    throw new ReadError(
      `this GLB is cut short: byte 8 tells of ${promised} bytes, and the file has ${bytes.length}`,
    );
  const jsonLength = view.getUint32(12, true);
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + jsonLength > bytes.length)
    throw new ReadError(
      'this GLB is damaged: its first chunk, at byte 12, should be JSON and lie within the file',
    );
  const json = parse(bytes.subarray(20, 20 + jsonLength));
  const resources: JSONDocument['resources'] = {};
  const at = 20 + jsonLength;
  if (at + 8 <= bytes.length) {
    const length = view.getUint32(at, true);
    if (at + 8 + length > bytes.length)
      throw new ReadError(
        `this GLB is cut short: its second chunk, at byte ${at}, should have ${length} bytes`,
      );
    resources['@glb.bin'] = new Uint8Array(bytes.subarray(at + 8, at + 8 + length));
  }
  return { json, resources };
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
      image.uri = greyPicture;
    }
  }
  return missing;
}
