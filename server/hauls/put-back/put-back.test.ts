import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openSheet } from '../../../core/formats/open-sheet.ts';
import { nearestName } from './nearest-name.ts';
import { putBack, type PutBackReport } from './put-back.ts';
import { sistersOf, type MakeSister } from './sisters.ts';

describe('Putting back', () => {
  const root = mkdtempSync(join(tmpdir(), 'worvel-put-back-'));
  after(() => rmSync(root, { recursive: true, force: true }));
  const at = (...parts: string[]): string => join(root, ...parts);
  const game: Record<string, string> = {
    'lamps/lamp_l0.glb': 'the finest level '.repeat(50),
    'lamps/lamp_l1.glb': 'a coarser level',
    'texts/Names.json': '{"lamp": "Pier lantern"}',
    'empty.bin': '',
  };
  before(() => {
    for (const [name, text] of Object.entries(game)) {
      mkdirSync(at('game', name, '..'), { recursive: true });
      writeFileSync(at('game', name), text);
    }
    // By programs that everybody has: one entry stored, a comment, times of their own.
    execFileSync('zip', ['-q', '-r', '-X', at('game.zip'), '.'], { cwd: at('game') });
    execFileSync('zip', ['-q', '-0', at('game.zip'), 'texts/Names.json'], { cwd: at('game') });
    execFileSync('zip', ['-q', '-z', at('game.zip')], { input: 'the game’s own comment' });
    execFileSync('tar', ['-cf', at('game.tar'), '-C', at('game'), '.']);
  });
  let count = 0;
  /** @param files by the names that they are to have */
  const put = (
    source: string,
    files: Record<string, string>,
    target = `copy-${count}`,
    makeSister?: MakeSister,
  ): Promise<PutBackReport> => {
    const folder = at(`changed-${count++}`);
    for (const [name, text] of Object.entries(files)) {
      mkdirSync(join(folder, name, '..'), { recursive: true });
      writeFileSync(join(folder, name), text);
    }
    mkdirSync(folder, { recursive: true });
    return putBack(source, folder, at(target), {
      lookAt: async (bytes) => `${bytes.length} letters`,
      makeSister,
    });
  };
  const unzipped = (zip: string): Record<string, string> => {
    const folder = at(`unzipped-${count++}`);
    execFileSync('unzip', ['-q', zip, '-d', folder]);
    return Object.fromEntries(
      Object.keys(game).map((name) => [name, readFileSync(join(folder, name), 'utf8')]),
    );
  };

  it('gives a ZIP with exactly the wanted files changed, as unzip reads it', async () => {
    const changed = { 'lamps/lamp_l0.glb': 'another lamp', 'texts/Names.json': '{"lamp": "Lantern"}' };
    const report = await put(at('game.zip'), changed, 'one.zip');
    expect(report).to.include({ unchanged: 2 });
    execFileSync('unzip', ['-tq', at('one.zip')]);
    expect(unzipped(at('one.zip'))).to.deep.equal({ ...game, ...changed });
    const listed = (zip: string): string[] =>
      execFileSync('unzip', ['-Zv', zip], { encoding: 'utf8' })
        .split('\n')
        .filter((line) => /compression method|^Central/.test(line));
    expect(listed(at('one.zip'))).to.deep.equal(listed(at('game.zip')));
    expect(execFileSync('unzip', ['-z', at('one.zip')], { encoding: 'utf8' })).to.contain(
      'the game’s own comment',
    );
    expect(readFileSync(at('one.zip.put-back.html'), 'utf8')).to.contain('lamps/lamp_l0.glb');
  });

  it('gives the same ZIP, byte for byte, where what is put back is stored and is as it was', async () => {
    await put(at('game.zip'), { 'texts/Names.json': game['texts/Names.json'] ?? '' }, 'same.zip');
    expect(readFileSync(at('same.zip')).equals(readFileSync(at('game.zip')))).to.equal(true);
  });

  it('does so with TAR and with folders', async () => {
    const report = await put(at('game.tar'), { 'empty.bin': 'not any more' }, 'one.tar');
    expect(report.unchanged).to.equal(3);
    expect(execFileSync('tar', ['-xOf', at('one.tar'), './empty.bin'], { encoding: 'utf8' })).to.equal(
      'not any more',
    );
    const [before, now] = ['game.tar', 'one.tar'].map((name) =>
      execFileSync('tar', ['-tvf', at(name), '--exclude=./empty.bin'], { encoding: 'utf8' }),
    );
    expect(now).to.equal(before);
    await put(at('game'), { 'lamps/lamp_l1.glb': 'x' }, 'folder');
    expect(
      execFileSync('sh', ['-c', `diff -rq '${at('game')}' '${at('folder')}' || true`], { encoding: 'utf8' })
        .trim()
        .split('\n'),
    ).to.have.length(1);
  });

  it('lists other levels that stayed, and what the game may not expect', async () => {
    const { sisters, files } = await put(at('game.zip'), { 'lamps/lamp_l0.glb': 'short' });
    expect(sisters).to.deep.equal([
      { name: 'lamps/lamp_l1.glb', of: 'lamps/lamp_l0.glb', what: 'another level', why: '' },
    ]);
    expect(files[0]?.remarks).to.deep.equal(['It was 850 letters, and is 5 letters now.']);
  });

  it('makes them anew where that is wanted, and says why one could not be made', async () => {
    const made: MakeSister = async (of, sister) => {
      expect([of.name, sister.name, sister.bytes.toString()]).to.deep.equal([
        ...['lamps/lamp_l0.glb', 'lamps/lamp_l1.glb', 'a coarser level'],
      ]);
      writeFileSync(at('coarser'), 'the change, coarser');
      return { file: at('coarser'), says: 'coarser' };
    };
    const { files, sisters, copy } = await put(
      at('game.zip'),
      { 'lamps/lamp_l0.glb': 'new' },
      'made.zip',
      made,
    );
    expect(sisters).to.deep.equal([]);
    expect(files[1]?.remarks[0]).to.equal('Made of lamps/lamp_l0.glb: coarser.');
    expect(unzipped(copy)['lamps/lamp_l1.glb']).to.equal('the change, coarser');
    const report = await put(at('game.zip'), { 'lamps/lamp_l0.glb': 'new' }, 'stayed.zip', async () => ({
      reason: 'it cannot be read',
    }));
    expect(report.sisters[0]?.why).to.equal('it cannot be read');
    expect(readFileSync(at('stayed.zip.put-back.html'), 'utf8')).to.contain(
      'lamps/lamp_l1.glb stayed as it was: it is another level of lamps/lamp_l0.glb, and it cannot be read.',
    );
  });

  it('know other sizes of a picture in its folder by the words for them', () => {
    const names = [
      'a/sky.png',
      'a/sky_512.png',
      'a/sky_1k.png',
      'a/sky_small.jpg',
      'a/sky_night.png',
      'b/sky_512.png',
    ];
    const found = sistersOf(['a/sky.png'], names).map(({ name, what }) => `${name} ${what}`);
    expect(found).to.deep.equal([
      ...['a/sky_512.png another size', 'a/sky_1k.png another size', 'a/sky_small.jpg another size'],
    ]);
    expect(sistersOf(['a/sky_1k.png'], names).map(({ name }) => name)).to.include('a/sky.png');
  });

  it('proposes the name that is there, and writes nothing, where a name is not exactly it', async () => {
    const failure = async (files: Record<string, string>): Promise<string> =>
      put(at('game.zip'), files, 'never.zip').then(
        () => 'nothing',
        (error: Error) => error.message,
      );
    expect(await failure({ 'texts/names.json': 'x' })).to.contain(
      'texts/names.json (other capital letters? texts/Names.json is there)',
    );
    expect(await failure({ 'lamps/lamp_l0.gltf': 'x' })).to.contain(
      'another extension? lamps/lamp_l0.glb is there',
    );
    expect(await failure({ 'lamp_l0.glb': 'x' })).to.contain('another folder? lamps/lamp_l0.glb is there');
    expect(await failure({ 'lamps/lmap_l0.glb': 'x' })).to.contain(
      'another spelling? lamps/lamp_l0.glb is there',
    );
    expect(await failure({ 'something/else/entirely.dat': 'x' })).to.contain('nothing is called alike');
    expect(readdirSync(root).filter((name) => name.startsWith('never'))).to.deep.equal([]);
    expect(nearestName('x', [])).to.equal(null);
    // Of several with the same stem the one of its kind.
    expect(nearestName('a.tga', ['a.md2', 'a.png'])).to.deep.equal({
      name: 'a.png',
      why: 'another extension',
    });
  });

  it('refuses what is locked, damaged, packed by what is not written, or no archive, and targets that are there or inside', async () => {
    const failure = (source: string, target = 'nothing.zip', name = 'texts/Names.json'): Promise<string> =>
      put(source, { [name]: 'x' }, target).then(
        () => 'nothing',
        (error: Error) => error.message,
      );
    execFileSync('zip', ['-q', '-r', '-P', 'secret', at('locked.zip'), '.'], { cwd: at('game') });
    expect(await failure(at('locked.zip'))).to.equal('texts/Names.json is locked: it cannot be put back');
    writeFileSync(at('cut.zip'), readFileSync(at('game.zip')).subarray(0, 200));
    expect(await failure(at('cut.zip'))).to.match(/cut\.zip cannot be read: /);
    execFileSync('zip', ['-q', '-r', '-Z', 'bzip2', at('bz.zip'), 'lamps'], { cwd: at('game') });
    expect(await failure(at('bz.zip'), 'x.zip', 'lamps/lamp_l0.glb')).to.match(/method 12/);
    writeFileSync(at('text.txt'), 'no archive');
    expect(await failure(at('text.txt'))).to.match(
      /is no archive that is known: files are put back into folders, ZIP, TAR, and containers that a sheet describes \(--sheet, --title\)\.$/,
    );
    expect(await failure(at('game'), join('game', 'new'))).to.match(/which is only read/);
    writeFileSync(at('there.zip'), '');
    expect(await failure(at('game.zip'), 'there.zip')).to.match(
      /is there already, and is not overwritten\.$/,
    );
    expect(existsSync(at('nothing.zip'))).to.equal(false);
    expect(readdirSync(root).filter((name) => name.includes('worvel-part'))).to.deep.equal([]);
  });

  describe('into a container that a sheet describes', () => {
    const sheet = `
sheet: Shelf
language: 1
files: '**/*.shelf'
root:
  mark: { is: SHLF }
  count: u32
  check: { type: u32, equals: 'crc32(bytes(12, count * 12))' }
  boards: { type: board, count: count }
  names: { type: string, count: count, in: "sister(beside('.names'))" }
types:
  board: { place: u32, packed: u32, size: u32 }
result:
  entries: { each: boards, name: 'names[index]', offset: place, size: packed, unpack: [zlib] }
`;
    const opened = openSheet(sheet);
    const sheets = 'sheet' in opened ? [opened.sheet] : [];
    const files = { 'a/lamp.txt': 'a lamp', 'a/post.txt': 'a post, which is long '.repeat(20) };

    before(() => {
      // Made by Python, which knows nothing of what reads it.
      const program = `
import struct, sys, zlib
path, *texts = sys.argv[1:]
packed = [zlib.compress(text.encode()) for text in texts]
place, rows = 12 + 12 * len(texts), b''
for text, one in zip(texts, packed):
    rows += struct.pack('<III', place, len(one), len(text.encode()))
    place += len(one)
open(path, 'wb').write(b'SHLF' + struct.pack('<II', len(texts), zlib.crc32(rows)) + rows + b''.join(packed))
`;
      execFileSync('python3', ['-c', program, at('pier.shelf'), ...Object.values(files)]);
      writeFileSync(
        at('pier.names'),
        Object.keys(files)
          .map((name) => `${name}\0`)
          .join(''),
      );
    });

    /** What lies on it, as Python reads it. */
    const asPythonReads = (path: string): string[] => {
      const program = `
import json, struct, sys, zlib
bytes = open(sys.argv[1], 'rb').read()
count, check = struct.unpack('<II', bytes[4:12])
rows = bytes[12:12 + 12 * count]
assert zlib.crc32(rows) == check
texts = []
for place, packed, size in struct.iter_unpack('<III', rows):
    text = zlib.decompress(bytes[place:place + packed])
    assert len(text) == size
    texts.append(text.decode())
print(json.dumps(texts))
`;
      return JSON.parse(execFileSync('python3', ['-c', program, path], { encoding: 'utf8' })) as string[];
    };
    const said = (putting: Promise<unknown>): Promise<string> =>
      putting.then(
        () => 'nothing',
        (error: Error) => error.message,
      );
    const into = async (name: string, text: string, target: string): Promise<PutBackReport> => {
      const folder = at(`shelf-${count++}`);
      mkdirSync(join(folder, 'a'), { recursive: true });
      writeFileSync(join(folder, name), text);
      return putBack(at('pier.shelf'), folder, at(target), { lookAt: async () => null, sheets });
    };

    it('writes what says where a file lies and how large it is, and check sums, so that another program reads it', async () => {
      const report = await into('a/lamp.txt', 'another lamp, with more to say of it '.repeat(9), 'one.shelf');
      expect(report.unchanged).to.equal(1);
      expect(report.notes).to.deep.equal([
        'it lies behind all others',
        'written anew: “place”, “packed”, “size”',
      ]);
      expect(asPythonReads(at('one.shelf'))).to.deep.equal([
        'another lamp, with more to say of it '.repeat(9),
        files['a/post.txt'],
      ]);
      expect(readFileSync(at('one.shelf.put-back.html'), 'utf8')).to.contain('Written anew: “place”');
    });

    it('refuses names that are not there, and what the sheet does not fit', async () => {
      expect(await said(into('a/Lamp.txt', 'x', 'two.shelf'))).to.match(
        /other capital letters\? a\/lamp\.txt is there/,
      );
      expect(existsSync(at('two.shelf'))).to.equal(false);
      writeFileSync(at('broken.shelf'), readFileSync(at('pier.shelf')).subarray(0, 30));
      mkdirSync(at('some/a'), { recursive: true });
      writeFileSync(at('some/a/lamp.txt'), 'x');
      const broken = putBack(at('broken.shelf'), at('some'), at('three.shelf'), {
        lookAt: async () => null,
        sheets,
      });
      expect(await said(broken)).to.match(/broken\.shelf cannot be read: broken\.shelf: at 0x/);
      expect(readdirSync(root).filter((name) => name.includes('worvel-part'))).to.deep.equal([]);
    });
  });
});
