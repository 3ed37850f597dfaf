import { Document, NodeIO } from '@gltf-transform/core';
import { expect } from 'chai';
import { existsSync, readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three';
import type { PrintSettings } from '../../../../contract/haul-settings.ts';
import { faultyModels } from '../../../../tests/support/faulty-models.ts';
import { lookAtStl, type LookedAtSolid } from '../../../../tests/support/solids.ts';
import { fileOf, writeBytes } from '../../../../tests/support/write.ts';
import type { Written } from '../../writing.ts';

/** A GLB of shapes made by an independent library, each in a part of its own. */
async function glbOf(...shapes: BufferGeometry[]): Promise<Uint8Array> {
  const document = new Document();
  const scene = document.createScene();
  const buffer = document.createBuffer();
  shapes.forEach((shape, at) => {
    const place = shape.getAttribute('position').array as Float32Array;
    const primitive = document
      .createPrimitive()
      .setAttribute(
        'POSITION',
        document.createAccessor().setType('VEC3').setArray(new Float32Array(place)).setBuffer(buffer),
      )
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(Uint32Array.from(shape.getIndex()?.array ?? []))
          .setBuffer(buffer),
      );
    scene.addChild(document.createNode(`part ${at}`).setMesh(document.createMesh().addPrimitive(primitive)));
  });
  return new NodeIO().writeBinary(document);
}

/** Triangles from one number up to another left out. */
function without(shape: BufferGeometry, from: number, to: number): BufferGeometry {
  const index = [...(shape.getIndex()?.array ?? [])];
  index.splice(from * 3, (to - from) * 3);
  return shape.setIndex(index);
}

const print = async (
  bytes: Uint8Array,
  settings: Partial<PrintSettings>,
  as: 'stl' | '3mf' = 'stl',
  path = 'thing.glb',
) =>
  writeBytes(bytes, path, {
    settings: {
      models: { as, unit: 'millimetres', up: 'Z' },
      print: { solid: 'one solid', ...settings },
    },
  });
const piecesOf = ({ files }: Written): LookedAtSolid[] =>
  files.filter(({ ending }) => ending.startsWith('.pieces/')).map(({ bytes }) => lookAtStl(bytes));
const solidOf = (written: Written): LookedAtSolid => lookAtStl(fileOf(written, '.stl'));
const isClosed = ({ openEdges, volume }: LookedAtSolid): boolean => openEdges === 0 && volume > 0;
/** 0.1 %, as asked of what is cut. */
const volumeTolerance = 0.001;

