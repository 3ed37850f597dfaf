import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import type { SeenContainer, SeenSource } from '../../contract/look.ts';
import { PlainError } from '../platform/plain-error.ts';
import { lookInto } from './look.ts';

/** What lies where in a source, by heads and directories alone. Archives are made by Debian's zip, tar, 7zz and gzip. */
describe('lookInto', () => {
  let root: string;
  const put = (path: string, bytes: string | Uint8Array): void => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), bytes);
  };
  const make = (folder: string, program: string, ...args: string[]): void => {
    execFileSync(program, args, { cwd: join(root, folder), stdio: 'ignore' });
  };
  const container = ({ containers }: SeenSource, path: string): SeenContainer => {
    const found = containers.find((one) => one.path === path);
    if (!found)
      throw new Error(`${path} was not seen; there are ${containers.map((one) => one.path).join()}`);
    return found;
  };
  beforeEach(() => (root = mkdtempSync(join(tmpdir(), 'worvel-test-look-'))));
  afterEach(() => rmSync(root, { recursive: true, force: true }));

  it('adds up files and folders, the largest first, with all that is below each', async () => {
    put('game/data/large.bin', Buffer.alloc(5000));
    put('game/data/deep/small.txt', 'reed');
    put('game/readme.txt', 'hello');
    const seen = await lookInto(join(root, 'game'));
    expect(seen).to.include({ kind: 'folder', files: 3, bytes: 5009 });
    expect(seen.folders).to.deep.equal([
      { path: 'data', files: 2, bytes: 5004 },
      { path: 'data/deep', files: 1, bytes: 4 },
    ]);
    expect([seen.containers, seen.problems]).to.deep.equal([[], []]);
  });

  it('reads directories of archives, whatever they are called, and of those that lie in them as they are', async () => {
    put('made/a.txt', 'x'.repeat(1000));
    put('made/b.txt', 'y');
    make('made', 'zip', '-q', 'inner.zip', 'a.txt', 'b.txt');
    make('made', 'zip', '-q', '-0', 'outer.zip', 'inner.zip', 'b.txt');
    make('made', 'tar', 'cf', 'all.tar', 'a.txt', 'inner.zip');
    make('made', '7zz', 'a', 'all.7z', 'a.txt', 'b.txt');
    put('game/props.dat', readFileSync(join(root, 'made/outer.zip')));
    put('game/all.tar', readFileSync(join(root, 'made/all.tar')));
    put('game/all.7z', readFileSync(join(root, 'made/all.7z')));
    const seen = await lookInto(join(root, 'game'));
    expect(container(seen, 'props.dat')).to.include({
      format: 'zip',
      entries: 2,
      lock: 'open',
      reason: null,
    });
    expect(container(seen, 'props.dat!/inner.zip')).to.include({ entries: 2, unpackedBytes: 1001 });
    expect(container(seen, 'all.tar')).to.include({ format: 'tar', entries: 2 });
    expect(container(seen, 'all.tar!/inner.zip')).to.include({ format: 'zip', entries: 2 });
    expect(container(seen, 'all.7z')).to.include({ format: '7z', entries: 2, unpackedBytes: 1001 });
  });

  it('tells what is locked, and what of it', async () => {
    put('made/a.txt', 'secret');
    put('made/b.txt', 'open');
    make('made', 'zip', '-q', '-P', 'key', 'locked.zip', 'a.txt');
    make('made', 'zip', '-q', '-P', 'key', 'partly.zip', 'a.txt');
    make('made', 'zip', '-q', 'partly.zip', 'b.txt');
    make('made', '7zz', 'a', '-pkey', '-mhe=on', 'shut.7z', 'a.txt');
    const seen = await lookInto(join(root, 'made'));
    expect(['locked.zip', 'partly.zip', 'shut.7z'].map((path) => container(seen, path).lock)).to.deep.equal([
      'locked',
      'partly locked',
      'locked',
    ]);
  });

  it('does not unpack a stream to know what is in it', async () => {
    put('game/log.txt', 'a log');
    make('game', 'gzip', 'log.txt');
    const seen = await lookInto(join(root, 'game'));
    expect(container(seen, 'log.txt.gz')).to.include({ format: 'gzip', entries: null, unpackedBytes: null });
  });

  it('says why a directory cannot be read, and goes on with the rest', async () => {
    put('made/a.txt', 'x'.repeat(5000));
    make('made', 'zip', '-q', 'whole.zip', 'a.txt');
    const whole = readFileSync(join(root, 'made/whole.zip'));
    put('game/cut.zip', whole.subarray(0, whole.length - 30));
    put('game/whole.zip', whole);
    const seen = await lookInto(join(root, 'game'));
    expect(container(seen, 'cut.zip').reason).to.be.a('string');
    expect(container(seen, 'whole.zip')).to.include({ entries: 1, reason: null });
  });

  it('looks into an archive that is itself the source', async () => {
    put('made/a.txt', 'reed');
    make('made', 'zip', '-q', 'game.zip', 'a.txt');
    const seen = await lookInto(join(root, 'made/game.zip'));
    expect(seen).to.include({ kind: 'file', files: 1 });
    expect(container(seen, '')).to.include({ format: 'zip', entries: 1, unpackedBytes: 4 });
  });

  it('goes four archives deep, and no deeper', async () => {
    put('made/a.txt', 'reed');
    let inside = 'a.txt';
    for (let depth = 1; depth <= 6; depth++) {
      make('made', 'zip', '-q', '-0', `${depth}.zip`, inside);
      inside = `${depth}.zip`;
    }
    const seen = await lookInto(join(root, 'made/6.zip'));
    expect(seen.containers.map(({ path }) => path).sort()).to.deep.equal([
      '',
      '5.zip',
      '5.zip!/4.zip',
      '5.zip!/4.zip!/3.zip',
    ]);
  });

  it('says that there is no such source', async () => {
    const refused = await lookInto(join(root, 'nowhere')).catch((error: unknown) => error);
    expect(refused).to.be.instanceOf(PlainError);
  });
});
