import { expect } from 'chai';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { sheetDocument } from '../bench/look/made-scenes.ts';
import { ReaderPool } from '../server/decode/reader-pool.ts';
import { ReaderProcesses } from '../server/decode/reader-processes.ts';
import { sisterMaker } from '../server/hauls/put-back/make-sister.ts';
import { putBack } from '../server/hauls/put-back/put-back.ts';

/** Triangles of a GLB, as the library for it counts them. */
async function trianglesOf(file: string): Promise<number> {
  const document = await new WebIO().readBinary(new Uint8Array(readFileSync(file)));
  return document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives())
    .reduce((sum, primitive) => sum + (primitive.getIndices()?.getCount() ?? 0) / 3, 0);
}

describe('Levels and sizes that are made anew when files are put back', () => {
  const root = mkdtempSync(join(tmpdir(), 'worvel-put-back-'));
  const at = (...parts: string[]): string => join(root, ...parts);
  const processes = new ReaderProcesses(0);
  const readers = new ReaderPool(processes, { readers: 1 });
  after(() => {
    readers.close();
    processes.close();
    rmSync(root, { recursive: true, force: true });
  });
  const picture = (width: number, height: number, background: string): Promise<Buffer> =>
    sharp({ create: { width, height, channels: 3, background } })
      .png()
      .toBuffer();
  const model = async (triangles: number): Promise<Uint8Array> =>
    new WebIO().writeBinary(sheetDocument(triangles));

  it('have as many triangles and pixels as before, and others stay with a reason', async () => {
    for (const folder of ['game', 'changed', 'work']) mkdirSync(at(folder));
    writeFileSync(at('game', 'pier_lod0.glb'), await model(2000));
    writeFileSync(at('game', 'pier_lod1.glb'), await model(400));
    writeFileSync(at('game', 'sky.png'), await picture(256, 128, '#335577'));
    writeFileSync(at('game', 'sky_small.png'), await picture(64, 32, '#335577'));
    writeFileSync(at('game', 'sky_icon.png'), await picture(32, 32, '#335577'));
    writeFileSync(
      at('game', 'sky_tiny.gif'),
      await sharp(await picture(16, 8, '#335577'))
        .gif()
        .toBuffer(),
    );
    writeFileSync(at('changed', 'pier_lod0.glb'), await model(6000));
    writeFileSync(at('changed', 'sky.png'), await picture(512, 256, '#cc4422'));
    const { files, sisters, copy } = await putBack(at('game'), at('changed'), at('copy'), {
      lookAt: async () => null,
      makeSister: sisterMaker(readers, at('work')),
    });
    expect(files.map(({ name }) => name).sort()).to.deep.equal([
      ...['pier_lod0.glb', 'pier_lod1.glb', 'sky.png', 'sky_small.png'],
    ]);
    expect(sisters.map(({ name, why }) => `${name}: ${why}`)).to.deep.equal([
      'sky_icon.png: it has 32 × 32 pixels, and the changed one has other proportions',
      'sky_tiny.gif: pictures are not written as gif',
    ]);
    const [before, now] = [
      await trianglesOf(at('game', 'pier_lod1.glb')),
      await trianglesOf(join(copy, 'pier_lod1.glb')),
    ];
    expect(now).to.be.at.most(before);
    expect(now).to.be.greaterThan(before / 2);
    const small = sharp(join(copy, 'sky_small.png'));
    expect(await small.metadata()).to.include({ width: 64, height: 32, format: 'png' });
    const [red = 0, green = 0, blue = 0] = await small.raw().toBuffer();
    expect([red, green, blue]).to.deep.equal([0xcc, 0x44, 0x22]);
  }).timeout(60_000);
});
