import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { parseColumn, select } from '../server/platform/database/rows.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Locked by sheets';

const xored = (bytes: Buffer, key: Buffer): Buffer =>
  Buffer.from(bytes.map((byte, at) => byte ^ (key[at % key.length] ?? 0)));

/** A picture of two pixels, whose body is locked: a mark, sizes, and a colour each. */
const pictureSheet = `sheet: Locked picture
language: 1
files: '**/*.lpic'
root:
  mark: { is: LPIC }
  body:
    type: bytes
    unpack: [{ xor: { key: keyring } }]
    as:
      fields: { inner: { is: BODY }, width: u8, height: u8, pixels: bytes(width * height * 3) }
result:
  picture: { width: body.width, height: body.height, format: "'rgb8'", pixels: body.pixels }
`;
const packSheet = `sheet: Locked pack
language: 1
files: '**/*.lpk'
root:
  mark: { is: LPCK }
  size: u32
  entry: { type: bytes(size), unpack: [{ xor: { key: keyring } }, zlib] }
result:
  entries:
    - { name: "'inside.txt'", data: entry }
`.replace('    - { name: "\'inside.txt\'", data: entry }', '    name: "\'inside.txt\'"\n    data: entry');

/** Two versions that both fit: which one is meant only a person knows. */
const versionSheet = `sheet: Two ways
language: 1
versions: ['1', '2']
files: '**/*.tw'
root:
  mark: { is: TWOW }
  a: { type: u16, since: '2' }
  b: { type: u8, before: '2' }
  c: { type: u8, before: '2' }
result:
  table: { columns: { way: "version" } }
`;

describe('Format sheets in a build', () => {
  const house = new TestHouse();
  const [right, wrong] = [Buffer.from('heron-key'), Buffer.from('nothing')];
  const picture = Buffer.concat([
    Buffer.from('LPIC'),
    xored(Buffer.concat([Buffer.from('BODY'), Buffer.from([2, 1, 255, 0, 0, 0, 255, 0])]), right),
  ]);
  const packed = xored(deflateSync('a lantern'), right);
  const pack = Buffer.concat([Buffer.from('LPCK'), Buffer.alloc(4), packed]);
  pack.writeUInt32LE(packed.length, 4);

  const run = async (...args: string[]): Promise<string> => {
    const { code, output, errors } = await house.run(...args);
    expect(code, errors).to.equal(0);
    return output;
  };
  const key = async (value: Buffer, ...more: string[]): Promise<void> => {
    const line = `${value.toString('hex')}\n`;
    const { code, errors } = await house.runWith(
      line,
      'key',
      'add',
      '--title',
      title,
      '--form',
      'hex',
      ...more,
    );
    expect(code, errors).to.equal(0);
  };
  const factsOf = async (path: string): Promise<Record<string, unknown> | null> => {
    const rows = await select<{ facts: unknown }>(
      house.pool,
      `SELECT f.facts FROM paths p JOIN asset_spans s ON s.path_digest = p.digest
         JOIN content_facts f ON f.hash = s.hash AND f.format = s.format WHERE p.path = ?`,
      [path],
    );
    const facts = parseColumn(rows[0]?.facts ?? null);
    return facts as Record<string, unknown> | null;
  };

  before(async () => {
    await house.open();
    const folder = house.path('build-1');
    mkdirSync(folder);
    writeFileSync(`${folder}/dot.lpic`, picture);
    writeFileSync(`${folder}/data.lpk`, pack);
    writeFileSync(`${folder}/two.tw`, 'TWOW\x01\x02');
    for (const [name, text] of Object.entries({
      picture: pictureSheet,
      pack: packSheet,
      version: versionSheet,
    }))
      writeFileSync(house.path(`${name}.yaml`), text);
    await house.index(folder, title, '1');
    for (const name of ['picture', 'pack', 'version'])
      await run('format', 'import', house.path(`${name}.yaml`), '--title', title);
  });
  after(() => house.close());

  it('say that a key is missing, and read nothing until it is there', async () => {
    expect(await factsOf('dot.lpic')).to.equal(null);
    const keys = await run('key', 'list');
    expect(keys).to.include('locked');
  });

  it('are read with the key that fits, of several, once it comes', async () => {
    await key(wrong, '--keep');
    await key(right, '--keep');
    expect(await factsOf('dot.lpic')).to.deep.include({ kind: 'picture', width: 2, height: 1 });
    const found = await run('search', 'inside', '--title', title, '--build', '1', '--json');
    expect(found).to.include('data.lpk!/inside.txt');
    expect(await run('key', 'list')).to.not.include('locked');
  });

  it('never tell a key', async () => {
    const everything = await run(
      'format',
      'fit',
      house.path('picture.yaml'),
      '--title',
      title,
      '--build',
      '1',
    );
    expect(everything).to.include('fits 1 of 1').and.not.include(right.toString('utf8'));
  });

  it('are read by the version that a build names, and by the newest where it names none', async () => {
    const way = async (): Promise<string> => String((await factsOf('two.tw'))?.excerpt);
    expect(await way()).to.include('2');
    const where = ['--title', title, '--build', '1'];
    expect(await run('format', 'version', 'Two ways', ...where)).to.equal('the newest that fits\n');
    await run('format', 'version', 'Two ways', ...where, '--use', '1');
    expect(await run('format', 'version', 'Two ways', ...where)).to.equal('1\n');
    expect(await way())
      .to.include('1')
      .and.not.include('2');
    const folder = house.path('build-2');
    mkdirSync(folder);
    writeFileSync(`${folder}/other.tw`, 'TWOW\x03\x04');
    await house.index(folder, title, '2');
    expect(String((await factsOf('other.tw'))?.excerpt), 'the next build has it too').to.include('1');
    await run('format', 'version', 'Two ways', ...where, '--newest');
    expect(await way()).to.include('2');
    const { code, errors } = await house.run('format', 'version', 'Two ways', ...where, '--use', '9');
    expect(code).to.be.greaterThan(0);
    expect(errors).to.include('has no version 9: it has 1, 2');
  });
});
