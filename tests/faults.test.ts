import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Zip, ZipDeflate, zipSync, type ZipInputFile } from 'fflate';
import { constants, crc32, deflateRawSync } from 'node:zlib';
import { sign } from '../demo/pictures.ts';
import { seeded } from '../demo/seeded.ts';
import { select } from '../server/platform/database/rows.ts';
import { listProblems, findBuild, findChannel } from '../server/acquire/builds/builds.ts';
import { TestHouse } from './support/worvel.ts';

const text = (words: string): Uint8Array => new TextEncoder().encode(words);

describe('Bad input', () => {
  const house = new TestHouse();
  let problems: Map<string, string>;
  before(async () => {
    await house.open();
    await house.serve(house.port);
    const source = house.path('source');
    mkdirSync(join(source, 'kept'), { recursive: true });
    const put = (name: string, bytes: Uint8Array): void => writeFileSync(join(source, name), bytes);
    const good = Buffer.from(
      zipSync({ 'lamp.txt': text('a lamp '.repeat(100)), 'reed.txt': text('a reed '.repeat(100)) }),
    );
    put('kept/good.txt', text('good'));
    put('good.zip', good);
    put('truncated.zip', good.subarray(0, good.length - 40));
    put('checksum.zip', damagedChecksum(good));
    put('damaged.zip', damagedData(good));
    put(
      'names.zip',
      zipSync({
        '../up.txt': text('up'),
        '/absolute.txt': text('abs'),
        'C:\\drive.txt': text('drive'),
        'fine.txt': text('fine'),
      }),
    );
    put('overlap.zip', overlapping(zipSync({ 'a.txt': text('a') })));
    put('bomb.zip', bomb());
    put('locked.zip', withEncryptedFlag(zipSync({ 'secret.txt': text('secret') })));
    const picture = await sign('cut', 200, [90, 40, 40], 'png');
    put('cut.png', picture.subarray(0, Math.floor(picture.length * 0.6)));
    put('broken.json', text('{"a": 1,'));
    put('broken.glb', text('glTF and nothing more'));
    put('broken.wav', text('RIFF____WAVEfmt and nothing more'));
    put('wrong.png', text('this is no picture'));
    symlinkSync('kept/good.txt', join(source, 'inside'));
    symlinkSync('../../outside', join(source, 'kept', 'outside'));
    execFileSync('mkfifo', [join(source, 'pipe')]);
    const result = await house.index(source, 'Bad', '1');
    expect(result).to.include({ locked: 1 });
    const channel = await findChannel(house.pool, 'Bad', 'main');
    const build = await findBuild(house.pool, channel, '1');
    problems = new Map((await listProblems(house.pool, build.id)).map(({ path, reason }) => [path, reason]));
  });
  after(() => house.close());

  const cases: [string, string, RegExp][] = [
    ['a truncated archive', 'truncated.zip', /archive was not opened/],
    [
      'a wrong checksum',
      'checksum.zip!/lamp.txt',
      /checksum is wrong: the archive says \w{8}, its data give \w{8}/,
    ],
    ['damaged data', 'damaged.zip!/lamp.txt', /damaged|checksum|does not unpack/],
    ['a name with ..', 'names.zip!/../up.txt', /leads out of the archive/],
    ['an absolute name', 'names.zip!//absolute.txt', /absolute/],
    ['a drive letter', 'names.zip!/C:\\drive.txt', /drive letter/],
    ['overlapping entries', 'overlap.zip', /overlap.*bomb/],
    ['a bomb', 'bomb.zip!/zeros.bin', /unpacks to more than .* bytes.*taken for a bomb/],
    ['a locked entry', 'locked.zip!/secret.txt', /locked with a key/],
    ['a link out of the tree', 'kept/outside', /link out of the tree/],
    ['a pipe', 'pipe', /neither a file, a folder nor a link/],
    ['a picture that is cut short', 'cut.png', /cannot be decoded/],
    ['JSON that breaks off', 'broken.json', /not valid JSON: it breaks at line 1/],
    ['a model of nothing', 'broken.glb', /this GLB has version/],
    ['a sound of nothing', 'broken.wav', /this WAV file has no “fmt ” chunk/],
  ];
  for (const [name, path, reason] of cases) {
    it(`${name} is listed with its reason`, () => expect(problems.get(path)).to.match(reason));
  }

  it('costs nothing else: the rest is indexed', async () => {
    for (const path of [
      'kept/good.txt',
      'good.zip!/lamp.txt',
      'good.zip!/reed.txt',
      'names.zip!/fine.txt',
      'bomb.zip!/fine.txt',
      'checksum.zip!/reed.txt',
      'wrong.png',
    ]) {
      const { output } = await house.run('search', '--title', 'Bad', path, '--json');
      const hit = output
        .split('\n')
        .filter(Boolean)
        .map((line) => JSON.parse(line) as { path: string; hash: string | null })
        .find((found) => found.path === path);
      expect(hit?.hash, path).to.match(/^[0-9a-f]{64}$/);
    }
  });

  it('writes nothing outside of the data folder, and nothing into the source', () => {
    expect(existsSync(house.path('up.txt'))).to.equal(false);
    expect(existsSync('/absolute.txt')).to.equal(false);
    expect(readdirSync(house.root).sort()).to.deep.equal(['data', 'source']);
  });

  it('is told in one sentence, with exit code 1 or 2', async () => {
    const told = async (...args: string[]) => house.run(...args);
    const missing = await told('index', '/nowhere/at/all', '--title', 'Bad', '--build', '9');
    expect(missing).to.deep.include({ code: 1, errors: 'The source /nowhere/at/all does not exist.\n' });
    const again = await told('index', house.path('source'), '--title', 'Bad', '--build', '1');
    expect(again.code).to.equal(1);
    expect(again.errors).to.match(/^The build 1 is indexed already; say --replace.*\n$/);
    expect((await told('diff', '--title', 'None', '--from', '1', '--to', '2')).errors).to.equal(
      'There is no title named None.\n',
    );
    expect((await told('diff', '--title', 'Bad', '--from', '1', '--to', '2')).errors).to.equal(
      'There is no build labelled 2 in this channel.\n',
    );
    expect((await told('diff', '--title', 'Bad')).code).to.equal(2);
    expect((await told('index', 'x', '--title', 'Bad', '--build', '1', '--threads', 'many')).code).to.equal(
      2,
    );
    expect((await told('dance')).code).to.equal(2);
  });
});

