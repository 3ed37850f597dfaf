import { zipSync } from 'fflate';
import { toLight } from '../../srgb.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { ModelDocument } from '../model-document.ts';
import { readGltf } from './gltf.ts';

const metresOfUnit: Readonly<Record<string, number>> = {
  micron: 1e-6,
  millimeter: 1e-3,
  centimeter: 0.01,
  inch: 0.0254,
  foot: 0.3048,
  meter: 1,
};
const relations = `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>`;
const types = `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>`;

/**
 * The model part of a 3MF package (3MF Core Specification, section 3), which is found in it as in any ZIP: it is put into a
 * package again for the library that reads it. In the unit that it names, Z up.
 * @throws ReadError
 */
export async function read3mf(request: ReadRequest): Promise<ModelDocument> {
  const encoder = new TextEncoder();
  const head = new TextDecoder().decode(request.bytes.subarray(0, 4096));
  const [, unit = 'millimeter'] = /<model[^>]*\bunit="(\w+)"/.exec(head) ?? [];
  if (!/<\/model>\s*$/.test(new TextDecoder().decode(request.bytes.subarray(-256))))
    throw new ReadError('this 3MF model is cut short: it does not end with “</model>”');
  const whole = zipSync({
    '[Content_Types].xml': encoder.encode(types),
    '_rels/.rels': encoder.encode(relations),
    '3D/3dmodel.model': new Uint8Array(request.bytes),
  });
  const { glb } = await request.platform.convertModel(whole, 'model.3mf', request.resolve);
  if (!glb)
    throw new ReadError(
      'this 3MF model cannot be read: the library that knows its format does not accept it',
    );
  const { document } = await readGltf({ ...request, bytes: glb });
  nameAsSaid(document, new TextDecoder().decode(request.bytes));
  const scale = metresOfUnit[unit] ?? 1e-3;
  for (const scene of document.getRoot().listScenes()) {
    // A turn of -90° about X (common practice, no published source).
    const holder = document
      .createNode('')
      .setScale([scale, scale, scale])
      .setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
    for (const child of scene.listChildren()) holder.addChild(child);
    scene.addChild(holder);
  }
  return { document, missing: [], units: `${unit}, Z up` };
}

/** The library calls objects by their numbers, puts the number of a group before the names of materials, and has one where none is said. */
function nameAsSaid(document: ModelDocument['document'], xml: string): void {
  const names = new Map<string, string>();
  for (const [tag] of xml.matchAll(/<object\b[^>]*>/g)) {
    const [, id] = /\bid="(\d+)"/.exec(tag) ?? [];
    const [, name] = /\bname="([^"]*)"/.exec(tag) ?? [];
    if (id && name) names.set(id, plainText(name));
  }
  const root = document.getRoot();
  for (const property of [...root.listNodes(), ...root.listMeshes()]) {
    const [, id = ''] = /^Object_(\d+)/.exec(property.getName()) ?? [];
    const name = names.get(id);
    if (name !== undefined) property.setName(name);
  }
  for (const material of root.listMaterials()) {
    // What the file calls something has its number before it: this one is the library's own.
    if (material.getName() === 'DefaultMaterial') {
      material.dispose();
      continue;
    }
    material.setName(material.getName().replace(/^id\d+_/, ''));
    // Colours are sRGB in this format (3MF Core Specification, 5.1), and the library leaves them so.
    const [red, green, blue, alpha] = material.getBaseColorFactor();
    material.setBaseColorFactor([toLight(red), toLight(green), toLight(blue), alpha]);
  }
}

const entities: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };

function plainText(xml: string): string {
  return xml.replace(/&(amp|lt|gt|quot|apos);/g, (_, name: string) => entities[name] ?? '');
}
