import { expect } from 'chai';
import { mkdtempSync, readFileSync, rmSync, existsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { SmallShell } from './small-shell.ts';

describe('A small shell', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-test-shell-'));
  const complaints = join(folder, 'said');
  const shell = new SmallShell();

  after(() => rmSync(folder, { recursive: true, force: true }));

  it('hands words over as they are, whatever they look like', async () => {
    const hostile = join(folder, 'a\'; touch $(echo x) `id` "b" \\ *\n$HOME');
    expect(await shell.run(['touch', hostile], complaints, 5)).to.equal(0);
    expect(existsSync(hostile)).to.equal(true);
    expect(existsSync(join(folder, 'x'))).to.equal(false);
  });

  it('tells how programs end, one after the other, and what they said', async () => {
    const codes = await Promise.all(
      ['exit 3', 'exit 0', 'echo "no good" >&2; exit 1'].map((script) =>
        shell.run(['sh', '-c', script], complaints, 5),
      ),
    );
    expect(codes).to.deep.equal([3, 0, 1]);
    expect(readFileSync(complaints, 'utf8')).to.equal('no good\n');
  });

  it('ends what takes too long, and goes on', async () => {
    expect(await shell.run(['sleep', '30'], complaints, 0.3)).to.equal(137);
    expect(await shell.run(['true'], complaints, 5)).to.equal(0);
  });

  it('says so when it has been ended from outside, and starts anew', async () => {
    const error = await shell
      .run(['sh', '-c', 'kill -9 $(cut -d" " -f4 /proc/$PPID/stat)'], complaints, 5)
      .then(
        () => null,
        (reason: unknown) => reason,
      );
    expect(error).to.be.instanceOf(Error);
    expect(await shell.run(['true'], complaints, 5)).to.equal(0);
  });
});