describe('An index that is cut off', () => {
  const house = new TestHouse();
  const source = (): string => house.path('source');
  before(async () => {
    await house.open();
    const random = seeded(5);
    for (let group = 0; group < 40; group++) {
      const entries: Record<string, Uint8Array> = {};
      mkdirSync(join(source(), String(group)), { recursive: true });
      for (let index = 0; index < 60; index++) {
        const bytes = Uint8Array.from({ length: 3000 + Math.floor(random() * 3000) }, () => random() * 256);
        if (index % 2 === 0) writeFileSync(join(source(), String(group), `${index}.bin`), bytes);
        else entries[`${index}.bin`] = bytes;
      }
      writeFileSync(join(source(), String(group), 'packed.zip'), zipSync(entries));
    }
  });
  after(() => house.close());

  const rows = (title: string): Promise<unknown[]> =>
    select(
      house.pool,
      `SELECT p.path, s.role, s.format, s.size, HEX(s.hash) AS hash FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
         JOIN channels c ON c.id = s.channel_id JOIN titles t ON t.id = c.title_id WHERE t.name = ? ORDER BY p.path`,
      [title],
    );

  it('by SIGKILL goes on where it was, and ends like one that was left alone', async () => {
    const child = house.start([
      'index',
      source(),
      '--title',
      'Killed',
      '--build',
      '1',
      '--threads',
      '1',
      '--json',
    ]);
    await new Promise<void>((resolve) => {
      child.stderr?.on('data', (piece: Buffer) => {
        if (/"phase":"reading files","files":[1-9]/.test(piece.toString('utf8'))) child.kill('SIGKILL');
      });
      child.on('exit', () => resolve());
    });
    const resumed = await house.index(source(), 'Killed', '1');
    const whole = await house.index(source(), 'Whole', '1');
    const { seconds: _a, readSeconds: _r, title: _b, newContents, newBytes, ...result } = resumed;
    const { seconds: _c, readSeconds: _s, title: _d, newContents: _e, newBytes: _f, ...expected } = whole;
    expect(result).to.deep.equal(expected);
    expect(newContents).to.equal(40 * 60);
    expect(newBytes).to.equal(result.bytes);
    expect(await rows('Killed')).to.deep.equal(await rows('Whole'));
    expect(await select(house.pool, 'SELECT * FROM intake_assets LIMIT 1')).to.deep.equal([]);
  });

  it('by Ctrl-C says so, and can be resumed', async () => {
    const child = house.start([
      'index',
      source(),
      '--title',
      'Stopped',
      '--build',
      '1',
      '--threads',
      '1',
      '--json',
    ]);
    let errors = '';
    let isStopped = false;
    child.stderr?.on('data', (piece: Buffer) => {
      errors += piece.toString('utf8');
      if (isStopped || !errors.includes('"phase":')) return;
      isStopped = true;
      child.kill('SIGINT');
    });
    const code = await new Promise((resolve) => child.on('exit', resolve));
    expect(code).to.equal(1);
    expect(errors).to.include('The work was stopped; it can be resumed.');
    expect(await house.index(source(), 'Stopped', '1')).to.include({ files: 40 * 60, containers: 40 });
  });

  it('leaves a source that was not written to', async () => {
    const before = execFileSync(
      'sh',
      ['-c', 'find . -newermt @0 -printf "%p %s %T@\\n" | sort | sha256sum'],
      { cwd: source() },
    ).toString();
    await house.index(source(), 'Pristine', '1');
    const after = execFileSync('sh', ['-c', 'find . -newermt @0 -printf "%p %s %T@\\n" | sort | sha256sum'], {
      cwd: source(),
    }).toString();
    expect(after).to.equal(before);
  });

  it('or made again with --replace changes that build and no other', async () => {
    const small = house.path('small');
    mkdirSync(small);
    const write = (content: string): void => writeFileSync(join(small, 'a.txt'), content);
    for (const label of ['1', '2', '3']) {
      write(label);
      await house.index(small, 'Replaced', label);
    }
    const before = await house.diff('Replaced', '1', '3');
    write('other');
    writeFileSync(join(small, 'b.txt'), 'b');
    await house.index(small, 'Replaced', '2', '--replace');
    expect(await house.diff('Replaced', '1', '3')).to.deep.equal(before);
    const { findings } = await house.diff('Replaced', '1', '2');
    expect(findings.map(({ status, path }) => `${status} ${path}`)).to.deep.equal([
      'changed a.txt',
      'added b.txt',
    ]);
    expect((await house.diff('Replaced', '2', '3')).summary).to.include({ changed: 1, removed: 1, added: 0 });
  });
});

