import { expect } from 'chai';
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { UnpackingBudget } from '../core/containers/unpacking-budget.ts';
import { FileSource } from '../server/ingest/containers/byte-source.ts';
import { listZip, streamEntry, unpackEntry } from '../server/ingest/containers/zip.ts';
import { TestHouse } from './support/worvel.ts';

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Reading of archives made by `zip` (Info-ZIP) against `unzip -l` and `unzip -p`. */
describe('ZIP archives', () => {
  const house = new TestHouse();
  const files: Record<string, Buffer> = {
    'lamps/lamp.txt': Buffer.from('a lamp\n'.repeat(400)),
    'lamps/noise.bin': Buffer.from(Array.from({ length: 5000 }, (_, index) => (index * 7919) & 255)),
    'Wörter/Schilf – 葦.txt': Buffer.from('reed'),
    empty: Buffer.alloc(0),
    'large.bin': Buffer.alloc(6 * 1024 * 1024, 'mossline'),
  };
  before(async () => {
    await house.open();
    await house.serve(house.port);
    for (const [path, bytes] of Object.entries(files)) {
      mkdirSync(dirname(house.path('in', path)), { recursive: true });
      writeFileSync(house.path('in', path), bytes);
    }
  });
  after(() => house.close());

  const make = (name: string, ...options: string[]): string => {
    const archive = house.path(`${name}.zip`);
    execFileSync('zip', ['-q', '-r', ...options, archive, '.'], { cwd: house.path('in') });
    return archive;
  };
  /** Made from standard input: `zip` does not know the sizes beforehand and writes data descriptors. */
  const makeStreamed = (): string => {
    const archive = house.path('streamed.zip');
    const { stdout } = spawnSync('sh', ['-c', 'cat large.bin | zip -q - - | cat'], {
      cwd: house.path('in'),
      maxBuffer: 2 ** 26,
    });
    writeFileSync(archive, stdout);
    return archive;
  };
  const archives: [string, () => string][] = [
    ['deflated', () => make('deflated', '-9')],
    ['stored', () => make('stored', '-0')],
    ['ZIP64', () => make('zip64', '-fz')],
    ['with data descriptors', () => make('descriptors', '-fd')],
    ['written as a stream', makeStreamed],
  ];

  for (const [name, build] of archives) {
    it(`${name}: the names, sizes and bytes that unzip gives`, async () => {
      const archive = build();
      const source = new FileSource(archive);
      const entries = (await listZip(source)).filter(({ isFolder }) => !isFolder);
      const listing = execFileSync('unzip', ['-l', archive], {
        encoding: 'utf8',
        env: { ...process.env, LC_ALL: 'C.UTF-8' },
      });
      for (const entry of entries) {
        expect(listing, entry.name).to.match(
          new RegExp(`^ *${entry.unpackedBytes} .* ${escape(entry.name)}$`, 'm'),
        );
        const expected = execFileSync('unzip', ['-p', archive, entry.name], { maxBuffer: 2 ** 26 });
        expect(sha256(unpackEntry(source, entry, new UnpackingBudget(source.size)))).to.equal(
          sha256(expected),
        );
        const streamed = createHash('sha256');
        for await (const piece of streamEntry(source, entry, new UnpackingBudget(source.size)))
          streamed.update(piece);
        expect(streamed.digest('hex')).to.equal(sha256(expected));
      }
      expect(entries.length).to.equal(
        Number(/(\d+) files?$/.exec(listing.trim())?.[1]) - (name === 'written as a stream' ? 0 : 2),
      );
      source.close();
    });
  }

  it('in archives, stored and deflated, come out as their leaves do', async () => {
    const inner = make('inner');
    const folder = house.path('nested');
    mkdirSync(folder);
    writeFileSync(join(folder, 'loose.txt'), 'loose');
    execFileSync('zip', ['-q', '-0', '-j', join(folder, 'stored.pak'), inner]);
    execFileSync('zip', ['-q', '-9', '-j', join(folder, 'deflated.zip'), inner]);
    const result = await house.index(folder, 'Nested', '1');
    const count = Object.keys(files).length;
    expect(result).to.include({ files: count * 2 + 1, containers: 4, unreadable: 0, newContents: count + 1 });
    const { output } = await house.run('search', '--title', 'Nested', 'noise', '--json');
    const paths = output
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { path: string }).path);
    expect(paths).to.deep.equal([
      'deflated.zip!/inner.zip!/lamps/noise.bin',
      'stored.pak!/inner.zip!/lamps/noise.bin',
    ]);
  });

  it('can be a build by themselves', async () => {
    const result = await house.index(make('whole'), 'Whole', '1');
    expect(result).to.include({ files: Object.keys(files).length, containers: 1, unreadable: 0 });
    const { code, errors } = await house.run(
      'index',
      house.path('in', 'empty'),
      '--title',
      'Whole',
      '--build',
      '2',
    );
    expect(code).to.equal(1);
    expect(errors).to.include('not an archive');
  });
});

function escape(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
