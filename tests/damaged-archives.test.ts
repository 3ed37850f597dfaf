import { expect } from 'chai';
import { mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { pack } from 'tar-stream';
import { writeDamaged } from '../bench/damage.ts';
import { leavesOf, problemsOf, run } from './support/leaves.ts';
import { TestHouse } from './support/worvel.ts';

describe('Archives that are not as they should be', () => {
  const house = new TestHouse();
  const text = (words: string): Uint8Array => new TextEncoder().encode(words);
  before(async () => {
    await house.open();
    await house.serve(house.port);
  });
  after(() => house.close());

  describe('cut short or with bits turned over', () => {
    const each = 8;

    it('never crash or hang, never write elsewhere, and cost nothing but themselves', async () => {
      mkdirSync(house.path('sources'));
      const cases = writeDamaged(house.path('sources'), house.path('fuzz'), each, 5);
      const beside = [...readdirSync(house.root), ...readdirSync(house.path('sources'))];
      const result = await house.index(house.path('fuzz'), 'Fuzz', '1');
      expect(result.files).to.be.greaterThan(cases);
      expect(await leavesOf(house, 'Fuzz', '1', 'sound.txt')).to.have.length(1);
      // Some have turned bits that say nothing, such as dates; most are listed.
      const listed = new Set((await problemsOf(house, 'Fuzz', '1')).map((line) => line.split(/: |!\//)[0]));
      expect(listed.size).to.be.greaterThan(cases / 3);
      expect([...readdirSync(house.root), ...readdirSync(house.path('sources'))]).to.deep.equal(beside);
    });

    it('give what is whole the bytes that it has', async () => {
      const bad = (await leavesOf(house, 'Fuzz', '1')).filter(
        (leaf) => leaf.includes('.zip!/') || leaf.includes('.7z!/'),
      );
      const [good = ''] = (await leavesOf(house, 'Fuzz', '1')).filter((leaf) =>
        leaf.startsWith('whole.zip!/tree/a.txt'),
      );
      // With a checksum in the format, an entry is right or listed.
      for (const leaf of bad.filter((other) => other.includes('tree/a.txt ')))
        expect(leaf.split(' ').slice(1).join(' ')).to.be.oneOf([
          good.split(' ').slice(1).join(' '),
          `${leaf.split(' ')[1] ?? ''} unread`,
        ]);
    });
  });

  it('bombs: in gzip, 7z, TAR under xz, nested and overlapping', async () => {
    mkdirSync(house.path('bombs'));
    // Packed in pieces that are put one after the other: as formats allow, and ten times as fast to make.
    const shell = (script: string): Buffer => run('sh', ['-c', script], house.root);
    shell('truncate -s 1100M zeros && truncate -s 100M piece && truncate -s 150M nest');
    shell('gzip -1 -n < piece > piece.gz && for i in $(seq 11); do cat piece.gz; done > bombs/a.bin.gz');
    run('7zz', ['a', '-mx1', 'bombs/b.7z', 'zeros'], house.root);
    shell('tar -cf - zeros | head -c 512 | xz -0 > bombs/c.tar.xz');
    shell('xz -0 -k piece && for i in $(seq 11); do cat piece.xz; done >> bombs/c.tar.xz');
    shell('head -c 1024 /dev/zero | xz -0 >> bombs/c.tar.xz');
    expect(shell('xz -dc bombs/c.tar.xz | tar -tvf - | cut -c 1-60').toString()).to.include('1153433600');
    // Ten times 150 MiB, each by itself below the limit.
    shell('zip -q -1 nest.zip nest');
    const packed = readFileSync(house.path('nest.zip'));
    const many: Record<string, Uint8Array> = {};
    for (let index = 0; index < 10; index++) many[`${index}.zip`] = packed;
    writeFileSync(house.path('bombs', 'd.zip'), zipSync(many, { level: 6 }));
    writeFileSync(house.path('bombs', 'neighbour.txt'), 'here');
    const begin = Date.now();
    const { files } = await house.index(house.path('bombs'), 'Bombs', '1');
    expect(files).to.be.greaterThan(0);
    expect((Date.now() - begin) / 1000, 'seconds').to.be.lessThan(220);
    const problems = await problemsOf(house, 'Bombs', '1');
    for (const name of ['a.bin.gz', 'b.7z', 'c.tar.xz', 'd.zip!/'])
      expect(
        problems.some((line) => line.startsWith(name) && line.includes('taken for a bomb')),
        name,
      ).to.equal(true);
    expect(await leavesOf(house, 'Bombs', '1', 'neighbour.txt')).to.have.length(1);
  });

  it('names that lead elsewhere, odd ones, links and devices in TAR', async () => {
    const archive = pack();
    const add = (name: string, content: string): void => void archive.entry({ name }, content);
    for (const name of ['../out.txt', '/etc/out.txt', 'C:\\out.txt', 'a/../../out.txt']) add(name, 'out');
    for (const name of [
      'line\nbreak.txt',
      `${'long/'.repeat(700)}name.txt`,
      'A.txt',
      'a.txt',
      'W\u00f6rter.txt',
      'Wo\u0308rter.txt',
    ])
      add(name, `content of ${name}`);
    archive.entry({ name: 'soft', type: 'symlink', linkname: 'a.txt' });
    archive.entry({ name: 'away', type: 'symlink', linkname: '../../etc/passwd' });
    archive.entry({ name: 'hard', type: 'link', linkname: 'a.txt' });
    archive.entry({ name: 'astray', type: 'link', linkname: 'nowhere.txt' });
    archive.entry({ name: 'tty', type: 'character-device', devmajor: 5 });
    archive.entry({ name: 'pipe', type: 'fifo' });
    archive.finalize();
    const pieces: Buffer[] = [];
    for await (const piece of archive) pieces.push(piece as Buffer);
    mkdirSync(house.path('odd'));
    writeFileSync(house.path('odd', 'plain.tar'), Buffer.concat(pieces));
    writeFileSync(house.path('odd', 'packed.tar.gz'), run('gzip', ['-c'], house.root, Buffer.concat(pieces)));
    await house.index(house.path('odd'), 'Odd', '1');
    const problems = await problemsOf(house, 'Odd', '1');
    for (const container of ['plain.tar!/', 'packed.tar.gz!/']) {
      const leaves = await leavesOf(house, 'Odd', '1', container);
      const contentAt = (path: string): string | undefined =>
        leaves
          .find((leaf) => leaf.startsWith(`${path} `))
          ?.split(' ')
          .at(-1);
      for (const name of [
        'line\nbreak.txt',
        'A.txt',
        'a.txt',
        'W\u00f6rter.txt',
        'Wo\u0308rter.txt',
        `${'long/'.repeat(700)}name.txt`,
      ])
        expect(contentAt(name), `${container}${name}`).to.match(/^[0-9a-f]{64}$/);
      expect(contentAt('a.txt')).to.not.equal(contentAt('A.txt'));
      expect(contentAt('W\u00f6rter.txt')).to.not.equal(contentAt('Wo\u0308rter.txt'));
      expect(contentAt('hard')).to.equal(contentAt('a.txt'));
      for (const [path, reason] of [
        ['../out.txt', 'leads out'],
        ['/etc/out.txt', 'absolute path'],
        ['C:\\out.txt', 'drive letter'],
        ['away', 'a link out of its archive'],
        ['astray', 'hard link to'],
        ['tty', 'a device'],
        ['pipe', 'a device'],
      ] as const)
        expect(
          problems.some((line) => line.startsWith(`${container}${path}: `) && line.includes(reason)),
          `${container}${path}`,
        ).to.equal(true);
    }
  });

  it('sparse files in TAR are refused with a reason', async () => {
    mkdirSync(house.path('sparse'));
    run('sh', ['-c', 'truncate -s 3M hole && printf end >> hole'], house.root);
    for (const [name, args] of [
      ['gnu.tar', ['--format=gnu']],
      ['pax.tar', ['--format=pax', '--sparse-version=1.0']],
    ] as const)
      run('tar', ['-S', ...args, '-cf', `sparse/${name}`, 'hole'], house.root);
    await house.index(house.path('sparse'), 'Sparse', '1');
    const problems = await problemsOf(house, 'Sparse', '1');
    expect(problems.filter((line) => line.includes('it is a sparse file'))).to.have.length(2);
  });

  it('names in a folder that are not UTF-8, or differ only in case or normal form, are kept apart', async () => {
    const folder = house.path('bytes');
    mkdirSync(folder);
    const put = (name: Buffer, content: string): void =>
      writeFileSync(Buffer.concat([Buffer.from(`${folder}/`), name]), content);
    put(Buffer.from([0x66, 0xfc, 0x72]), 'latin one');
    put(Buffer.from([0x66, 0xfe, 0x72]), 'latin two');
    mkdirSync(Buffer.concat([Buffer.from(`${folder}/`), Buffer.from([0xe9, 0x74, 0xe9])]));
    put(Buffer.concat([Buffer.from([0xe9, 0x74, 0xe9]), Buffer.from('/inner.txt')]), 'in a folder');
    put(Buffer.from('W\u00f6rter'), 'composed');
    put(Buffer.from('Wo\u0308rter'), 'decomposed');
    writeFileSync(join(folder, 'x.zip'), zipSync({ 'a.txt': text('a') }));
    await house.index(folder, 'Bytes', '1');
    const paths = (await leavesOf(house, 'Bytes', '1')).map((leaf) =>
      leaf.slice(0, leaf.lastIndexOf(' ', leaf.lastIndexOf(' ') - 1)),
    );
    expect(paths).to.have.members([
      'f⟨fc⟩r',
      'f⟨fe⟩r',
      '⟨e9⟩t⟨e9⟩/inner.txt',
      'W\u00f6rter',
      'Wo\u0308rter',
      'x.zip!/a.txt',
    ]);
    expect(await problemsOf(house, 'Bytes', '1')).to.deep.equal([]);
    await house.index(folder, 'Bytes', '2');
    expect((await house.diff('Bytes', '1', '2')).findings).to.deep.equal([]);
  });
});
