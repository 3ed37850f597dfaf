import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { glb, heron, lantern } from '../demo/models.ts';
import { sign } from '../demo/pictures.ts';
import type { Folder, ListedAsset, MapScene } from '../contract/assets.ts';
import type { Family } from '../contract/families.ts';
import type { FreshPart, LexiconState, Proposal } from '../contract/names.ts';
import type { Trial } from '../contract/recipes.ts';
import type { MissingLink, References } from '../contract/references.ts';
import type { Job } from '../contract/work.ts';
import { TestHouse } from './support/worvel.ts';

describe('The library', () => {
  const house = new TestHouse();
  let url: string;
  const put = (path: string, bytes: Uint8Array | string): void => {
    const file = house.path('game', path);
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, bytes);
  };
  const get = async <Answer>(
    path: string,
    query: Record<string, string> = {},
    build = '1',
  ): Promise<Answer> => {
    const answer = await fetch(
      `${url}/api/${path}?${new URLSearchParams({ channel: '1', build, ...query })}`,
    );
    return (await answer.json()) as Answer;
  };
  const send = async <Answer>(path: string, body: unknown, method = 'POST'): Promise<Answer> =>
    (await (await fetch(`${url}/api/${path}`, { method, body: JSON.stringify(body) })).json()) as Answer;
  /** Saves them over those that are there. */
  const saveRecipes = async (recipes: readonly unknown[]): Promise<{ job: number }> => {
    const { revision } = await get<{ revision: string }>('titles/1/recipes');
    return send<{ job: number }>('titles/1/recipes', { recipes, revision }, 'PUT');
  };
  const found = async (text: string, more: Record<string, string> = {}, build = '1'): Promise<string[]> =>
    (await get<{ assets: ListedAsset[] }>('assets', { text, ...more }, build)).assets.map(({ path }) => path);

  before(async () => {
    await house.open();
    for (const level of [0, 1, 2])
      put(
        `models/lamps/lum_pier_l${level}.glb`,
        await glb('lum_pier', lantern(20 - level * 6, 0.7, 3, undefined as never)),
      );
    put('models/birds/gru.glb', await heron(1, 10, 2));
    put('textures/lamps/lum_pier_col.png', await sign('a', 64, [90, 60, 30], 'png'));
    put('textures/lamps/lum_pier_nrm.png', await sign('b', 32, [128, 128, 255], 'png'));
    put('definitions/item_1.ini', '[item]\nmodel=models/lamps/lum_pier\nicon=icons/lamp-sign.png\n');
    put('icons/lamp_sign.png', await sign('c', 32, [9, 9, 9], 'png'));
    put('text/en/say.json', '{"a": "The heron sleeps."}');
    put('text/de/say.json', '{"a": "Der Reiher schläft."}');
    put('maps/one.csv', 'what,x,y,z\nlum_pier,100,200,300\nlost_thing,1,2,3\nlum_pier,a,2,3\n');
    url = await house.serve(house.port);
    await house.index(house.path('game'), 'Shelved', '1');
  });
  after(() => house.close());

  it('lists folders with counts by kind, size and change, and assets in any order', async () => {
    const root = await get<Folder>('folder');
    expect(root.counts).to.deep.include({ files: 11, fresh: 0, changed: 0, skeletons: 1 });
    expect(root.folders.find(({ name }) => name === 'models')?.counts.kinds).to.deep.equal({ model: 4 });
    const lamps = await get<Folder>('folder', { path: 'models/lamps', sort: 'triangles', down: '1' });
    expect(lamps.assets.map(({ path }) => path.at(-5))).to.deep.equal(['0', '1', '2']);
    expect(lamps.assets[0]?.figures.triangles).to.be.greaterThan(
      lamps.assets[1]?.figures.triangles ?? Infinity,
    );
    expect(lamps.assets[0]).to.include({ firstSeen: '1', change: null });
    const page = await get<Folder>('folder', { path: 'models/lamps', offset: '1', limit: '1' });
    expect([page.total, page.assets.length, page.assets[0]?.path]).to.deep.equal([
      3,
      1,
      'models/lamps/lum_pier_l1.glb',
    ]);
    expect(await get('folder', { path: 'nowhere' })).to.deep.equal({
      error: 'The build 1 has no folder nowhere.',
    });
  });

  it('searches by figures in any order, by roles of names, and in texts', async () => {
    expect((await found('kind:picture', { sort: 'width', down: '1' }))[0]).to.equal(
      'textures/lamps/lum_pier_col.png',
    );
    expect(await found('lod:0')).to.deep.equal(['models/lamps/lum_pier_l0.glb']);
    expect(await found('texture:normal')).to.deep.equal(['textures/lamps/lum_pier_nrm.png']);
    expect(await found('pier -lod:0,1 kind:model')).to.deep.equal(['models/lamps/lum_pier_l2.glb']);
    expect(await found('text:reiher')).to.deep.equal(['text/de/say.json']);
    expect(await found('text:"heron sleeps"')).to.deep.equal(['text/en/say.json']);
    expect(await found('say -text:heron')).to.deep.equal(['text/de/say.json']);
    expect(await get('assets', { text: 'x lod:77x' })).to.deep.include({ at: 6, length: 3 });
  });

  it('proposes a lexicon from the data; what is accepted is found by its public name', async () => {
    const proposals = await get<Proposal[]>('names/proposals');
    expect(proposals.find(({ part }) => part === 'l#')).to.include({ role: 'LOD' });
    expect(proposals.find(({ part }) => part === 'de')).to.include({ role: 'language', meaning: 'German' });
    expect(await found('heron')).to.deep.equal([]);
    const entry = { part: 'gru', role: 'code name', meaning: 'heron', saidBy: 'Ada', sinceBuild: '1' };
    const state = await send<LexiconState>('titles/1/lexicon', { put: [entry], refuse: ['say'] });
    expect(state.entries).to.deep.equal([entry]);
    expect(await found('heron')).to.deep.equal(['models/birds/gru.glb']);
    const [hit] = (await get<{ assets: { why: string }[] }>('assets', { text: 'her' })).assets;
    expect(hit?.why).to.equal('“gru” is heron');
    expect((await get<Proposal[]>('names/proposals')).map(({ part }) => part)).not.to.include.members([
      'say',
    ]);
    expect(await send('titles/1/lexicon', { drop: ['gru'], revision: state.revision - 1 })).to.have.property(
      'error',
    );
    expect(await found('heron')).to.have.length(1);
  });

  it('goes out and comes in as CSV and JSON, whole or not at all, by the command too', async () => {
    const { output } = await house.run('lexicon', 'export', '--title', 'Shelved');
    expect(output).to.equal('part,role,meaning,said by,since build\r\ngru,code name,heron,Ada,1\r\n');
    const file = house.path('names.json');
    writeFileSync(file, JSON.stringify([{ part: 'lum', role: 'code name', meaning: 'lantern' }]));
    expect((await house.run('lexicon', 'import', file, '--title', 'Shelved')).code).to.equal(0);
    // What another process changed the server knows a fifth of a second later.
    await sleep(300);
    expect(await found('lantern kind:model')).to.have.length(3);
    const bad = await send('titles/1/lexicon/file', {
      text: 'part,role,meaning\nx,code name,y\nz,nothing,w\n',
    });
    expect((bad as { error: string }).error).to.match(/^The lexicon was not read: line 3: role/);
    expect(await found('y')).to.deep.equal(await found('y -ext:nothing'));
    writeFileSync(file, '[');
    const { code, errors } = await house.run('lexicon', 'import', file, '--title', 'Shelved');
    expect([code, errors.includes('names.json was not read')]).to.deep.equal([1, true]);
  });

  it('follows what files name, guesses said as such, and what is missing gets candidates', async () => {
    const item = await get<References>('references', { path: 'definitions/item_1.ini' });
    expect(item.needs.map(({ path, rule }) => [path, rule])).to.deep.equal([
      ['models/lamps/lum_pier_l0.glb', 'extension'],
    ]);
    expect(item.missing.map(({ text }) => text)).to.deep.equal(['icons/lamp-sign.png']);
    const lamp = await get<References>('references', { path: 'models/lamps/lum_pier_l0.glb' });
    expect(lamp.neededBy.map(({ path }) => path)).to.deep.equal(['definitions/item_1.ini']);
    const { links } = await get<{ links: MissingLink[] }>('references/missing');
    expect(links[0]?.candidates[0]).to.deep.include({
      path: 'icons/lamp_sign.png',
      reason: 'the same name, written otherwise',
    });
    await send('references/accept', {
      channel: 1,
      links: [{ from: 'definitions/item_1.ini', text: 'icons/lamp-sign.png', target: 'icons/lamp_sign.png' }],
    });
    expect((await get<References>('references', { path: 'definitions/item_1.ini' })).missing).to.deep.equal(
      [],
    );
    const unnamed = await get<{ assets: { path: string }[] }>('references/unnamed', { kind: 'model' });
    expect(unnamed.assets.map(({ path }) => path)).to.deep.equal(['models/birds/gru.glb']);
  });

  it('gathers families, says why, and keeps corrections', async () => {
    const path = 'models/lamps/lum_pier_l1.glb';
    const family = await get<Family>('family', { path });
    expect(family.members.map((member) => member.path)).to.have.members([
      ...[0, 1, 2].map((level) => `models/lamps/lum_pier_l${level}.glb`),
      'textures/lamps/lum_pier_col.png',
      'textures/lamps/lum_pier_nrm.png',
      'definitions/item_1.ini',
    ]);
    expect(family.members.find(({ isFinest }) => isFinest)?.path).to.equal('models/lamps/lum_pier_l0.glb');
    expect(family.members.find((member) => member.textureRole === 'normal')).to.include({
      colourSpace: 'linear',
    });
    expect(family.members.every(({ reasons }) => reasons.length > 0)).to.equal(true);
    expect(family.meaning).to.equal('lantern');
    await send('family/correct', { channel: 1, paths: ['textures/lamps/lum_pier_nrm.png'], with: null });
    await send('family/correct', { channel: 1, paths: ['icons/lamp_sign.png'], with: path });
    const now = (await get<Family>('family', { path })).members.map((member) => member.path);
    expect(now).to.include('icons/lamp_sign.png').and.not.to.include('textures/lamps/lum_pier_nrm.png');
  });

  it('reads placement tables by a recipe that is tried first, and keeps it with the title', async () => {
    const recipe = {
      name: 'Things',
      files: '*.csv',
      form: 'csv',
      model: 'what',
      position: ['x', 'y', 'z'],
      metresPerUnit: 0.01,
      up: 'Z',
    };
    const trial = await send<Trial>('recipes/try', { channel: 1, build: '1', recipe });
    expect(trial).to.include({ rows: 3, placements: 2, fileCount: 1 });
    expect(trial.faults).to.deep.equal(['row 3: position: “a” is no number']);
    expect(trial.first[0]?.position).to.deep.equal([1, 3, -2]);
    expect(trial.models).to.deep.equal([
      { model: 'lum_pier', path: 'models/lamps/lum_pier_l0.glb' },
      { model: 'lost_thing', path: null },
    ]);
    const wrong = await send<Trial>('recipes/try', {
      channel: 1,
      build: '1',
      recipe: { ...recipe, files: '*.none' },
    });
    expect(wrong.error).to.equal('No file of this build fits *.none.');
    expect(
      await send('titles/1/recipes', { recipes: [{ ...recipe, position: 'x' }], revision: '' }, 'PUT'),
    ).to.have.property('error');
    const { job } = await saveRecipes([recipe]);
    await finished(job);
    expect(await found('placements:2')).to.deep.equal(['maps/one.csv']);
    const scene = await get<MapScene>('scene', { path: 'maps/one.csv' });
    expect(scene.placements).to.have.length(2);
    expect(scene.models.lum_pier).to.equal('models/lamps/lum_pier_l0.glb');
    const needs = await get<References>('references', { path: 'maps/one.csv' });
    expect(needs.needs.map(({ path }) => path)).to.deep.equal(['models/lamps/lum_pier_l0.glb']);
  });

  it('keeps names, links, families and recipes for the next build, and tells parts that are new', async () => {
    put('models/birds/gru_crest.glb', await heron(1.2, 10, 2));
    put('maps/two.csv', 'what,x,y,z\nlum_pier,100,200,300\n');
    rmSync(house.path('game', 'textures', 'lamps', 'lum_pier_col.png'));
    await house.index(house.path('game'), 'Shelved', '2');
    expect((await get<FreshPart[]>('names/fresh', {}, '2')).map(({ part }) => part)).to.deep.equal([
      'crest',
      'two',
    ]);
    expect(await found('heron', {}, '2')).to.deep.equal([
      'models/birds/gru.glb',
      'models/birds/gru_crest.glb',
    ]);
    expect(
      (await get<References>('references', { path: 'definitions/item_1.ini' }, '2')).missing,
    ).to.deep.equal([]);
    const family = await get<Family>('family', { path: 'models/lamps/lum_pier_l0.glb' }, '2');
    expect(family.members.map(({ path }) => path)).to.include('icons/lamp_sign.png');
    expect(await found('placements:>0', {}, '2')).to.deep.equal(['maps/one.csv', 'maps/two.csv']);
    expect(await found('change:new', {}, '2')).to.deep.equal(['maps/two.csv', 'models/birds/gru_crest.glb']);
    const root = await get<Folder>('folder', {}, '2');
    expect(root.counts).to.include({ fresh: 2, changed: 0 });
  });

  it('is what a table says no more where its recipe is gone', async () => {
    const { job } = await saveRecipes([]);
    await finished(job);
    expect(await found('kind:map', {}, '2')).to.deep.equal([]);
    expect(await found('kind:text ext:csv', {}, '2')).to.deep.equal(['maps/one.csv', 'maps/two.csv']);
  });

  it('collects by path, by search and by folder, and copies paths', async () => {
    const collect = (body: object): Promise<unknown> =>
      send('hauls/collect', { channel: 1, build: '2', ...body });
    expect(await collect({ paths: ['models/birds/gru.glb'] })).to.deep.equal({
      haul: 'First haul',
      added: 1,
      total: 1,
    });
    expect(await collect({ text: 'heron' })).to.deep.equal({ haul: 'First haul', added: 1, total: 2 });
    expect(await collect({ folder: 'models/lamps' })).to.deep.equal({
      haul: 'First haul',
      added: 3,
      total: 5,
    });
    const [haul] = await get<{ id: number; bytes: number }[]>('hauls');
    const { assets } = await get<{ assets: { path: string }[] }>(`hauls/${haul!.id}/assets`);
    expect(assets.map(({ path }) => path)[0]).to.equal('models/birds/gru.glb');
    expect(haul!.bytes).to.be.greaterThan(1000);
    await send(`hauls/${haul!.id}/uncollect`, { paths: ['models/birds/gru.glb'] });
    expect(await send(`hauls/${haul!.id}/uncollect`, { paths: null })).to.include({ assets: 0 });
    expect(await get('paths', { folder: 'text' }, '2')).to.deep.equal({
      paths: ['text/de/say.json', 'text/en/say.json'],
      isCut: false,
    });
    expect(await get('paths', { text: 'heron' }, '2'))
      .to.have.property('paths')
      .with.length(2);
  });

  it('keeps bookmarks', async () => {
    const made = await send<{ id: number }>('bookmarks', {
      channel: 1,
      name: 'birds',
      place: 'path=models/birds',
    });
    expect(await get('bookmarks')).to.deep.equal([
      { id: made.id, name: 'birds', place: 'path=models/birds' },
    ]);
    await fetch(`${url}/api/bookmarks/${made.id}`, { method: 'DELETE' });
    expect(await get('bookmarks')).to.deep.equal([]);
    expect(await send('bookmarks', { channel: 1, name: ' ', place: '' })).to.have.property('error');
  });

  async function finished(id: number): Promise<void> {
    for (let round = 0; round < 300; round++) {
      const job = (await (await fetch(`${url}/api/work/${id}`)).json()) as Job;
      if (job.state === 'done') return;
      if (job.state === 'failed') throw new Error(job.error ?? 'it failed');
      await sleep(50);
    }
    throw new Error(`the job ${id} did not end; its data are in ${join(house.data)}`);
  }
});
