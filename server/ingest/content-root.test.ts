import { expect } from 'chai';
import { zipSync } from 'fflate';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { findContentRoot } from './content-root.ts';

/** Which folder of a source the paths count from. */
describe('findContentRoot', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'worvel-root-'))));
  afterEach(() => rmSync(folder, { recursive: true, force: true }));

  const put = (...paths: string[]): void => {
    for (const path of paths) {
      mkdirSync(dirname(join(folder, path)), { recursive: true });
      writeFileSync(join(folder, path), path);
    }
  };
  const rootOf = (wanted: string | null = null, isFound = false): Promise<string> =>
    findContentRoot(folder, 'folder', wanted, isFound);

  it('goes down as long as a folder holds one folder and nothing else', async () => {
    put('Game/Windows/data/a.txt', 'Game/Windows/data/b.txt');
    expect(await rootOf()).to.equal('Game/Windows/data');
    put('Game/Windows/readme.txt');
    expect(await rootOf()).to.equal('Game/Windows');
    put('setup.exe');
    expect(await rootOf()).to.equal('');
  });

  it('stays above a folder of one file, and in an empty one', async () => {
    put('only/file.txt');
    expect(await rootOf()).to.equal('only');
    rmSync(join(folder, 'only'), { recursive: true });
    expect(await rootOf()).to.equal('');
    mkdirSync(join(folder, 'a', 'b'), { recursive: true });
    expect(await rootOf()).to.equal('a/b');
  });

  it('takes what somebody says, however they write it, where it is there', async () => {
    put('Game/data/a.txt', 'Game/extra/b.txt');
    for (const written of ['Game/data', 'Game\\data\\', '/Game//data/', './Game/data/.'])
      expect(await rootOf(written), written).to.equal('Game/data');
    expect(await rootOf('')).to.equal('');
    expect(await rootOf('/')).to.equal('');
    // Nobody leads out of the source.
    expect(await rootOf('../../etc')).to.equal('Game');
    expect(await rootOf('not/there')).to.equal('Game');
  });

  it('keeps the root that was found before as long as it holds everything', async () => {
    put('Game/data/a.txt');
    expect(await rootOf('Game', true)).to.equal('Game');
    put('patch.txt');
    expect(await rootOf('Game', true)).to.equal('');
    // What somebody said holds in any case.
    expect(await rootOf('Game', false)).to.equal('Game');
  });

  for (const kind of ['zip', 'tar', 'iso'] as const)
    it(`finds the lowest common folder of a ${kind}`, async () => {
      put('in/Game/data/a/1.txt', 'in/Game/data/b/2.txt');
      const archive = join(folder, `game.${kind}`);
      if (kind === 'zip')
        writeFileSync(
          archive,
          zipSync({ 'Game/data/a/1.txt': Buffer.from('1'), 'Game/data/b/2.txt': Buffer.from('2') }),
        );
      else if (kind === 'tar') execFileSync('tar', ['-cf', archive, '-C', join(folder, 'in'), 'Game']);
      else execFileSync('genisoimage', ['-quiet', '-R', '-o', archive, join(folder, 'in')]);
      const root = (wanted: string | null, isFound: boolean): Promise<string> =>
        findContentRoot(archive, 'file', wanted, isFound);
      expect(await root(null, false)).to.equal('Game/data');
      expect(await root('Game', true)).to.equal('Game');
      expect(await root('Elsewhere', true)).to.equal('Game/data');
    });

  it('is the source itself where that is no archive, or a broken one', async () => {
    put('plain.bin');
    expect(await findContentRoot(join(folder, 'plain.bin'), 'file', null, false)).to.equal('');
    const whole = zipSync({ 'a/b.txt': Buffer.from('b') });
    writeFileSync(join(folder, 'cut.zip'), whole.subarray(0, whole.length - 10));
    expect(await findContentRoot(join(folder, 'cut.zip'), 'file', null, false)).to.equal('');
  });
});
