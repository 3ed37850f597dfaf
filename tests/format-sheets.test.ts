import { expect } from 'chai';
import { cpSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { applicationRoot } from '../server/platform/application-root.ts';
import { select } from '../server/platform/database/rows.ts';
import { run } from './support/leaves.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Own formats';
const sheetsFolder = join(applicationRoot, 'docs', 'format-sheets');

/** Files of Debian under endings that nobody knows: what a team’s sheets make of them, from the command line to the browser. */
describe('Formats that a team describes', () => {
  const house = new TestHouse();
  const models = '/usr/share/assimp/models/STL';
  let url = '';
  const sheet = (name: string, ending: string): string => {
    const text = readFileSync(join(sheetsFolder, `${name}.yaml`), 'utf8').replace(
      `**/*.${name}`,
      `**/*.${ending}`,
    );
    const file = house.path(`${ending}.yaml`);
    writeFileSync(file, text);
    return file;
  };
  const search = async (query: string): Promise<string[]> => {
    const { output } = await house.run('search', query, '--title', title, '--json');
    return output
      .split('\n')
      .filter((line) => line !== '')
      .map((line) => (JSON.parse(line) as { path: string }).path)
      .sort();
  };
  const command = async (...args: string[]): Promise<string> => {
    const { code, output, errors } = await house.run('format', ...args, '--title', title);
    expect(code, errors).to.equal(0);
    return output;
  };

  before(async () => {
    await house.open();
    const build = house.path('1');
    mkdirSync(build);
    cpSync(join(models, 'Spider_binary.stl'), join(build, 'spider.lmod'));
    cpSync(join(models, 'Wuson.stl'), join(build, 'wuson.lmod'));
    writeFileSync(join(build, 'broken.lmod'), readFileSync(join(models, 'Wuson.stl')).subarray(0, 5000));
    run('convert', ['-size', '60x40', 'plasma:red-blue', '-compress', 'RLE', 'sky.tga'], build);
    cpSync(join(build, 'sky.tga'), join(build, 'sky.ltex'));
    writeFileSync(join(build, 'items.list'), 'item lantern 3\nitem heron 2\n');
    await house.index(build, title, '1');
    url = await house.serve(house.port);
  });
  after(() => house.close());

  it('are bytes until somebody describes them', async () => {
    expect(await search('kind:model')).to.deep.equal([]);
    expect(await command('list')).to.equal(`${title} has no format sheets.\n`);
  });

  it('are tried on all files of a build before they are kept', async () => {
    const { code, output } = await house.run(
      'format',
      'fit',
      sheet('stl', 'lmod'),
      '--title',
      title,
      '--build',
      '1',
    );
    expect([code, output.split('\n')[0]]).to.deep.equal([1, 'The sheet fits 2 of 3.']);
    expect(output).to.include('1 do not fit: ').and.include('  broken.lmod');
  });

  it('are models, pictures and tables once sheets are kept, with facts, in all that looks at these', async () => {
    expect(await command('import', sheet('stl', 'lmod'))).to.include(
      '3 files were read by 0 recipes and 1 format sheet',
    );
    expect(await command('import', sheet('tga', 'ltex'))).to.include('1 file was read');
    const list = house.path('list.yaml');
    writeFileSync(
      list,
      `sheet: Item list
language: 1
files: '*.list'
text:
  lines:
    thing: { keyword: item, words: { name: word, number: integer } }
result:
  table: { each: thing, columns: { name: name, number: number } }
`,
    );
    await command('import', list);
    expect(await command('list')).to.equal('Binary STL\nTruevision TGA\nItem list\n');
    expect(await command('export', 'Item list')).to.equal(readFileSync(list, 'utf8'));
    expect(await search('kind:model triangles:>1000')).to.deep.equal(['spider.lmod', 'wuson.lmod']);
    expect(await search('kind:picture')).to.deep.equal(['sky.ltex', 'sky.tga']);
    // The same pixels as what the product’s own reader finds: equal to the last bit.
    const rows = await select<{ format: string; fingerprint: string | null }>(
      house.pool,
      "SELECT format, HEX(fingerprint) AS fingerprint FROM content_facts WHERE format IN ('tga', 'sheet-picture')",
    );
    expect(rows).to.have.length(2);
    expect(rows[0]?.fingerprint).to.equal(rows[1]?.fingerprint).and.not.equal(null);
    const marked = await fetch(`${url}/api/asset?channel=1&build=1&path=sky.ltex`);
    expect(await marked.json()).to.have.nested.property('facts.sheet.name', 'Truevision TGA');
  });

  it('say why a file does not fit, and at which byte', async () => {
    const [row] = await select<{ reason: string }>(
      house.pool,
      "SELECT reason FROM content_facts WHERE format = 'sheet-model' AND reason IS NOT NULL",
    );
    expect(row?.reason).to.match(
      /^it does not fit the sheet “Binary STL”: at 0x54: triangles: count 3,732: /,
    );
  });

  it('are shown as models and pictures are', async () => {
    const channel = 1;
    const model = await fetch(`${url}/api/shown/${channel}/1/spider.lmod`);
    expect([model.status, model.headers.get('content-type')]).to.deep.equal([200, 'model/gltf-binary']);
    const picture = await fetch(`${url}/api/shown/${channel}/1/sky.ltex`);
    expect([picture.status, picture.headers.get('content-type')]).to.deep.equal([200, 'image/png']);
    const broken = await fetch(`${url}/api/shown/${channel}/1/broken.lmod`);
    expect(broken.status).to.equal(400);
    expect(await broken.text()).to.include('it does not fit the sheet “Binary STL”');
  });

  it('are compared like any other in the next build, which is labelled as it comes in', async () => {
    const build = house.path('2');
    cpSync(house.path('1'), build, { recursive: true });
    const bytes = readFileSync(join(build, 'spider.lmod'));
    for (let at = 96; at + 36 < bytes.length; at += 50)
      for (let part = 0; part < 9; part++)
        bytes.writeFloatLE(bytes.readFloatLE(at + part * 4) * 2, at + part * 4);
    writeFileSync(join(build, 'spider.lmod'), bytes);
    writeFileSync(join(build, 'items.list'), 'item lantern 3\nitem heron 5\n');
    await house.index(build, title, '2');
    const span = ['--title', title, '--from', '1', '--to', '2'];
    const { output } = await house.run('diff', ...span, '--evidence');
    expect(output).to.include('The same shape, twice as large.');
    expect(output).to.match(/items\.list\n\s+.*heron.*2.*5/);
  });

  it('are read again when a sheet changes, in another version of the format too', async () => {
    const build = house.path('3');
    cpSync(house.path('2'), build, { recursive: true });
    // The format got a mark and a packed body.
    const plain = readFileSync(join(build, 'wuson.lmod'));
    writeFileSync(
      join(build, 'wuson.lmod'),
      Buffer.concat([Buffer.from('LM2 '), deflateSync(plain.subarray(80))]),
    );
    await house.index(build, title, '3');
    const both = house.path('both.yaml');
    writeFileSync(
      both,
      `sheet: Binary STL
language: 1
files: '**/*.lmod'
versions: ['1', '2']
types:
  triangle: { normal: 'f32[3]', corners: 'f32[9]', _attribute: u16 }
  body: { count: u32, triangles: 'triangle[count]' }
root:
  _title: { type: bytes(80), before: '2' }
  _mark: { is: 'LM2 ', since: '2' }
  plain: { type: body, before: '2' }
  packed: { type: bytes, unpack: [zlib], as: body, since: '2' }
  triangles: { value: 'version == "1" ? plain.triangles : packed.triangles' }
result:
  model:
    parts:
      - { positions: triangles.corners, normals: 'repeatEach(triangles.normal, 3, 3)' }
`,
    );
    const { output } = await house.run('format', 'fit', both, '--title', title, '--build', '3');
    expect(output).to.include('Version 1 fits 1 of 3.').and.include('Version 2 fits 1 of 3.');
    await command('import', both);
    expect(await command('list')).to.equal('Binary STL\nTruevision TGA\nItem list\n');
    expect(await search('kind:model triangles:>1000')).to.deep.equal(['spider.lmod', 'wuson.lmod']);
    const { output: told } = await house.run(
      'diff',
      '--title',
      title,
      '--from',
      '2',
      '--to',
      '3',
      '--evidence',
    );
    // What was compared by the sheet of before is compared again.
    const older = await house.run('diff', '--title', title, '--from', '1', '--to', '2', '--evidence');
    expect(older.output).to.include('The same shape, twice as large.');
    // Another packing of the same triangles.
    expect(told).to.match(/repacked\s+model\s+wuson\.lmod/);
  });

  it('are bytes again when their sheet goes', async () => {
    expect(await command('remove', 'Binary STL')).to.include('by 0 recipes and 2 format sheets');
    expect(await search('kind:model')).to.deep.equal([]);
    const { code, errors } = await house.run('format', 'remove', 'Nothing', '--title', title);
    expect([code, errors]).to.deep.equal([
      1,
      'Own formats has no format sheet named Nothing: it has Truevision TGA, Item list.\n',
    ]);
  });

  it('are not taken from a sheet that is wrong, whose line is told', async () => {
    const wrong = house.path('wrong.yaml');
    writeFileSync(wrong, "sheet: Wrong\nlanguage: 1\nfiles: '*'\nroot:\n  a: u17\n");
    const { code, errors } = await house.run('format', 'import', wrong, '--title', title);
    expect(code).to.equal(1);
    expect(errors).to.include(`${wrong}:5:6: a.u17: there is no type u17`);
    const titles = (await (await fetch(`${url}/api/titles`)).json()) as { id: number }[];
    const answer = await fetch(`${url}/api/titles/${titles[0]?.id}/format-sheets`, {
      method: 'PUT',
      body: JSON.stringify({ sheets: [{ text: 'sheet: [' }], revision: 'old' }),
    });
    expect(answer.status).to.equal(400);
    expect(await answer.text()).to.include('This sheet cannot be used: line 1');
  });
});