describe('Models for printing', () => {
  it('of 450 mm come to four pieces on a bed of 120 (common practice), which are the whole again', async () => {
    const bar = await glbOf(new BoxGeometry(4.5, 1, 1));
    const written = await print(bar, { sizeMm: '450', bedMm: '120' });
    const pieces = piecesOf(written);
    expect(pieces).to.have.length(4);
    for (const piece of pieces) {
      expect(isClosed(piece)).to.equal(true);
      expect(piece.euler).to.equal(2);
      for (const length of piece.size) expect(length).to.be.at.most(120.01);
    }
    const sum = pieces.reduce((total, { volume }) => total + volume, 0);
    expect(sum).to.be.closeTo(450 * 100 * 100, 450 * 100 * 100 * volumeTolerance);
    expect(written.proof).to.deep.equal({ verdict: 'the same', sentence: '' });
    expect(written.notes.join('\n')).to.match(/1 shell joined to one solid of 450\.0 × 100\.0 × 100\.0 mm/);
    expect(written.notes.join('\n')).to.contain('4500.00 cm³, 5580.0 g at 1.24 g/cm³');
    const { width = 0, height = 0 } = await sharp(fileOf(written, '.pieces.png')).metadata();
    expect(Math.min(width, height)).to.be.above(300);
  });

  it('are as large as a known length says', async () => {
    const box = await glbOf(new BoxGeometry(2, 1, 0.5));
    expect(solidOf(await print(box, { sizeMm: '0.5=12.5' })).size.map((one) => Math.round(one * 10) / 10))
      .to // Z up: what was depth lies along Y.
      .deep.equal([50, 12.5, 25]);
    expect(solidOf(await print(box, {})).size[0]).to.be.closeTo(2000, 0.01);
  });

  it('lie on the side with the most room, turned where only that fits', async () => {
    const board = await glbOf(new BoxGeometry(0.05, 0.2, 0.1));
    const written = await print(board, { bedMm: '110x210x60' });
    const [piece] = written.files.filter(({ ending }) => ending === '.stl');
    const { size } = lookAtStl(piece?.bytes ?? new Uint8Array());
    expect(size.map((length) => Math.round(length))).to.deep.equal([100, 200, 50]);
  });

  it('have their holes closed, are turned outwards, and have nothing inside', async () => {
    const open = without(new SphereGeometry(0.05, 24, 16), 300, 306);
    const flipped = new BoxGeometry(0.04, 0.04, 0.04).translate(0.2, 0, 0);
    flipped.setIndex([...(flipped.getIndex()?.array ?? [])].reverse());
    const inner = new BoxGeometry(0.01, 0.01, 0.01);
    const written = await print(await glbOf(open, flipped, inner), {});
    const solid = solidOf(written);
    expect(isClosed(solid)).to.equal(true);
    // Two bodies, and the small box in the ball is gone.
    expect(solid.euler).to.equal(4);
    const ball = solidOf(await print(await glbOf(new SphereGeometry(0.05, 24, 16)), {})).volume;
    expect(solid.volume).to.be.closeTo(ball + 40 ** 3, ball * 0.01);
    expect(written.notes.join('\n')).to.contain('3 shells joined to one solid');
    expect(written.notes.join('\n')).to.contain('1 hole closed');
    expect(written.notes.join('\n')).to.contain('1 shell turned inside out');
  });

  it('join what runs through one another', async () => {
    const first = new BoxGeometry(0.1, 0.02, 0.02);
    const second = new BoxGeometry(0.02, 0.1, 0.02);
    const solid = solidOf(await print(await glbOf(first, second), {}));
    expect(isClosed(solid)).to.equal(true);
    expect(solid.euler).to.equal(2);
    const [bar, cube] = [100 * 20 * 20, 20 * 20 * 20];
    expect(solid.volume).to.be.closeTo(bar * 2 - cube, bar * volumeTolerance);
  });

  it('get walls where they are sheets', async () => {
    const sheet = without(new BoxGeometry(0.1, 0.1, 0.1), 2, 12);
    const written = await print(await glbOf(sheet), { wallMm: 2 });
    const solid = solidOf(written);
    expect(isClosed(solid)).to.equal(true);
    // 100 by 100 and a wall of 2, with its rim around.
    expect(solid.volume).to.be.within(100 * 100 * 1.7, 104 * 104 * 2.2);
    expect(written.notes.join('\n')).to.contain('1 shell without an inside made 2 mm thick');
  });

  it('say where walls are thin', async () => {
    const written = await print(await glbOf(new BoxGeometry(0.1, 0.1, 0.0005)), { wallMm: 0.8 });
    expect(written.notes.join('\n')).to.match(/% of the surface is thinner than 0\.8 mm.*0\.50 mm/);
    const thick = await print(await glbOf(new BoxGeometry(0.1, 0.1, 0.01)), { wallMm: 0.8 });
    expect(thick.notes.join('\n')).to.contain('none thinner than 0.8 mm was found, the thinnest 10.00 mm');
  });

  it('have pins in cuts and holes for them', async () => {
    const bar = await glbOf(new BoxGeometry(0.2, 0.03, 0.03));
    const plain = piecesOf(await print(bar, { bedMm: '110' }));
    const pinned = await print(bar, { bedMm: '110', pins: 'pins and holes' });
    const pieces = piecesOf(pinned);
    expect(pieces).to.have.length(2);
    expect(pieces.every(isClosed)).to.equal(true);
    const [more = 0, less = 0] = pieces
      .map(({ volume }, at) => volume - (plain[at]?.volume ?? 0))
      .sort((a, b) => b - a);
    // Two pins of 5 mm across, 4 mm of each standing out; the holes are 0.2 mm wider and deeper.
    const [pin, hole] = [Math.PI * 2.5 ** 2 * 4 * 2, Math.PI * 2.7 ** 2 * 4.2 * 2];
    expect(more).to.be.closeTo(pin, pin * 0.03);
    expect(less).to.be.closeTo(-hole, hole * 0.03);
    expect(pinned.notes.join('\n')).to.contain('with 2 pins and as many holes');
  });

  it('stand in one 3MF with its unit, a thing for each piece', async () => {
    const written = await print(await glbOf(new BoxGeometry(0.2, 0.03, 0.03)), { bedMm: '110' }, '3mf');
    const model = new TextDecoder().decode(unzipSync(fileOf(written, '.3mf'))['3D/3dmodel.model']);
    expect(model).to.contain('unit="millimeter"');
    expect(
      [...model.matchAll(/<object id="\d+" type="model" name="(piece \d)"/g)].map(([, name]) => name),
    ).to.deep.equal(['piece 1', 'piece 2']);
    expect(written.proof).to.deep.equal({ verdict: 'the same', sentence: '' });
  });

  it('are refused where nothing can be made of them', async () => {
    const box = await glbOf(new BoxGeometry(1, 1, 1));
    const refusal = (settings: Partial<PrintSettings>, bytes = box): Promise<string> =>
      print(bytes, settings).then(
        () => 'written',
        (error: unknown) => String(error),
      );
    expect(await refusal({ bedMm: '10' })).to.contain('1000000 pieces');
    expect(await refusal({ bedMm: '120', sizeMm: '0' })).to.contain('A size is above zero');
    expect(await refusal({ bedMm: '120,5' })).to.contain('A bed is one length');
    expect(await refusal({}, await glbOf(new BoxGeometry(0, 0, 0)))).to.contain('no triangles');
  });
});

describe('Open models for printing', () => {
  for (const name of faultyModels)
    it(`${name} is closed, and its pieces are the whole`, async function () {
      const file = `/usr/share/assimp/models/${name}`;
      if (!existsSync(file)) this.skip();
      const written = await print(readFileSync(file), { sizeMm: '100', bedMm: '60' }, 'stl', file);
      const [whole, pieces] = [solidOf(written), piecesOf(written)];
      for (const piece of [whole, ...pieces]) expect(isClosed(piece)).to.equal(true);
      const notes = written.notes.join('\n');
      const said = Number(/closed, ([\d.]+) cm³/.exec(notes)?.[1]);
      // Told to a hundredth.
      expect(whole.volume / 1000).to.be.closeTo(said, Math.max(0.006, said * volumeTolerance));
    });
});
