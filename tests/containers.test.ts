import { expect } from 'chai';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { seeded } from '../demo/seeded.ts';
import { leavesOf, leavesOfFolder, problemsOf, run } from './support/leaves.ts';
import { TestHouse } from './support/worvel.ts';

/** How a program of Debian's packs the folder `tree`, and how another one (or the same) unpacks the archive. */
interface Packing {
  name: string;
  file: string;
  pack: (cwd: string, file: string) => void;
  unpack: (cwd: string, file: string, into: string) => void;
}

const bsdtar = (cwd: string, file: string, into: string): void =>
  void run('bsdtar', ['-xf', file, '-C', into], cwd);
const sevenZip = (cwd: string, file: string, into: string): void =>
  void run('7zz', ['x', '-y', `-o${into}`, file], cwd);
const pack =
  (program: string, ...args: string[]) =>
  (cwd: string, file: string): void =>
    void run(program, [...args, file, 'tree'], cwd);
/** Packs a TAR by one program and compresses it by another. */
const squeeze =
  (program: string, ...args: string[]) =>
  (cwd: string, file: string): void =>
    writeFileSync(join(cwd, file), run(program, [...args, '-c'], cwd, run('tar', ['-cf', '-', 'tree'], cwd)));

/** The same names, sizes and hashes as a general-purpose program gives, for archives that two programs made. */
const packings: Packing[] = [
  {
    name: 'ZIP by zip',
    file: 'a.zip',
    pack: pack('zip', '-qr'),
    unpack: (cwd, file, into) => void run('unzip', ['-q', file, '-d', into], cwd),
  },
  { name: 'ZIP by 7zz', file: 'b.zip', pack: pack('7zz', 'a', '-tzip'), unpack: bsdtar },
  {
    name: 'ZIP with bzip2, by 7zz',
    file: 'b1.zip',
    pack: pack('7zz', 'a', '-tzip', '-mm=BZip2'),
    unpack: bsdtar,
  },
  {
    name: 'ZIP with xz, by 7zz',
    file: 'b2.zip',
    pack: pack('7zz', 'a', '-tzip', '-mm=xz'),
    unpack: sevenZip,
  },
  { name: 'ZIP64, by zip', file: 'b3.zip', pack: pack('zip', '-qr', '-fz'), unpack: sevenZip },
  {
    name: 'ZIP with data descriptors, by bsdtar',
    file: 'c.zip',
    pack: pack('bsdtar', '--format=zip', '-cf'),
    unpack: sevenZip,
  },
  { name: 'TAR (GNU)', file: 'd.tar', pack: pack('tar', '--format=gnu', '-cf'), unpack: bsdtar },
  { name: 'TAR (pax)', file: 'e.tar', pack: pack('tar', '--format=pax', '-cf'), unpack: sevenZip },
  {
    name: 'TAR (ustar), by bsdtar',
    file: 'f.tar',
    pack: pack('bsdtar', '--format=ustar', '-cf'),
    unpack: bsdtar,
  },
  { name: 'TAR (v7)', file: 'g.tar', pack: pack('tar', '--format=v7', '-cf'), unpack: bsdtar },
  { name: '7z by 7zz', file: 'h.7z', pack: pack('7zz', 'a'), unpack: sevenZip },
  { name: '7z by bsdtar', file: 'i.7z', pack: pack('bsdtar', '--format=7zip', '-cf'), unpack: bsdtar },
  {
    name: 'ISO 9660 with Rock Ridge, by xorriso',
    file: 'j.iso',
    pack: (cwd, file) => void run('xorriso', ['-as', 'mkisofs', '-quiet', '-R', '-o', file, 'tree'], cwd),
    unpack: bsdtar,
  },
  {
    name: 'ISO 9660 with Joliet, by genisoimage',
    file: 'k.iso',
    pack: (cwd, file) => void run('genisoimage', ['-quiet', '-J', '-joliet-long', '-o', file, 'tree'], cwd),
    unpack: bsdtar,
  },
  {
    name: 'CAB by gcab',
    file: 'l.cab',
    pack: (cwd, file) =>
      void run(
        'gcab',
        ['-c', '-z', join('..', file), ...['tree/a.txt', 'tree/b.bin'].map((path) => path.slice(5))],
        join(cwd, 'tree'),
      ),
    unpack: (cwd, file, into) => void run('cabextract', ['-q', '-d', into, file], cwd),
  },
  {
    name: 'ar',
    file: 'm.a',
    pack: (cwd, file) => void run('ar', ['rc', join('..', file), 'a.txt', 'b.bin'], join(cwd, 'tree')),
    unpack: bsdtar,
  },
  {
    name: 'cpio (newc)',
    file: 'n.cpio',
    pack: (cwd, file) =>
      writeFileSync(
        join(cwd, file),
        run('cpio', ['-o', '-H', 'newc', '--quiet'], cwd, run('find', ['tree'], cwd)),
      ),
    unpack: bsdtar,
  },
  {
    name: 'cpio (odc), by bsdtar',
    file: 'o.cpio',
    pack: pack('bsdtar', '--format=odc', '-cf'),
    unpack: sevenZip,
  },
  { name: 'TAR under gzip', file: 'p.tar.gz', pack: pack('tar', '-czf'), unpack: bsdtar },
  { name: 'TAR under bzip2', file: 'q.tar.bz2', pack: squeeze('bzip2'), unpack: bsdtar },
  { name: 'TAR under xz', file: 'r.tar.xz', pack: squeeze('xz', '-1'), unpack: bsdtar },
  { name: 'TAR under Zstandard', file: 's.tar.zst', pack: squeeze('zstd', '-q'), unpack: bsdtar },
  { name: 'TAR under LZ4', file: 't.tar.lz4', pack: squeeze('lz4', '-q'), unpack: bsdtar },
];

