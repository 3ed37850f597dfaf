import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ContainerError } from '../../../core/containers/container-error.ts';
import { containerOf } from '../../../core/containers/container-format.ts';
import { MemorySource } from './byte-source.ts';
import { programText, runProgram } from './program.ts';
import { passingEntries } from './solid.ts';

const secret = 'the master key, which no archive may show';
const systemAreaBytes = 32_768;

describe('Programs that unpack', () => {
  let folder = '';
  const inFolder = (program: string, args: string[], input?: Buffer): Buffer =>
    execFileSync(program, args, {
      cwd: folder,
      ...(input ? { input } : {}),
      stdio: ['pipe', 'pipe', 'ignore'],
    });

  before(() => {
    folder = mkdtempSync(join(tmpdir(), 'worvel-programs-'));
    writeFileSync(join(folder, 'secret.txt'), secret);
    mkdirSync(join(folder, 'tree'));
    writeFileSync(join(folder, 'tree', 'ferry.txt'), 'the ferry leaves at nine');
    inFolder('genisoimage', ['-quiet', '-R', '-o', 'disc.iso', 'tree']);
    inFolder('gcab', ['-c', 'a.cab', 'tree/ferry.txt']);
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  const seen = async (program: string, ...args: string[]): Promise<string> =>
    (await programText({ program, args, input: '' })).trim();

  it('see the system’s programs, and no other file, variable, user or network', async () => {
    const files = await seen('find', '/', '-maxdepth', '1', '-mindepth', '1');
    expect(files.split('\n').sort()).to.deep.equal(
      ['/bin', '/etc', '/lib', '/lib64', '/usr'].filter((path) => files.includes(path)),
    );
    expect(await seen('ls', '/etc')).to.equal('alternatives');
    expect((await seen('env')).split('\n').map((line) => line.split('=')[0])).to.have.members([
      'PATH',
      'LC_ALL',
      'PWD',
    ]);
    expect(await seen('id', '-u')).to.equal('65534');
    expect(await seen('pwd')).to.equal('/');
    for (const path of [join(folder, 'secret.txt'), '/etc/passwd', '/proc/self/environ'])
      expect(await failureOf(() => seen('cat', path)), path).to.match(/No such file/);
    expect(await failureOf(() => seen('touch', '/usr/planted'))).to.match(/Read-only|Permission denied/);
  });

  it('find nothing at the paths that an mtree names, even where one is given to them', async () => {
    const mtree = Buffer.from(mtreeOf(join(folder, 'secret.txt')));
    const parts: Buffer[] = [];
    const output = runProgram({
      program: 'bsdtar',
      args: ['--format=pax', '-cf', '-', '@-'],
      input: new MemorySource(mtree),
      mayFail: true,
    });
    for await (const piece of output) parts.push(piece);
    expect(Buffer.concat(parts).includes(secret)).to.equal(false);
    // Outside of the sandbox the same program reads the file: the test tests something.
    expect(inFolder('bsdtar', ['--format=pax', '-cf', '-', '@-'], mtree).includes(secret)).to.equal(true);
  });

  const mtreeOf = (path: string): string => `#mtree\n./planted type=file contents=${path}\n`;
  /** What libarchive would take a stream for that begins so, by what makes it. */
  const disguises: Record<string, () => Buffer> = {
    mtree: () => Buffer.from(mtreeOf(join(folder, 'secret.txt'))),
    'an mtree without its first line': () =>
      Buffer.from(`/set type=file\n./planted contents=${join(folder, 'secret.txt')}\n`.repeat(8)),
    'an mtree after empty lines': () => Buffer.from(`\n\n${mtreeOf(join(folder, 'secret.txt'))}`),
  };
  for (const filter of [
    'gzip',
    'bzip2',
    'xz',
    'lzma',
    'lzip',
    'lz4',
    'zstd',
    'compress',
    'uuencode',
    'b64encode',
  ])
    disguises[`an mtree in ${filter}`] = () => packed([`--${filter}`], mtreeOf(join(folder, 'secret.txt')));
  for (const format of [
    'ustar',
    'pax',
    'gnutar',
    'v7tar',
    'newc',
    'odc',
    'bin',
    '7zip',
    'zip',
    'xar',
    'warc',
    'iso9660',
    'shar',
  ])
    disguises[`a ${format} archive`] = () =>
      inFolder('bsdtar', [`--format=${format}`, '-cf', '-', 'secret.txt']);
  for (const filter of ['uuencode', 'b64encode'])
    disguises[`a TAR in ${filter}`] = () =>
      inFolder('bsdtar', ['--format=ustar', `--${filter}`, '-cf', '-', 'secret.txt']);
  // Their first bytes, as file(1) knows them: nothing here writes these formats.
  for (const [name, head] of Object.entries({
    'RAR 4': 'Rar!\x1a\x07\0',
    'RAR 5': 'Rar!\x1a\x07\x01\0',
    LHA: '#\0-lh5-\x10\0\0\0\x10\0\0\0',
    RPM: '\xed\xab\xee\xdb\x03\0\0\0',
    lrzip: 'LRZI\0\x06',
    'grzip and lzop': '\x89LZO\0\r\n\x1a\n',
    'a program with an archive behind it': 'MZ\x90\0',
  }))
    disguises[name] = () => Buffer.from(head, 'latin1');

  /** A text in a compression alone: bsdtar writes it as the one member of a raw archive. */
  function packed(filter: string[], text: string): Buffer {
    writeFileSync(join(folder, 'text'), text);
    return inFolder('bsdtar', ['--format=raw', ...filter, '-cf', '-', 'text']);
  }

  it('read a disc image as a disc image, whatever it begins with', async () => {
    const disc = readFileSync(join(folder, 'disc.iso'));
    let tried = 0;
    for (const [name, make] of Object.entries(disguises)) {
      const disguised = Buffer.concat([make().subarray(0, systemAreaBytes)]);
      const bytes = Buffer.concat([disguised, disc.subarray(disguised.length)]);
      const format = containerOf((offset, length) => bytes.subarray(offset, offset + length), 'a.bin');
      // What is told apart as something else by its first bytes is not given to bsdtar.
      if (format !== 'iso') continue;
      expect(await entriesOf('iso', bytes), name).to.deep.equal({ 'ferry.txt': 'the ferry leaves at nine' });
      tried++;
    }
    expect(tried).to.be.greaterThan(12);
  });

  it('read a cabinet as a cabinet, whatever follows its signature', async () => {
    const cabinet = readFileSync(join(folder, 'a.cab'));
    expect(Object.values(await entriesOf('cab', cabinet))).to.deep.equal(['the ferry leaves at nine']);
    for (const [name, make] of Object.entries(disguises)) {
      for (const keep of [8, 36]) {
        const bytes = Buffer.concat([cabinet.subarray(0, keep), Buffer.from('\n'), make()]);
        const outcome = await entriesOf('cab', bytes).catch((error: unknown) => {
          expect(error, name).to.be.instanceOf(ContainerError);
          return {};
        });
        expect(JSON.stringify(outcome), name).not.to.match(/planted|secret|master key/);
      }
    }
  });

  it('say so where one is not installed', async () => {
    expect(await failureOf(() => seen('no-such-unpacker'))).to.equal(
      'its data are damaged: the program no-such-unpacker is not installed on this machine',
    );
  });
});

async function entriesOf(format: 'iso' | 'cab', bytes: Buffer): Promise<Record<string, string>> {
  const entries: Record<string, string> = {};
  for await (const entry of passingEntries(format, new MemorySource(bytes), 'a', null)) {
    const parts: Buffer[] = [];
    for await (const piece of entry.body) parts.push(Buffer.from(piece));
    if (entry.type === 'file') entries[entry.name] = Buffer.concat(parts).toString('latin1');
  }
  return entries;
}

async function failureOf(work: () => Promise<unknown>): Promise<string> {
  try {
    await work();
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
  return 'nothing failed';
}
