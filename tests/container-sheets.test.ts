import { expect } from 'chai';
import { mkdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { zipSync } from 'fflate';
import { select } from '../server/platform/database/rows.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Own containers';

/** Names lie in a file beside it; each entry has its place, its size, and deflated bytes. */
const sheet = `sheet: Reed pack
language: 1
files: '**/*.lpk'
root:
  mark: { is: 'REED' }
  count: u32
  parts: { type: Part, count: count }
  names: { value: "sister(replace(fileName, '.lpk', '.names'))" }
  list: { type: string, count: count, in: names }
types:
  Part: { offset: u32, size: u32 }
result:
  entries:
    each: parts
    name: list[index]
    offset: offset
    size: size
    unpack: [zlib]
`;

type Files = Record<string, string | Buffer>;

function pack(files: Files): { pack: Buffer; names: Buffer } {
  const all = Object.values(files).map((file) => deflateSync(file));
  const head = Buffer.alloc(8 + all.length * 8);
  head.write('REED');
  head.writeUInt32LE(all.length, 4);
  let at = head.length;
  all.forEach((bytes, number) => {
    head.writeUInt32LE(at, 8 + number * 8);
    head.writeUInt32LE(bytes.length, 12 + number * 8);
    at += bytes.length;
  });
  const names = Object.keys(files)
    .map((name) => `${name}\0`)
    .join('');
  return { pack: Buffer.concat([head, ...all]), names: Buffer.from(names) };
}

/** Containers of a game’s own: what is in them joins the builds, whether the sheet was there before or after. */
describe('Containers that a sheet describes', () => {
  const house = new TestHouse();
  const late = title;
  const early = `${title}, known from the start`;
  const builds: Files[] = [
    { 'lamps/pier.txt': 'one lantern', 'lamps/mast.txt': 'two', 'birds/heron.txt': 'grey' },
    { 'lamps/pier.txt': 'one lantern', 'lamps/mast.txt': 'two and a half', 'birds/heron.txt': 'grey' },
    { 'lamps/pier.txt': 'one lantern', 'lamps/mast.txt': 'two', 'reeds.txt': 'many' },
  ];
  const sheetFile = house.path('reed.yaml');

  const put = (number: number): string => {
    const folder = house.path(`build-${number}`);
    mkdirSync(folder, { recursive: true });
    const made = pack(builds[number - 1] ?? {});
    writeFileSync(`${folder}/data.lpk`, made.pack);
    writeFileSync(`${folder}/data.names`, made.names);
    // One in an archive that everybody knows, and one that is damaged.
    const inner = pack({ 'deep.txt': `number ${number}` });
    writeFileSync(
      `${folder}/more.zip`,
      zipSync({ 'deep.lpk': inner.pack, 'plain.txt': Buffer.from('same') }),
    );
    writeFileSync(`${folder}/broken.lpk`, made.pack.subarray(0, 9));
    writeFileSync(`${folder}/plain.txt`, `build ${number}`);
    return folder;
  };
  const search = async (query: string, of: string, build: string): Promise<string[]> => {
    const { output } = await house.run('search', query, '--title', of, '--build', build, '--json');
    return output
      .split('\n')
      .filter((line) => line !== '')
      .map((line) => (JSON.parse(line) as { path: string }).path)
      .sort();
  };
  const format = async (...args: string[]): Promise<string> => {
    const { code, output, errors } = await house.run('format', ...args);
    expect(code, errors).to.equal(0);
    return output;
  };
  /** All that the channel's builds hold, but for when they were read. */
  const spansOf = (of: string) =>
    select<{ path: string; first: number; last: number; format: string; hash: string | null; unit: string }>(
      house.pool,
      `SELECT p.path, s.first_sequence AS first, s.last_sequence AS last, s.format, HEX(s.hash) AS hash, u.path AS unit
         FROM asset_spans s JOIN paths p ON p.digest = s.path_digest JOIN paths u ON u.digest = s.unit_digest
         JOIN channels c ON c.id = s.channel_id JOIN titles t ON t.id = c.title_id
        WHERE t.name = ? ORDER BY p.path, s.first_sequence`,
      [of],
    );

  before(async () => {
    await house.open();
    writeFileSync(sheetFile, sheet);
    for (const number of [1, 2, 3]) await house.index(put(number), late, String(number));
  });
  after(() => house.close());

  it('are files like any other until somebody describes them', async () => {
    expect(await search('heron', late, '1')).to.deep.equal([]);
    expect(await search('data', late, '1')).to.deep.equal(['data.lpk', 'data.names']);
  });

  it('are opened in all builds that there are, and differ like any other files', async () => {
    const said = await format('import', sheetFile, '--title', late);
    expect(said).to.include('3 containers were opened').and.include('broken.lpk: the archive was not opened');
    expect(await search('data.lpk!', late, '1')).to.deep.equal([
      ...['data.lpk!/birds/heron.txt', 'data.lpk!/lamps/mast.txt', 'data.lpk!/lamps/pier.txt'],
    ]);
    expect(await search('reeds', late, '3')).to.deep.equal(['data.lpk!/reeds.txt']);
    const { output } = await house.run(...['diff', '--title', late, '--from', '1', '--to', '3', '--json']);
    const findings = output.split('\n').filter((line) => line.includes('data.lpk!/'));
    expect(output).to.not.include('"data.lpk"');
    expect(findings.map((line) => line.replace(/.*"status":"(\w+)".*/, '$1')).sort()).to.deep.equal([
      ...['added', 'removed'],
    ]);
    const words = await house.run(
      'search',
      'text:"two and a half"',
      '--title',
      late,
      '--build',
      '2',
      '--json',
    );
    expect(words.output).to.include('data.lpk!/lamps/mast.txt');
  });

  it('are as if they had always been there', async () => {
    await house.index(put(1), early, '1');
    await format('import', sheetFile, '--title', early);
    for (const number of [2, 3]) await house.index(put(number), early, String(number));
    const withoutDeep = (spans: Awaited<ReturnType<typeof spansOf>>) =>
      spans.filter(({ path }) => path !== 'more.zip');
    expect(withoutDeep(await spansOf(early))).to.deep.equal(withoutDeep(await spansOf(late)));
  });

  it('find their sister file in the archive that they lie in', async () => {
    const inner = pack({ 'nested.txt': 'a heron in an archive' });
    const folder = house.path('nested');
    mkdirSync(folder);
    writeFileSync(`${folder}/all.zip`, zipSync({ 'data/n.lpk': inner.pack, 'data/n.names': inner.names }));
    const of = `${title}, nested`;
    await house.index(put(1), of, '1');
    await format('import', sheetFile, '--title', of);
    await house.index(folder, of, '2');
    expect(await search('nested.txt', of, '2')).to.deep.equal(['all.zip!/data/n.lpk!/nested.txt']);
  });

  it('come with new builds, also where nothing in them changed', async () => {
    for (const of of [late, early]) await house.index(put(3), of, '4');
    expect(await search('data.lpk!', late, '4')).to.deep.equal(await search('data.lpk!', late, '3'));
    const heron = (await spansOf(early)).filter(({ path }) => path === 'data.lpk!/lamps/pier.txt');
    expect(heron.map(({ first, last }) => [first, last > 4])).to.deep.equal([[1, true]]);
  });

  it('are read anew where the file beside them changed alone', async () => {
    const folder = put(3);
    const of = `${title}, beside`;
    await house.index(put(1), of, '1');
    await format('import', sheetFile, '--title', of);
    // Files are settled some time after they were written.
    const long = new Date(Date.now() - 3_600_000);
    for (const name of ['data.lpk', 'data.names']) utimesSync(`${folder}/${name}`, long, long);
    await house.index(folder, of, '2');
    const names = `${folder}/data.names`;
    writeFileSync(names, readFileSync(names, 'latin1').replace('reeds.txt', 'rushes.txt'), 'latin1');
    await house.index(folder, of, '3');
    expect(await search('rushes', of, '3')).to.deep.equal(['data.lpk!/rushes.txt']);
    expect(await search('reeds', of, '3')).to.deep.equal([]);
  });

  it('are closed again when nobody describes them any more', async () => {
    await format('remove', 'Reed pack', '--title', late);
    expect((await spansOf(late)).filter(({ path }) => path.includes('.lpk!/'))).to.deep.equal([]);
    expect(await search('data', late, '2')).to.deep.equal(['data.lpk', 'data.names']);
    const known = await spansOf(late);
    expect(known.find(({ path }) => path === 'data.lpk')?.format).to.equal('binary');
  });

  it('lead nowhere outside, whatever they call their entries, and however large they say these are', async () => {
    const folder = house.path('hostile');
    mkdirSync(folder);
    const made = pack({ '../../out.txt': 'x', '/etc/passwd': 'y', '': 'z', 'a.txt': 'fine' });
    const [bomb, wrong] = [pack({ 'bomb.bin': Buffer.alloc(900_000_000) }), Buffer.from(made.pack)];
    wrong.writeUInt32LE(0xfffffff0, 8);
    for (const [name, { pack: bytes, names }] of Object.entries({
      made,
      bomb,
      wrong: { pack: wrong, names: made.names },
    })) {
      writeFileSync(`${folder}/${name}.lpk`, bytes);
      writeFileSync(`${folder}/${name}.names`, names);
    }
    const of = `${title}, hostile`;
    await house.index(put(1), of, '1');
    await format('import', sheetFile, '--title', of);
    await house.index(folder, of, '2');
    const came = (await spansOf(of)).filter(
      ({ first, path }) => first === 2 && path.startsWith('made.lpk!/'),
    );
    // What leads outside is listed and not taken.
    expect(came.filter(({ hash }) => hash !== null).map(({ path }) => path)).to.deep.equal([
      'made.lpk!/a.txt',
    ]);
    const reasons = await select<{ path: string; reason: string }>(
      house.pool,
      'SELECT p.path, q.reason FROM problems q JOIN paths p ON p.digest = q.path_digest WHERE p.path REGEXP ?',
      ['^(made|bomb|wrong)'],
    );
    const reasonOf = (path: string): string =>
      reasons
        .filter((one) => one.path === path)
        .map(({ reason }) => reason)
        .join();
    expect(reasonOf('wrong.lpk')).to.include('should lie at byte 4,294,967,280');
    expect(reasonOf('bomb.lpk!/bomb.bin')).to.include('more memory than 512 MiB');
    expect(
      reasons.some(({ path, reason }) => path.startsWith('made.lpk!/') && reason.includes('refused')),
    ).to.equal(true);
  });
});
