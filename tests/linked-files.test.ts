import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { WebIO } from '@gltf-transform/core';
import type { Asset } from '../contract/assets.ts';
import { sign } from '../demo/pictures.ts';
import { select } from '../server/platform/database/rows.ts';
import { pathDigest } from '../server/store/hash.ts';
import { TestHouse } from './support/worvel.ts';

/** A square with a material of another file. */
const square = `mtllib board.mtl
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl wood
f 1/1 2/2 3/3 4/4
`;

/** One way from what a file names to the file that is meant, for facts, showing and comparing. */
describe('Files that another one needs', () => {
  const house = new TestHouse();
  let url: string;
  const put = (path: string, bytes: string | Uint8Array): void => {
    mkdirSync(dirname(house.path('game', path)), { recursive: true });
    writeFileSync(house.path('game', path), bytes);
  };
  const asset = async (path: string, build: string): Promise<Asset> =>
    (await (
      await fetch(`${url}/api/asset?${new URLSearchParams({ channel: '1', build, path })}`)
    ).json()) as Asset;
  const missingOf = async (path: string, build: string): Promise<readonly string[]> => {
    const { facts } = await asset(path, build);
    return facts?.kind === 'model' ? facts.missing : ['no model'];
  };
  /** How many pictures are in the model as it is shown. */
  const shownPictures = async (path: string, build: string): Promise<number> => {
    const answer = await fetch(`${url}/api/shown/1/${build}/${path}`);
    expect(answer.status, path).to.equal(200);
    const document = await new WebIO().readBinary(new Uint8Array(await answer.arrayBuffer()));
    return document.getRoot().listTextures().length;
  };
  const accept = async (from: string, text: string, target: string): Promise<void> => {
    const answer = await fetch(`${url}/api/references/accept`, {
      method: 'POST',
      body: JSON.stringify({ channel: 1, links: [{ from, text, target }], drop: [] }),
    });
    expect(answer.status).to.equal(200);
  };

  before(async () => {
    await house.open();
    put('models/board.obj', square);
    put('models/board.mtl', 'newmtl wood\nmap_Kd ..\\art\\old\\Plank.tga\n');
    put('models/bare.obj', square.replace('board.mtl', 'lost.mtl'));
    put('textures/reeds.png', await sign('r', 32, [40, 90, 60], 'png'));
    url = await house.serve(house.port);
    await house.index(house.path('game'), 'Linked', '1');
  });
  after(() => house.close());

  it('are told as missing where nothing answers to them', async () => {
    expect(await missingOf('models/board.obj', '1')).to.have.length(1);
    expect(await shownPictures('models/board.obj', '1')).to.equal(0);
  });

  it('are there in every place once a person has linked them', async () => {
    const [missing = ''] = await missingOf('models/board.obj', '1');
    await accept('models/board.obj', missing, 'textures/reeds.png');
    expect(await missingOf('models/board.obj', '1')).to.deep.equal([]);
    expect(await shownPictures('models/board.obj', '1')).to.equal(1);
  });

  it('are found by rule in another folder, extension or case, and looked at again when they come', async () => {
    put('sources/lost.mtl', 'newmtl wood\nmap_Kd REEDS.TGA\n');
    await house.index(house.path('game'), 'Linked', '2');
    expect(await missingOf('models/bare.obj', '2')).to.deep.equal([]);
    expect(await shownPictures('models/bare.obj', '2')).to.equal(1);
    const [was, is] = [await asset('models/bare.obj', '1'), await asset('models/bare.obj', '2')];
    expect([was.hash, is.facts?.kind === 'model' && is.facts.textures]).to.deep.equal([is.hash, 1]);
  });

  it('make another reading of each that they were, for every build its own', async () => {
    const materials = async (build: string): Promise<number | null> => {
      const { facts } = await asset('models/board.obj', build);
      return facts?.kind === 'model' ? facts.textures : null;
    };
    const readings = async (): Promise<number> => {
      const rows = await select<{ format: string }>(
        house.pool,
        "SELECT format FROM readings WHERE format = 'obj' AND hash = (SELECT hash FROM asset_spans WHERE path_digest = ? LIMIT 1)",
        [pathDigest('models/board.obj')],
      );
      return rows.length;
    };
    const mtl = (text: string): void => put('models/board.mtl', `newmtl wood\n${text}`);
    mtl('Kd 1 0 0\n');
    await house.index(house.path('game'), 'Linked', '2a');
    mtl('map_Kd ../textures/reeds.png\n');
    await house.index(house.path('game'), 'Linked', '2b');
    expect([await materials('2a'), await materials('2b')]).to.deep.equal([0, 1]);
    const known = await readings();
    mtl('Kd 1 0 0\n');
    await house.index(house.path('game'), 'Linked', '2c');
    expect([await materials('2b'), await materials('2c')]).to.deep.equal([1, 0]);
    // It was not read again.
    expect(await readings()).to.equal(known);
    mtl('map_Kd ..\\art\\old\\Plank.tga\n');
  });

  it('are missing again when they go', async () => {
    rmSync(house.path('game', 'textures'), { recursive: true });
    await house.index(house.path('game'), 'Linked', '3');
    expect(await missingOf('models/board.obj', '3')).to.have.length(1);
    expect(await shownPictures('models/board.obj', '3')).to.equal(0);
    expect(await shownPictures('models/board.obj', '2')).to.equal(1);
  });
});
