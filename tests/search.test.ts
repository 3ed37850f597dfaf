import { expect } from 'chai';
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { glb, lantern } from '../demo/models.ts';
import { sign } from '../demo/pictures.ts';
import { TestHouse } from './support/worvel.ts';

interface Answer {
  total: number;
  isCut: boolean;
  assets: { path: string; build: string; kind: string; why: string; hasPreview: boolean }[];
  error?: string;
  at?: number;
  length?: number;
}

describe('Searching', () => {
  const house = new TestHouse();
  let url: string;
  before(async () => {
    await house.open();
    mkdirSync(house.path('game', 'lamps'), { recursive: true });
    writeFileSync(house.path('game', 'lamps', 'Lamp_Col.png'), await sign('a', 64, [90, 60, 30], 'png'));
    writeFileSync(
      house.path('game', 'lamps', 'lamp.glb'),
      await glb('lamp', lantern(14, 0.7, 3, undefined as never)),
    );
    writeFileSync(house.path('game', 'lamps', 'lamp.json'), '{"lit": true}');
    writeFileSync(house.path('game', 'about.txt'), 'a game');
    await house.index(house.path('game'), 'Searched', '1');
    rmSync(house.path('game', 'lamps', 'lamp.json'));
    writeFileSync(house.path('game', 'reed_lamp.txt'), 'reeds');
    await house.index(house.path('game'), 'Searched', '2');
    url = await house.serve(house.port);
  });
  after(() => house.close());

  const ask = async (text: string, build = '2'): Promise<Answer> =>
    (await (
      await fetch(`${url}/api/assets?${new URLSearchParams({ channel: '1', build, text })}`)
    ).json()) as Answer;
  const paths = async (text: string, build?: string): Promise<string[]> =>
    (await ask(text, build)).assets.map(({ path }) => path);

  it('finds by words, kind, extension and figures of facts, and says why', async () => {
    expect(await paths('LAMP')).to.deep.equal(['lamps/Lamp_Col.png', 'lamps/lamp.glb', 'reed_lamp.txt']);
    expect(await paths('lamp -reed kind:picture,text')).to.deep.equal(['lamps/Lamp_Col.png']);
    expect(await paths('width:>32')).to.deep.equal(['lamps/Lamp_Col.png']);
    const [model] = (await ask('lamp triangles:>10')).assets;
    expect(model).to.include({ path: 'lamps/lamp.glb', kind: 'model', hasPreview: true });
    expect(model?.why).to.match(/^“lamp” in its name, [\d,]+ triangles$/);
  });

  it('looks at one build, or at all, where each thing is as it was last', async () => {
    expect(await paths('json', '1')).to.deep.equal(['lamps/lamp.json']);
    expect(await paths('json')).to.deep.equal([]);
    expect((await ask('json', '')).assets[0]).to.include({ path: 'lamps/lamp.json', build: '1' });
    expect((await ask('reed', '')).assets[0]).to.include({ build: '2' });
    expect((await ask('x', '9')).error).to.include('There is no build 9');
  });

  it('says what is wrong with a query, and where', async () => {
    expect(await ask('lamp kind:modl')).to.include({ at: 10, length: 4 });
    const { code, errors } = await house.run('search', '--title', 'Searched', 'size:much');
    expect(code).to.equal(2);
    expect(errors).to.match(/“much” is no number.*at letter 6/);
  });

  it('finds what a new build brought, and what a removed one had no more', async () => {
    writeFileSync(house.path('game', 'heron_lamp.txt'), 'a heron');
    await house.index(house.path('game'), 'Searched', '3');
    expect(await paths('heron', '3')).to.deep.equal(['heron_lamp.txt']);
    await house.run('remove', '--title', 'Searched', '--build', '1');
    expect(await paths('json', '')).to.deep.equal([]);
  });

  it('finds nothing in a channel that has no build yet, and what the others have', async () => {
    const body = JSON.stringify({
      title: 'Searched',
      channel: 'disc',
      kind: 'device',
      url: 'http://127.0.0.1:9/',
      intervalSeconds: 86_400,
    });
    expect((await fetch(`${url}/api/followers`, { method: 'POST', body })).ok).to.equal(true);
    const { code, output, errors } = await house.run('search', '--title', 'Searched', 'heron');
    expect(code, errors).to.equal(0);
    expect(output).to.include('heron_lamp.txt');
  });

  it('keeps its tables for the next start, and makes them again where they are damaged', async () => {
    const folder = `${house.data}/search`;
    expect(readdirSync(folder)).to.include('channel-1.tables');
    writeFileSync(`${folder}/channel-1.tables`, 'not what it was');
    await house.restart();
    expect(await paths('heron', '3')).to.deep.equal(['heron_lamp.txt']);
  });

  it('shows what browsers do not know in a form that they do', async () => {
    // A TGA of one pixel, red (Truevision TGA 2.0: blue comes first).
    writeFileSync(
      house.path('game', 'dot.tga'),
      Buffer.from([0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 1, 0, 24, 0x20, 0, 0, 255]),
    );
    await house.index(house.path('game'), 'Searched', '4');
    const answer = await fetch(`${url}/api/shown/1/4/dot.tga`);
    expect(answer.headers.get('content-type')).to.equal('image/png');
    const { default: sharp } = await import('sharp');
    expect([
      ...(await sharp(Buffer.from(await answer.arrayBuffer()))
        .ensureAlpha()
        .raw()
        .toBuffer()),
    ]).to.deep.equal([255, 0, 0, 255]);
    const refused = await fetch(`${url}/api/shown/1/4/reed_lamp.txt`);
    expect(((await refused.json()) as { error: string }).error).to.include('a text is shown as it is');
  });
});
