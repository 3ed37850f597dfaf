import { ReadError, type ReadRequest } from '../../reading.ts';
import { unitsNotSaid, type ModelDocument } from '../model-document.ts';
import { readGltf } from './gltf.ts';

/** Textures of these formats name files that lie beside them. @throws ReadError */
export async function readAssimpModel(format: string, request: ReadRequest): Promise<ModelDocument> {
  const { glb, missing } = await request.platform.convertModel(
    request.bytes,
    `model.${format}`,
    request.resolve,
  );
  if (!glb)
    throw new ReadError(
      `this ${format.toUpperCase()} model cannot be read: the library that knows its format does not accept it`,
    );
  const { document } = await readGltf({ ...request, bytes: glb });
  return { document, missing, units: unitsNotSaid };
}
