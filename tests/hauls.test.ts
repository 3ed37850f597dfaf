import { expect } from 'chai';
import { execFileSync, spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Connection } from '../cli/connection.ts';
import { getJson } from '../cli/connection.ts';
import {
  haulPlanSchema,
  haulRecordSchema,
  haulRunSchema,
  haulSchema,
  type HaulRun,
} from '../contract/hauls.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { listTitles } from '../server/acquire/builds/builds.ts';
import { made } from './support/made-model.ts';
import { writeWave } from '../core/kinds/sound/write/wave.ts';
import { TestHouse } from './support/worvel.ts';

/** A tenth of a second of a falling tone. */
function bell(): Uint8Array {
  const integers = Int16Array.from({ length: 2205 }, (_, at) =>
    Math.round(8000 * Math.sin(at / (5 + at / 900))),
  );
  const told = { sampleRate: 22_050, channels: 1, frames: 2205, coding: 'PCM', bits: 16, damage: null };
  return writeWave({ ...told, samples: { integers } }, 16, { loops: [], cues: [] });
}

/** Taking out: what is planned comes out, is read again, and can be done again; what goes wrong is told. */
describe('Hauls', () => {
  const house = new TestHouse();
  let channel = 0;
  let application: Connection;
  before(async () => {
    await house.open();
    const build = house.path('1');
    for (const folder of ['lamps', 'textures', 'sounds', 'texts', 'tongues', 'Lamps2'])
      mkdirSync(join(build, folder), { recursive: true });
    const picture = (grey: number) =>
      sharp({
        create: { width: 8, height: 8, channels: 4, background: { r: grey, g: 90, b: 30, alpha: 0.5 } },
      });
    writeFileSync(join(build, 'textures', 'lamp_col.png'), await picture(200).png().toBuffer());
    writeFileSync(
      join(build, 'textures', 'lamp_col.webp'),
      await picture(90).webp({ lossless: true }).toBuffer(),
    );
    writeFileSync(join(build, 'lamps', 'lamp_l0.glb'), await made());
    writeFileSync(join(build, 'lamps', 'lamp_l1.glb'), await made());
    writeFileSync(join(build, 'lamps', 'broken.glb'), Buffer.from('glTF\u0002\0\0\0'));
    writeFileSync(join(build, 'sounds', 'bell.wav'), bell());
    writeFileSync(join(build, 'texts', 'names.json'), '{"lamp": "Pier lantern", "bell": "Bell"}');
    writeFileSync(
      join(build, 'texts', 'lamp.ini'),
      'model = ../lamps/lamp_l0.glb\npicture = ../textures/gone.png\n',
    );
    writeFileSync(join(build, 'tongues', 'ui_en.json'), '{"lamp": "Pier lantern", "tide": "Tide"}');
    writeFileSync(join(build, 'tongues', 'ui_de.json'), '{"lamp": "Stegleuchte"}');
    await house.index(build, 'Herons', '1');
    const [title] = await listTitles(house.pool);
    channel = title?.channels[0]?.id ?? 0;
    application = await house.connection();
  });
  after(() => house.close());

  const everything = [
    ...['lamps/broken.glb', 'lamps/lamp_l0.glb', 'lamps/lamp_l1.glb', 'sounds/bell.wav', 'texts/lamp.ini'],
    ...['texts/names.json', 'textures/lamp_col.png', 'textures/lamp_col.webp'],
  ];
  const request = (settings: object, paths: readonly string[] = everything) => ({
    ...{ channel, name: 'Lamps', settings },
    assets: paths.map((path) => ({ path, build: '1' })),
  });
  const plan = async (settings: object, paths?: readonly string[]) =>
    haulPlanSchema.parse(await getJson(application, 'hauls/plan', { body: request(settings, paths) }));
  const run = async (body: object, address = 'hauls/run'): Promise<HaulRun> => {
    const started = (await getJson(application, address, { body })) as { run: number; job: number };
    await application.follow((await getJson(application, `work/${started.job}`)) as never, () => undefined);
    return haulRunSchema.parse(await getJson(application, `hauls/runs/${started.run}`));
  };
  const failure = (work: Promise<unknown>): Promise<string> =>
    work.then(
      () => 'nothing',
      (error: Error) => error.message,
    );
  const filesIn = (folder: string): string[] =>
    readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1))
      .sort();

  it('plans every file with name, format and why, the finest level alone, with what is missing', async () => {
    const { files, totalFiles, missing, refused } = await plan({ sounds: { as: 'flac' } }, [
      ...everything,
      'no/such.file',
    ]);
    expect(files.map(({ target }) => target)).to.deep.equal([
      ...['lamps/broken.glb', 'lamps/lamp_l0.glb', 'sounds/bell.flac', 'texts/lamp.ini', 'texts/names.json'],
      ...['textures/lamp_col.png', 'textures/lamp_col (2).png'],
    ]);
    expect(totalFiles).to.equal(7);
    expect(files[6]).to.include({ insteadOf: 'textures/lamp_col', from: 'webp', format: 'png' });
    expect(missing.map(({ from, text }) => [from, text])).to.deep.equal([
      ['texts/lamp.ini', '../textures/gone.png'],
    ]);
    expect(refused).to.deep.equal([{ path: 'no/such.file', reason: 'it is not in this build' }]);
  });

  it('says what formats do not hold, and takes along what a chosen file needs', async () => {
    const { files, losses } = await plan({ models: { as: 'stl' } }, ['texts/lamp.ini']);
    expect(files.map(({ path, why }) => [path, why])).to.deep.equal([
      ['lamps/lamp_l0.glb', 'needed by texts/lamp.ini'],
      ['texts/lamp.ini', 'chosen'],
    ]);
    expect(losses.map(({ what }) => what)).to.include.members(['UVs', 'materials']);
    expect((await plan({ along: { needs: false } }, ['texts/lamp.ini'])).files).to.have.length(1);
  });

  it('writes what was planned, reads it again, tells what failed, and does it again byte for byte', async () => {
    const settings = { sounds: { as: 'flac' }, texts: { as: 'csv' } };
    const folder = house.path('out');
    const planned = await plan(settings);
    const done = await run({ ...request(settings), folder });
    expect(done).to.include({ state: 'done', files: 7, failed: 1, differs: 0, same: 6 });
    const expected = planned.files
      .map(({ target }) => target)
      .filter((target) => target !== 'lamps/broken.glb');
    expect(filesIn(folder)).to.deep.equal([...expected, 'haul.html', 'haul.json'].sort());
    const { results } = (await getJson(application, `hauls/runs/${done.id}/results?verdict=failed`)) as {
      results: { path: string; sentence: string }[];
    };
    expect(results[0]?.path).to.equal('lamps/broken.glb');
    expect(results[0]?.sentence).to.match(/^This GLB is cut short/);
    const record = haulRecordSchema.parse(JSON.parse(readFileSync(join(folder, 'haul.json'), 'utf8')));
    for (const file of record.files) {
      const path = join(folder, file.target);
      // Checked by programs that everybody has.
      expect(execFileSync('sha256sum', [path], { encoding: 'utf8' }).slice(0, 64)).to.equal(file.sha256);
      expect(execFileSync('b3sum', ['--no-names', path], { encoding: 'utf8' }).trim()).to.equal(file.blake3);
    }
    expect(readFileSync(join(folder, 'haul.html'), 'utf8')).to.contain('lamps/lamp_l0.glb');
    const again = house.path('again');
    await run({ record, folder: again }, 'hauls/again');
    expect(spawnSync('diff', ['-r', folder, again], { encoding: 'utf8' }).stdout).to.equal('');
  });

  it('writes texts of several languages beside one another, under a name without them', async () => {
    const paths = ['tongues/ui_de.json', 'tongues/ui_en.json', 'texts/names.json'];
    const settings = { texts: { as: 'csv', languages: 'side by side' } };
    const { files } = await plan(settings, paths);
    expect(files.map(({ target }) => target).sort()).to.deep.equal(['texts/names.csv', 'tongues/ui.csv']);
    const folder = house.path('tongues');
    const { differs, failed } = await run({ ...request(settings, paths), folder });
    expect({ differs, failed }).to.deep.equal({ differs: 0, failed: 0 });
    expect(
      readFileSync(join(folder, 'tongues', 'ui.csv'), 'utf8')
        .split('\r\n')
        .sort(),
    ).to.deep.equal([...['', 'key,de,en', 'lamp,Stegleuchte,Pier lantern', 'tide,,Tide']]);
    const again = house.path('tongues-again');
    const record: unknown = JSON.parse(readFileSync(join(folder, 'haul.json'), 'utf8'));
    await run({ record, folder: again }, 'hauls/again');
    expect(readFileSync(join(again, 'tongues', 'ui.csv'))).to.deep.equal(
      readFileSync(join(folder, 'tongues', 'ui.csv')),
    );
  });

  it('keeps a haul with the data where no folder is said, and gives it as a ZIP that unzip takes', async () => {
    const done = await run(request({}, ['textures/lamp_col.png', 'texts/names.json']));
    const url = await house.serve(house.port);
    const zip = house.path('haul.zip');
    const answer = await fetch(`${url}/api/hauls/runs/${done.id}/zip`);
    writeFileSync(zip, Buffer.from(await answer.arrayBuffer()));
    execFileSync('unzip', ['-tq', zip]);
    const listed = execFileSync('unzip', ['-Z1', zip], { encoding: 'utf8' }).trim().split('\n').sort();
    expect(listed).to.deep.equal(['haul.html', 'haul.json', 'texts/names.json', 'textures/lamp_col.png']);
    await house.stopServer();
  });

  it('goes on where it was: what was written is not written again', async () => {
    const body = { ...request({}, everything), folder: house.path('stopped') };
    const started = (await getJson(application, 'hauls/run', { body })) as { run: number; job: number };
    // As a crash in the middle leaves it: one is done, the others wait, and a part lies about.
    mkdirSync(join(body.folder, '.worvel-part'), { recursive: true });
    writeFileSync(join(body.folder, '.worvel-part', '0.part'), 'half');
    await house.pool.query(
      "UPDATE haul_files SET verdict = 'the same', sentence = 'before', files = '[]' WHERE run_id = ? AND number = 1",
      [started.run],
    );
    await application.follow((await getJson(application, `work/${started.job}`)) as never, () => undefined);
    const { results } = (await getJson(application, `hauls/runs/${started.run}/results`)) as {
      results: { path: string; sentence: string }[];
    };
    expect(results.find(({ path }) => path === 'lamps/lamp_l0.glb')?.sentence).to.equal('before');
    expect(existsSync(join(body.folder, 'lamps', 'lamp_l0.glb'))).to.equal(false);
    expect(existsSync(join(body.folder, 'textures', 'lamp_col.png'))).to.equal(true);
    expect(existsSync(join(body.folder, '.worvel-part'))).to.equal(false);
  });

  it('refuses folders that are not empty, not whole paths, part of a source, of the data, or no folders', async () => {
    const to = (folder: string): Promise<string> => failure(run({ ...request({}), folder }));
    expect(await to('somewhere')).to.equal('somewhere is no whole path: it must begin with /.');
    expect(await to(house.path('out'))).to.match(/is not empty: choose an empty folder, or a new one\.$/);
    expect(await to(house.path('1', 'new'))).to.match(
      /lies in .*, which Worvel reads: choose another folder\.$/,
    );
    expect(await to(join(house.data, 'x'))).to.match(/which Worvel reads/);
    writeFileSync(house.path('file'), '');
    expect(await to(house.path('file', 'x'))).to.match(/a part of it is a file and not a folder\.$/);
    if (process.getuid?.() !== 0) {
      mkdirSync(house.path('locked'));
      chmodSync(house.path('locked'), 0o500);
      expect(await to(house.path('locked'))).to.match(/this user may not write there\.$/);
    }
    expect(await failure(run(request({}, [])))).to.equal('There is nothing in this haul.');
    expect(await failure(run(request({}, ['gone.png'])))).to.match(
      /^Nothing would be written: gone\.png: it is not in this build\.$/,
    );
  });

  it('passes settings and records through a schema, and refuses a record whose source is another one here', async () => {
    expect(await failure(plan({ models: { as: 'dwg' } }))).to.not.equal('nothing');
    const record = JSON.parse(readFileSync(join(house.path('out'), 'haul.json'), 'utf8')) as {
      sources: { blake3: string }[];
    };
    const other = {
      ...record,
      sources: record.sources.map((source) => ({ ...source, blake3: '0'.repeat(64) })),
    };
    expect(await failure(run({ record: other, folder: house.path('never') }, 'hauls/again'))).to.match(
      /is another content here than the one that was taken out/,
    );
    expect(await failure(run({ record: { worvelHaul: 2 }, folder: '' }, 'hauls/again'))).to.not.equal(
      'nothing',
    );
  });

  it('has several hauls by name, and profiles that a team keeps', async () => {
    const first = haulSchema.parse(
      await getJson(application, 'hauls', { body: { channel, name: 'Lanterns' } }),
    );
    expect(await failure(getJson(application, 'hauls', { body: { channel, name: 'Lanterns' } }))).to.equal(
      'There is a haul named Lanterns already.',
    );
    await getJson(application, 'hauls', { body: { channel, name: 'Bells' } });
    await getJson(application, 'hauls/collect', {
      body: { channel, build: '1', folder: 'lamps', haul: first.id },
    });
    const kept = haulSchema.parse(
      await getJson(application, `hauls/${first.id}`, {
        method: 'PUT',
        body: { name: 'Old lanterns', settings: { models: { as: 'ply' } } },
      }),
    );
    expect(kept).to.include({ name: 'Old lanterns', assets: 3 });
    expect(kept.settings.models.as).to.equal('ply');
    const profiles = (await getJson(application, 'profiles', {
      method: 'PUT',
      body: { name: 'Ours', settings: kept.settings },
    })) as { name: string; isShipped: boolean }[];
    expect(profiles.find(({ name }) => name === 'Ours')?.isShipped).to.equal(false);
    const [shipped] = profiles;
    expect(
      await failure(
        getJson(application, 'profiles', { method: 'PUT', body: { name: shipped?.name, settings: {} } }),
      ),
    ).to.match(/came with the product/);
  });

  it('takes out by name, plans and lists on the command line, and converts a single file', async () => {
    const worvel = async (...args: string[]) => house.run(...args);
    const planned = await worvel(
      'haul',
      'plan',
      '--title',
      'Herons',
      '--name',
      'lamp',
      '--set',
      'models.as=obj',
      '--json',
    );
    expect(planned.errors).to.equal('');
    const { files } = haulPlanSchema.parse(JSON.parse(planned.output));
    expect(files.map(({ target }) => target)).to.include('lamps/lamp_l0.obj');
    const out = house.path('by-name');
    const written = await worvel('haul', 'run', '--title', 'Herons', '--name', 'lamp', '--out', out);
    expect(written.output).to.match(/were written to .* and read again: none differs\./);
    expect(existsSync(join(out, 'lamps', 'lamp_l0.glb'))).to.equal(true);
    const wrong = await worvel(
      'haul',
      'plan',
      '--title',
      'Herons',
      '--name',
      'lamp',
      '--set',
      'models.as=dwg',
    );
    expect(wrong.code).to.equal(2);
    expect(wrong.errors).to.match(/^models\.as: /);
    expect((await worvel('haul', 'list', '--title', 'Herons')).output).to.contain('Old lanterns: 3 assets');
    const program = join(applicationRoot, 'dist', 'node', 'cli.js');
    const convert = (...args: string[]) =>
      spawnSync(process.execPath, [program, 'convert', ...args], { encoding: 'utf8', cwd: house.root });
    const file = house.path('1', 'textures', 'lamp_col.webp');
    expect(convert(file, '--to', 'tga').stdout).to.match(
      /lamp_col\.tga {2}\d+ bytes\n {2}Read again: the same\.\n$/,
    );
    const twice = convert(file, '--to', 'tga');
    expect([twice.status, twice.stdout]).to.deep.equal([
      1,
      `${file}: ${join(house.root, 'lamp_col.tga')} is there already, and is not overwritten.\n`,
    ]);
    expect(convert(file, '--to', 'stl').stdout).to.contain(
      'A picture is not written as stl: png, tga, webp, jpeg, exr are known.',
    );
    expect(convert(house.path('no.png'), '--to', 'tga').stdout).to.contain('there is no such file.');
  });
});