/** The CRC-32 in the central directory, first entry, with a bit turned (APPNOTE 4.3.12: 16 bytes in). */
function damagedChecksum(archive: Buffer): Buffer {
  const bytes = Buffer.from(archive);
  const at = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1')) + 16;
  bytes[at] = (bytes[at] ?? 0) ^ 1;
  return bytes;
}

function damagedData(archive: Buffer): Buffer {
  const bytes = Buffer.from(archive);
  bytes.fill(0xff, 30 + 'lamp.txt'.length + 2, 30 + 'lamp.txt'.length + 8);
  return bytes;
}

/** Two directory entries for one local header, as overlapping bombs have thousands. */
function overlapping(archive: Uint8Array): Buffer {
  const bytes = Buffer.from(archive);
  const directory = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1'));
  const end = bytes.indexOf(Buffer.from('PK\x05\x06', 'latin1'));
  const entry = Buffer.from(bytes.subarray(directory, end));
  const second = Buffer.from(entry);
  second.write('b', 46, 'latin1');
  const tail = Buffer.from(bytes.subarray(end));
  tail.writeUInt16LE(2, 8);
  tail.writeUInt16LE(2, 10);
  tail.writeUInt32LE(entry.length * 2, 12);
  return Buffer.concat([bytes.subarray(0, directory), entry, second, tail]);
}

/** 1.2 GiB of zeros in some megabytes, beside an honest file. */
function bomb(): Buffer {
  const pieces: Uint8Array[] = [];
  const archive = new Zip((error, piece) => {
    if (error) throw error;
    pieces.push(piece);
  });
  // Compressed by hand: a piece that stands for itself can be said again and again.
  const piece = Buffer.alloc(8 * 1024 * 1024);
  const packed = deflateRawSync(piece, { level: 1, finishFlush: constants.Z_FULL_FLUSH });
  const times = 150;
  let crc = 0;
  for (let index = 0; index < times; index++) crc = crc32(piece, crc);
  const zeros: ZipInputFile = { filename: 'zeros.bin', compression: 8, size: times * piece.length, crc };
  archive.add(zeros);
  for (let index = 0; index < times; index++) zeros.ondata?.(null, packed, false);
  // The last block: of fixed codes, and empty (RFC 1951, 3.2.6).
  zeros.ondata?.(null, Uint8Array.of(3, 0), true);
  const fine = new ZipDeflate('fine.txt');
  archive.add(fine);
  fine.push(text('fine'), true);
  archive.end();
  return Buffer.concat(pieces);
}

function withEncryptedFlag(archive: Uint8Array): Buffer {
  const bytes = Buffer.from(archive);
  const directory = bytes.indexOf(Buffer.from('PK\x01\x02', 'latin1'));
  bytes[6] = (bytes[6] ?? 0) | 1;
  bytes[directory + 8] = (bytes[directory + 8] ?? 0) | 1;
  return bytes;
}
