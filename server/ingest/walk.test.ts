import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Choice, wholeChoice } from '../../core/containers/choice.ts';
import { lookAt, walkFolder, type WalkedPart } from './walk.ts';

/** What lies in a folder, as a job is told of it. */
describe('walkFolder', () => {
  let root: string;
  beforeEach(() => (root = mkdtempSync(join(tmpdir(), 'worvel-test-walk-'))));
  afterEach(() => rmSync(root, { recursive: true, force: true }));

  const put = (path: string, bytes = path): void => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), bytes);
  };
  const walk = (only: readonly string[] = [], without: readonly string[] = []): WalkedPart => {
    const all: WalkedPart = { files: [], links: [], problems: [], leftOut: { files: 0, bytes: 0 } };
    for (const part of walkFolder(root, new Choice({ only, without }))) {
      all.files.push(...part.files);
      all.links.push(...part.links);
      all.problems.push(...part.problems);
      all.leftOut.files += part.leftOut.files;
      all.leftOut.bytes += part.leftOut.bytes;
    }
    return all;
  };
  const paths = ({ files }: WalkedPart): string[] => files.map(({ path }) => path).sort();

  it('finds every file with its size, however deep, and nothing in empty folders', () => {
    put('a.txt');
    put('one/two/three/four.bin', 'four!');
    mkdirSync(join(root, 'empty', 'emptier'), { recursive: true });
    const found = walk();
    expect(paths(found)).to.deep.equal(['a.txt', 'one/two/three/four.bin']);
    expect(found.files.map(({ size }) => size).sort()).to.deep.equal([5, 5]);
    expect([found.links, found.problems]).to.deep.equal([[], []]);
  });

  it('hands out thousands in parts, each file once', () => {
    for (let at = 0; at < 2500; at++) put(`many/${at % 7}/${at}`, '');
    const parts = [...walkFolder(root, new Choice(wholeChoice))];
    expect(parts.every(({ files }) => files.length <= 1000)).to.equal(true);
    const names = parts.flatMap((part) => part.files.map(({ path }) => path));
    expect([names.length, new Set(names).size]).to.deep.equal([2500, 2500]);
  });

  it('records links and follows none; one that leaves the tree is a problem as well', () => {
    put('in/here.txt');
    symlinkSync('here.txt', join(root, 'in', 'beside'));
    symlinkSync('../in', join(root, 'in', 'around'));
    symlinkSync('/etc', join(root, 'out'));
    symlinkSync('nowhere', join(root, 'dangling'));
    const found = walk();
    expect(paths(found)).to.deep.equal(['in/here.txt']);
    expect(found.links.map(({ path, target }) => `${path} → ${target}`).sort()).to.deep.equal([
      'dangling → nowhere',
      'in/around → ../in',
      'in/beside → here.txt',
      'out → /etc',
    ]);
    expect(found.problems).to.deep.equal([{ path: 'out', reason: 'it is a link out of the tree, to /etc' }]);
  });

  it('says of what is no file that it is none', () => {
    execFileSync('mkfifo', [join(root, 'pipe')]);
    put('file');
    const found = walk();
    expect(paths(found)).to.deep.equal(['file']);
    expect(found.problems).to.deep.equal([
      { path: 'pipe', reason: 'it is neither a file, a folder nor a link' },
    ]);
  });

  it('counts what is left out, and goes into nothing of it', () => {
    put('keep/a.png', '1234');
    put('drop/b.png', '12');
    put('drop/deeper/c.png', '123');
    put('keep/d.tmp', '1');
    const found = walk([], ['drop', '*.tmp']);
    expect(paths(found)).to.deep.equal(['keep/a.png']);
    expect(found.leftOut).to.deep.equal({ files: 3, bytes: 6 });
    const named = walk(['drop/deeper']);
    expect(paths(named)).to.deep.equal(['drop/deeper/c.png']);
  });

  it('keeps names that are no UTF-8, by their bytes, in folders of such names too', () => {
    const folder = Buffer.concat([Buffer.from(`${root}/`), Buffer.from([0x66, 0xfc])]);
    mkdirSync(folder);
    writeFileSync(Buffer.concat([folder, Buffer.from('/'), Buffer.from([0xe9, 0x2e, 0x74])]), 'old');
    const [file] = walk().files;
    expect(file?.rawPath).to.equal('66fc2fe92e74');
    expect(file?.size).to.equal(3);
    expect(file?.path).not.to.include('\ufffd');
  });

  it('tells a file that was written anew from what it was, and one that only just was as unsettled', () => {
    put('a.txt');
    expect(lookAt(root, 'a.txt').isSettled).to.equal(false);
    const before = lookAt(root, 'a.txt').signature;
    expect(lookAt(root, 'a.txt').signature).to.equal(before);
    utimesSync(join(root, 'a.txt'), 1, 1);
    expect(lookAt(root, 'a.txt').signature).not.to.equal(before);
    expect(() => lookAt(root, 'b.txt')).to.throw('ENOENT');
  });
});
