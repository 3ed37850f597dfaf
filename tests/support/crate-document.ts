import { Document, type Material, type Primitive } from '@gltf-transform/core';
import { KHRMaterialsVariants } from '@gltf-transform/extensions';
import { BoxGeometry } from 'three';

/** A crate with a lid in two variants, in a material without a picture, and with a set of materials that the file has. */
export function crateDocument(): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const variants = document.createExtension(KHRMaterialsVariants);
  const crate = document.createMaterial('crate').setMetallicFactor(0).setRoughnessFactor(1);
  const iron = document.createMaterial('iron').setMetallicFactor(0).setBaseColorFactor([0, 0, 0, 1]);
  const scene = document.createScene();
  const part = (name: string, material: Material, height: number, above: number): Primitive => {
    const geometry = new BoxGeometry(1, height, 1).translate(0, above, 0);
    const accessor = (type: 'VEC2' | 'VEC3', attribute: string) =>
      document
        .createAccessor()
        .setType(type)
        .setArray(new Float32Array(geometry.getAttribute(attribute).array))
        .setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', 'position'))
      .setAttribute('NORMAL', accessor('VEC3', 'normal'))
      .setAttribute('TEXCOORD_0', accessor('VEC2', 'uv'))
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Uint16Array(geometry.getIndex()?.array ?? []))
          .setBuffer(buffer),
      )
      .setMaterial(material);
    scene.addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)));
    return primitive;
  };
  const body = part('body', crate, 1, 0);
  const ironSet = variants.createVariant('bound in iron');
  body.setExtension(
    'KHR_materials_variants',
    variants
      .createMappingList()
      .addMapping(variants.createMapping().setMaterial(iron).addVariant(ironSet))
      .addMapping(
        variants.createMapping().setMaterial(crate).addVariant(variants.createVariant('plain wood')),
      ),
  );
  part('lid_var_a', crate, 0.2, 0.7);
  part('lid_var_b', crate, 0.6, 0.9);
  return document;
}