function makeTree(folder: string): void {
  const random = seeded(7);
  const noise = (length: number): Buffer =>
    Buffer.from(Array.from({ length }, () => Math.floor(random() * 256)));
  mkdirSync(join(folder, 'deep', 'er'), { recursive: true });
  writeFileSync(join(folder, 'a.txt'), 'the ferry leaves at nine\n'.repeat(400));
  writeFileSync(join(folder, 'b.bin'), noise(300_000));
  writeFileSync(join(folder, 'deep', 'empty'), '');
  writeFileSync(join(folder, 'deep', 'er', 'lamp with spaces.bin'), noise(5000));
  // Above what is kept in a pack.
  writeFileSync(
    join(folder, 'deep', 'large.bin'),
    Buffer.concat([noise(100_000), Buffer.alloc(5_000_000, 'reed')]),
  );
}

describe('Containers, against Debian’s programs', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    await house.serve(house.port);
    makeTree(house.path('tree'));
    mkdirSync(house.path('source'));
    for (const { pack: make, file } of packings) {
      make(house.root, file);
      // Under an extension that says nothing.
      writeFileSync(house.path('source', `${file.replace(/\..*$/, '')}.pak`), readFileSync(house.path(file)));
    }
    const result = await house.index(house.path('source'), 'Packed', '1');
    expect(result.containers).to.equal(packings.length);
  });
  after(() => house.close());

  for (const { name, file, unpack } of packings) {
    it(`reads ${name}`, async () => {
      const into = house.path('unpacked');
      rmSync(into, { recursive: true, force: true });
      mkdirSync(into);
      unpack(house.root, file, into);
      const expected = leavesOfFolder(into);
      expect(expected.length).to.be.greaterThan(1);
      expect(await leavesOf(house, 'Packed', '1', `${file.replace(/\..*$/, '')}.pak!/`)).to.deep.equal(
        expected,
      );
    });
  }

  it('finds nothing wrong with any of them', async () => {
    expect(await problemsOf(house, 'Packed', '1')).to.deep.equal([]);
  });

  it('reads single compressed files, and Brotli by its name', async () => {
    mkdirSync(house.path('single'));
    const text = readFileSync(house.path('tree', 'a.txt'));
    const programs: [string, string[], string][] = [
      ['gzip', ['-c'], 'a.txt.gz'],
      ['bzip2', ['-c'], 'b.txt.bz2'],
      ['xz', ['-c'], 'c.txt.xz'],
      ['zstd', ['-qc'], 'd.txt.zst'],
      ['lz4', ['-qc'], 'e.txt.lz4'],
      ['brotli', ['-c'], 'f.txt.br'],
    ];
    for (const [program, args, file] of programs)
      writeFileSync(house.path('single', file), run(program, args, house.root, text));
    await house.index(house.path('single'), 'Single', '1');
    const [expected = ''] = leavesOfFolder(house.path('tree')).filter((leaf) => leaf.startsWith('a.txt'));
    expect(await leavesOf(house, 'Single', '1')).to.deep.equal(
      programs.map(([, , file]) => {
        const inner = file.replace(/\.[^.]*$/, '');
        return `${file}!/${inner}${expected.slice('a.txt'.length)}`;
      }),
    );
  });

  it('reads UDF', async () => {
    // Debian has no program that makes an image of UDF alone: the ISO 9660 part of a bridge image is taken away.
    run('genisoimage', ['-quiet', '-udf', '-o', 'udf.iso', 'tree'], house.root);
    const image = readFileSync(house.path('udf.iso'));
    for (let sector = 16; sector < 20; sector++)
      if (image.toString('latin1', sector * 2048 + 1, sector * 2048 + 6) === 'CD001')
        image.fill(0, sector * 2048, (sector + 1) * 2048);
    const first = image.indexOf('BEA01');
    image.copyWithin(16 * 2048, first - 1, first - 1 + 3 * 2048);
    mkdirSync(house.path('disc'));
    writeFileSync(house.path('disc', 'disc.img'), image);
    await house.index(house.path('disc'), 'Disc', '1');
    expect(await leavesOf(house, 'Disc', '1', 'disc.img!/')).to.deep.equal(
      leavesOfFolder(house.path('tree')),
    );
  });

  it('reads archives in archives in archives, of mixed kinds', async () => {
    mkdirSync(house.path('nest', 'in'), { recursive: true });
    run('zip', ['-qr0', house.path('nest', 'in', 'one.zip'), 'h.7z', 'd.tar'], house.root);
    run('tar', ['-czf', house.path('nest', 'two.tgz'), 'one.zip'], house.path('nest', 'in'));
    run('7zz', ['a', house.path('nest', 'three.7z'), 'two.tgz'], house.path('nest'));
    rmSync(house.path('nest', 'in'), { recursive: true });
    rmSync(house.path('nest', 'two.tgz'));
    await house.index(house.path('nest'), 'Nest', '1');
    const tree = leavesOfFolder(house.path('tree'));
    for (const inner of ['h.7z', 'd.tar'])
      expect(await leavesOf(house, 'Nest', '1', `three.7z!/two.tgz!/one.zip!/${inner}!/tree/`)).to.deep.equal(
        tree,
      );
    expect(await problemsOf(house, 'Nest', '1')).to.deep.equal([]);
  });

  it('does not read an archive again whose bytes are the same', async () => {
    const copy = house.path('copy');
    run('cp', ['-r', house.path('source'), copy], house.root);
    const again = await house.index(copy, 'Packed', '2');
    expect(again.newContents).to.equal(0);
    expect(await leavesOf(house, 'Packed', '2')).to.deep.equal(await leavesOf(house, 'Packed', '1'));
    expect((await house.diff('Packed', '1', '2')).findings).to.deep.equal([]);
  });
});
