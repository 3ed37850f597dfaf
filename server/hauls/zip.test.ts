import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { createWriteStream, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { zipOf } from './zip.ts';

describe('Files as a ZIP', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-zip-'));
  after(() => rmSync(folder, { recursive: true, force: true }));
  const written = async (names: readonly string[], as = 'x.zip'): Promise<string> => {
    await pipeline(zipOf(join(folder, 'in'), names), createWriteStream(join(folder, as)));
    return join(folder, as);
  };

  it('is taken by unzip, 7zz and Python, with small and large files, empty ones, and names of any letters', async () => {
    const contents = new Map([
      ['a.txt', Buffer.from('a lamp')],
      ['empty', Buffer.alloc(0)],
      ['Höhle/灯.bin', Buffer.alloc(70_000, 7)],
      ['large.bin', Buffer.alloc(5 * 1024 * 1024, 'worvel')],
    ]);
    mkdirSync(join(folder, 'in', 'Höhle'), { recursive: true });
    for (const [name, bytes] of contents) writeFileSync(join(folder, 'in', name), bytes);
    const zip = await written([...contents.keys()]);
    execFileSync('unzip', ['-tq', zip]);
    execFileSync('7zz', ['t', zip], { stdio: 'ignore' });
    const said = execFileSync(
      'python3',
      [
        '-c',
        'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); print(z.testzip()); print("\\n".join(z.namelist()))',
        zip,
      ],
      { encoding: 'utf8', env: { ...process.env, PYTHONIOENCODING: 'utf8' } },
    );
    expect(said.trim().split('\n')).to.deep.equal(['None', ...contents.keys()]);
    execFileSync('unzip', ['-q', '-d', join(folder, 'out'), zip]);
    for (const [name, bytes] of contents)
      expect(readFileSync(join(folder, 'out', name)).equals(bytes), name).to.equal(true);
    expect(readFileSync(await written([...contents.keys()], 'again.zip')).equals(readFileSync(zip))).to.equal(
      true,
    );
  });

  it('counts more files than 16 bits hold', async () => {
    writeFileSync(join(folder, 'in', 'one'), '1');
    const zip = await written(Array.from({ length: 66_000 }, () => 'one'));
    const count = execFileSync(
      'python3',
      ['-c', 'import sys,zipfile; print(len(zipfile.ZipFile(sys.argv[1]).namelist()))', zip],
      {
        encoding: 'utf8',
      },
    );
    expect(Number(count)).to.equal(66_000);
  });

  it('ends with an error where a file is gone, and not as if it were whole', async () => {
    const reason = await written(['gone']).then(
      () => 'nothing',
      (error: Error) => error.message,
    );
    expect(reason).to.contain('ENOENT');
  });
});
