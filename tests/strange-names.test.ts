import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { TestHouse, testPort } from './support/worvel.ts';

const long = `${'very_long_folder_name_of_a_game/'.repeat(30)}thing.txt`;
const names = [
  'tab\there.txt',
  'line\nbreak.txt',
  'back\\slash.txt',
  'percent%_.txt',
  'quote\'".txt',
  ' spaces .txt',
  'Schilf 葦 🪷.txt',
  'A.TXT',
  'a.txt',
  '#hash?.txt',
  '%41.txt',
  '-rf',
  '.hidden',
];

/** Names that real trees hold: every one has to come through the tables, the search, the diff and the server as it is. */
describe('Strange names', () => {
  const house = new TestHouse();
  let url: string;
  before(async () => {
    await house.open();
    url = await house.serve(testPort(9));
    mkdirSync(house.path('names'));
    for (const name of names) writeFileSync(house.path('names', name), `content of ${name}`);
    mkdirSync(join(house.path('names'), long, '..'), { recursive: true });
    writeFileSync(house.path('names', long), 'far down');
    writeFileSync(
      house.path('names', 'packed.zip'),
      zipSync({
        'Schilf 葦/🪷.txt': Buffer.from('in an archive'),
        'same.txt': Buffer.from('a'),
        'SAME.txt': Buffer.from('b'),
      }),
    );
  });
  after(() => house.close());

  it('are indexed and found as they are', async () => {
    const result = await house.index(house.path('names'), 'Names', '1');
    expect(result).to.include({ files: names.length + 4, unreadable: 0 });
    const { output } = await house.run('search', '--title', 'Names', '--build', '1', '.', '--json');
    const found = output
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { path: string }).path);
    expect(found).to.include.members(names.filter((name) => name.includes('.')));
    expect(found).to.include.members([long, 'packed.zip!/Schilf 葦/🪷.txt', 'packed.zip!/SAME.txt']);
    const literal = await house.run('search', '--title', 'Names', '%_', '--json');
    expect(literal.output.trim().split('\n')).to.have.length(1);
  });

  it('are the same in the next build, and are told when they change', async () => {
    await house.index(house.path('names'), 'Names', '2');
    expect((await house.diff('Names', '1', '2')).findings).to.deep.equal([]);
    for (const name of names) writeFileSync(house.path('names', name), 'changed');
    await house.index(house.path('names'), 'Names', '3');
    const { findings } = await house.diff('Names', '2', '3');
    expect(findings.map(({ path }) => path).sort()).to.deep.equal([...names].sort());
  });

  it('are served by their address', async () => {
    for (const path of [...names, long, 'packed.zip!/Schilf 葦/🪷.txt']) {
      const asset = await fetch(`${url}/api/asset?channel=1&build=1&path=${encodeURIComponent(path)}`);
      expect(((await asset.json()) as { path?: string }).path, path).to.equal(path);
      const file = await fetch(`${url}/api/files/1/1/${path.split('/').map(encodeURIComponent).join('/')}`);
      expect(file.status, path).to.equal(200);
      expect(await file.text()).to.match(/content of|far down|in an archive/);
    }
  });
});
