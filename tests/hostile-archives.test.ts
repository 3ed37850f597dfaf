import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { findBuild, findChannel, listProblems } from '../server/acquire/builds/builds.ts';
import { select } from '../server/platform/database/rows.ts';
import { TestHouse } from './support/worvel.ts';

const text = (words: string): Uint8Array => new TextEncoder().encode(words);

/** Archives that lie about what they are, or promise more than they have, in a source among others. */
describe('Hostile archives', () => {
  const house = new TestHouse();
  const secret = 'what only this user may read';
  let problems: Map<string, string>;
  let peakMegabytes = 0;
  let bytes = 0;
  before(async () => {
    await house.open();
    await house.serve(house.port);
    const source = house.path('source');
    mkdirSync(source);
    writeFileSync(house.path('secret.txt'), secret);
    const put = (name: string, content: Uint8Array): void => writeFileSync(join(source, name), content);
    put('fine.txt', text('fine'));

    // A disc image that begins as an mtree, which would have the unpacker open any path.
    mkdirSync(house.path('disc'));
    writeFileSync(house.path('disc', 'ferry.txt'), 'the ferry leaves at nine');
    execFileSync('genisoimage', ['-quiet', '-R', '-o', house.path('plain.iso'), house.path('disc')]);
    const disc = readFileSync(house.path('plain.iso'));
    for (const [name, path] of [
      ['passwd.iso', '/etc/passwd'],
      ['master.iso', house.path('data', 'master.key')],
      ['secret.bin', house.path('secret.txt')],
    ] as const) {
      const disguised = Buffer.from(disc);
      disguised.write(`#mtree\n./planted type=file contents=${path}\n`, 0, 'latin1');
      put(name, disguised);
      put(`${name}.zip`, zipSync({ [name]: [disguised, { level: 0 }], deflated: disguised }));
    }

    // Links whose targets are as long as a film.
    put('links.zip', linkZip(300 * 1024 ** 2));

    // A directory that claims four gigabytes for forty bytes.
    put('claims.zip', claimingZip(0xfffffff0));
    // Archives in archives, under names so long that no column holds the path.
    let inner = zipSync({ 'leaf.txt': text('leaf') });
    for (let depth = 0; depth < 6; depth++)
      inner = zipSync({ [`${'ü'.repeat(2000)}${depth}.zip`]: [inner, { level: 0 }] });
    put('long.zip', inner);

    const watch = setInterval(() => {
      for (const child of house.childProcesses)
        peakMegabytes = Math.max(peakMegabytes, treeMegabytes(child.pid ?? 0));
    }, 50);
    const result = await house.index(source, 'Hostile', '1');
    clearInterval(watch);
    bytes = result.bytes;
    const build = await findBuild(house.pool, await findChannel(house.pool, 'Hostile', 'main'), '1');
    problems = new Map((await listProblems(house.pool, build.id)).map(({ path, reason }) => [path, reason]));
  });
  after(() => house.close());

  const paths = async (): Promise<string[]> =>
    (
      await select<{ path: string }>(
        house.pool,
        'SELECT p.path FROM asset_spans s JOIN paths p ON p.digest = s.path_digest WHERE s.hash IS NOT NULL AND s.role = 0',
      )
    ).map(({ path }) => path);

  it('bring in nothing from outside of themselves', async () => {
    const all = await paths();
    expect(all.filter((path) => path.includes('planted'))).to.deep.equal([]);
    for (const name of ['passwd.iso', 'master.iso', 'secret.bin'])
      for (const at of [name, `${name}.zip!/${name}`, `${name}.zip!/deflated`])
        expect(all, at).to.include(`${at}!/ferry.txt`);
    const packs = execFileSync('sh', [
      '-c',
      `cat "${house.path('data', 'store')}"/packs/* | grep -c -a "${secret}" || true`,
    ]);
    expect(packs.toString().trim()).to.equal('0');
  });

  it('with links longer than any path cost that entry and no memory', () => {
    expect(problems.get('links.zip!/link')).to.equal('it is a link whose target is longer than 4096 bytes');
    expect(problems.has('links.zip!/fine.txt')).to.equal(false);
    expect(peakMegabytes).to.be.below(1500);
  });

  it('that claim more than their bytes can hold count for nothing', () => {
    expect(problems.get('claims.zip!/large.bin')).to.include('does not unpack to the');
    expect(bytes).to.be.below(100 * 1024 ** 2);
  });

  it('whose paths no column holds are listed under a shorter name, and the rest goes on', async () => {
    const long = [...problems].filter(([, reason]) => reason.includes('its path is longer than 8192 bytes'));
    expect(long.length).to.be.greaterThan(0);
    for (const [path] of long) expect(Buffer.byteLength(path)).to.be.below(4200);
    expect(await paths()).to.include('fine.txt');
  });
});

/** A ZIP with a link whose target, all of one letter, has so many bytes. */
function linkZip(targetBytes: number): Uint8Array {
  const zipped = Buffer.from(
    zipSync(
      { link: new Uint8Array(targetBytes).fill(120), 'fine.txt': text('fine') },
      { level: 9, os: 3, attrs: 0o120777 << 16 },
    ),
  );
  // The second entry is a plain file.
  const second = zipped.lastIndexOf(Buffer.from('PK\x01\x02', 'latin1'));
  zipped.writeUInt32LE((0o100644 << 16) >>> 0, second + 38);
  return zipped;
}

/** A ZIP whose directory claims so many bytes for what it holds. */
function claimingZip(claimedBytes: number): Uint8Array {
  const zipped = Buffer.from(zipSync({ 'large.bin': text('forty bytes at the most are in this file') }));
  const central = zipped.lastIndexOf(Buffer.from('PK\x01\x02', 'latin1'));
  zipped.writeUInt32LE(claimedBytes, central + 24);
  zipped.writeUInt32LE(claimedBytes, 22);
  return zipped;
}

/** What a process and those that it started have in memory. */
function treeMegabytes(pid: number): number {
  try {
    const resident = (Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * 4096) / 1024 ** 2;
    const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8')
      .trim()
      .split(' ')
      .filter(Boolean);
    return children.reduce((sum, child) => sum + treeMegabytes(Number(child)), resident);
  } catch {
    return 0;
  }
}
