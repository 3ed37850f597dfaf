import { NodeIO } from '@gltf-transform/core';
import { expect } from 'chai';
import { mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { BoxGeometry } from 'three';
import { getJson, type Connection } from '../cli/connection.ts';
import { haulPlanSchema, haulRecordSchema, haulRunSchema, type HaulRun } from '../contract/hauls.ts';
import { listTitles } from '../server/acquire/builds/builds.ts';
import { body, figure } from './support/figures.ts';
import { made } from './support/made-model.ts';
import { lookAtStl } from './support/solids.ts';
import { TestHouse } from './support/worvel.ts';

/** What is mended on the way out, as the job does it: families in one file, clips on another skeleton, pieces for a printer. */
describe('Hauls that mend', () => {
  const house = new TestHouse();
  let channel = 0;
  let application: Connection;
  before(async () => {
    await house.open();
    const build = house.path('1');
    const io = new NodeIO();
    for (const folder of ['birds', 'clips', 'boats']) mkdirSync(join(build, folder), { recursive: true });
    const write = async (path: string, document: Parameters<NodeIO['writeBinary']>[0]): Promise<void> =>
      writeFileSync(join(build, path), await io.writeBinary(document));
    await write('birds/heron_upper.glb', figure(body, { only: ['head', 'arm_l'], clip: false }));
    await write(
      'birds/heron_lower.glb',
      figure(body, { suffix: '.001', only: ['hips', 'hand_l'], clip: false }),
    );
    const clip = figure(body);
    for (const node of clip.getRoot().listNodes()) node.setMesh(null).setSkin(null);
    for (const mesh of clip.getRoot().listMeshes()) mesh.dispose();
    await write('clips/wave.glb', clip);
    await write('birds/giant.glb', figure(body, { scale: 2, clip: false }));
    writeFileSync(join(build, 'boats', 'boat.glb'), await made(undefined, new BoxGeometry(4.5, 1, 1)));
    await house.index(build, 'Herons', '1');
    const [title] = await listTitles(house.pool);
    channel = title?.channels[0]?.id ?? 0;
    application = await house.connection();
  });
  after(() => house.close());

  const request = (settings: object, paths: readonly string[]) => ({
    ...{ channel, name: 'Mended', settings },
    assets: paths.map((path) => ({ path, build: '1' })),
  });
  const run = async (body: object, address = 'hauls/run'): Promise<HaulRun> => {
    const started = (await getJson(application, address, { body })) as { run: number; job: number };
    await application.follow((await getJson(application, `work/${started.job}`)) as never, () => undefined);
    return haulRunSchema.parse(await getJson(application, `hauls/runs/${started.run}`));
  };
  const sentences = async ({ id }: HaulRun): Promise<string> => {
    const { results } = (await getJson(application, `hauls/runs/${id}/results`)) as {
      results: { sentence: string }[];
    };
    return results.map(({ sentence }) => sentence).join('\n');
  };
  const filesIn = (folder: string): string[] =>
    readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1))
      .sort();

  it('put the models of a family into one file on one skeleton, and do it again byte for byte', async () => {
    const settings = { mend: { together: 'families in one', skeletons: 'joined' } };
    const asked = request(settings, ['birds/heron_upper.glb', 'birds/heron_lower.glb', 'birds/giant.glb']);
    const { files } = haulPlanSchema.parse(await getJson(application, 'hauls/plan', { body: asked }));
    expect(files.map(({ target }) => target)).to.deep.equal(['birds/giant.glb', 'birds/heron_lower.glb']);
    const folder = house.path('one');
    const done = await run({ ...asked, folder });
    expect(done).to.include({ state: 'done', same: 2, failed: 0 });
    const said = await sentences(done);
    expect(said).to.contain('2 models put together.').and.to.contain('5 doubles of bones joined.');
    const document = await new NodeIO().read(join(folder, 'birds', 'heron_lower.glb'));
    expect(document.getRoot().listMeshes()).to.have.length(2);
    expect(document.getRoot().listSkins()).to.have.length(1);
    const record = haulRecordSchema.parse(JSON.parse(readFileSync(join(folder, 'haul.json'), 'utf8')));
    expect(record.sources.map(({ path }) => path)).to.have.members([
      ...['birds/giant.glb', 'birds/heron_lower.glb', 'birds/heron_upper.glb'],
    ]);
    const again = house.path('one again');
    await run({ record, folder: again }, 'hauls/again');
    for (const name of filesIn(folder))
      expect(readFileSync(join(again, name)).equals(readFileSync(join(folder, name))), name).to.equal(true);
  });

  it('write clips with a picture of their poses, at an even rate, on another model’s skeleton', async () => {
    const folder = house.path('clips');
    const settings = { clips: { rate: 30, onto: 'birds/giant.glb' }, along: { needs: false } };
    const done = await run({ ...request(settings, ['clips/wave.glb']), folder });
    expect(done).to.include({ state: 'done', same: 1, failed: 0 });
    expect(filesIn(folder)).to.deep.equal([
      ...['clips/wave.glb', 'clips/wave.pose.png', 'haul.html', 'haul.json'],
    ]);
    const { channels = 0, height = 0 } = await sharp(join(folder, 'clips', 'wave.pose.png')).metadata();
    expect([channels, height]).to.deep.equal([4, 320]);
    const document = await new NodeIO().read(join(folder, 'clips', 'wave.glb'));
    const [animation] = document.getRoot().listAnimations();
    expect(animation?.listSamplers()[0]?.getInput()?.getCount()).to.equal(31);
    const hips = document
      .getRoot()
      .listNodes()
      .find((node) => node.getName() === 'hips');
    // Of the giant: twice as high.
    expect(hips?.getTranslation()[1]).to.be.closeTo(2, 1e-6);
    expect(await sentences(done)).to.contain('places brought to 2.00 of what they were');
    const page = readFileSync(join(folder, 'haul.html'), 'utf8');
    expect(page).to.contain('<img src="clips/wave.pose.png" alt="wave"');
  });

  it('bring models as people have set them up along: parts left out, props hung, layers made one clip', async () => {
    const setUp = {
      leftOut: ['shape'],
      props: [{ path: 'boats/boat.glb', on: 'hand_l', place: [0, 0.5, 0], scale: 2 }],
      layers: [{ path: 'clips/wave.glb', clip: 'wave', moves: ['rotation'], mask: { branches: ['spine'] } }],
      moved: [{ part: 'gone', place: [1, 0, 0] }],
    };
    await getJson(application, 'arrangements', {
      method: 'PUT',
      body: { channel, path: 'birds/giant.glb', name: 'With a boat', setUp },
    });
    const folder = house.path('arranged');
    const settings = { along: { needs: false, arrangements: true } };
    const done = await run({ ...request(settings, ['birds/giant.glb']), folder });
    expect(done).to.include({ state: 'done', same: 2, failed: 0 });
    expect(filesIn(folder)).to.deep.equal([
      ...['birds/giant With a boat.glb', 'birds/giant.glb', 'haul.html', 'haul.json'],
    ]);
    const said = await sentences(done);
    expect(said).to.contain('1 part left out.').and.to.contain('hung on “hand_l”.');
    expect(said).to.contain('1 layer made one clip, “With a boat”, of 1.00 s.');
    expect(said).to.contain('Not there any more: “gone”.');
    const document = await new NodeIO().read(join(folder, 'birds', 'giant With a boat.glb'));
    const [mesh, ...others] = document.getRoot().listMeshes();
    expect([mesh?.getName(), others.length]).to.deep.equal(['barrel', 0]);
    const holder = document
      .getRoot()
      .listNodes()
      .find((node) => node.getName() === 'boat');
    expect(holder?.getParentNode()?.getName()).to.equal('hand_l');
    expect(holder?.getScale()).to.deep.equal([2, 2, 2]);
    const [clip] = document.getRoot().listAnimations();
    const moved = clip?.listChannels().map((one) => [one.getTargetNode()?.getName(), one.getTargetPath()]);
    expect(moved).to.deep.equal(['spine', 'head', 'arm_l', 'hand_l'].map((bone) => [bone, 'rotation']));
    // The record has the set-up: done again, it is the same, whatever was changed meanwhile.
    await getJson(application, 'arrangements', {
      method: 'PUT',
      body: { channel, path: 'birds/giant.glb', name: 'With a boat', setUp: { leftOut: ['shape'] } },
    });
    const record = haulRecordSchema.parse(JSON.parse(readFileSync(join(folder, 'haul.json'), 'utf8')));
    const again = house.path('arranged again');
    await run({ record, folder: again }, 'hauls/again');
    for (const name of filesIn(folder))
      expect(readFileSync(join(again, name)).equals(readFileSync(join(folder, name))), name).to.equal(true);
  });

  it('say what is wrong with a skeleton that is not there, and write the rest', async () => {
    const folder = house.path('no skeleton');
    const settings = { clips: { onto: 'birds/gone.glb' } };
    const done = await run({ ...request(settings, ['clips/wave.glb', 'birds/giant.glb']), folder });
    expect(done).to.include({ state: 'done', same: 1, failed: 1 });
    expect(await sentences(done)).to.contain('Birds/gone.glb is not there.');
  });

  it('cut a model for a printer into pieces that are files of their own', async () => {
    const folder = house.path('pieces');
    const settings = {
      models: { as: 'stl', unit: 'millimetres', up: 'Z' },
      print: { solid: 'one solid', sizeMm: '450', bedMm: '120' },
    };
    const done = await run({ ...request(settings, ['boats/boat.glb']), folder });
    expect(done).to.include({ state: 'done', same: 1, failed: 0 });
    const pieces = filesIn(folder).filter((name) => name.includes('.pieces/'));
    expect(pieces).to.deep.equal([1, 2, 3, 4].map((number) => `boats/boat.pieces/piece-${number}.stl`));
    for (const name of pieces) {
      const piece = lookAtStl(readFileSync(join(folder, name)));
      expect(piece.openEdges).to.equal(0);
      expect(Math.max(...piece.size)).to.be.at.most(120.01);
    }
    expect(await sentences(done)).to.contain('4 pieces for a bed of 120 × 120 × 120 mm');
  });
});
