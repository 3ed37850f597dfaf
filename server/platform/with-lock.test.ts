import { expect } from 'chai';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { processMark } from './process-mark.ts';
import { withLock } from './with-lock.ts';

describe('withLock', () => {
  let folder = '';
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'worvel-lock-'))));
  afterEach(() => rmSync(folder, { recursive: true, force: true }));
  const lock = (waitSeconds = 5) => ({ file: join(folder, 'lock'), waitSeconds });

  it('lets one after the other in, and goes away', async () => {
    let inside = 0;
    let most = 0;
    await Promise.all(
      Array.from({ length: 6 }, () =>
        withLock(lock(), async () => {
          most = Math.max(most, ++inside);
          await sleep(10);
          inside--;
        }),
      ),
    );
    expect([most, existsSync(lock().file)]).to.deep.equal([1, false]);
  });

  it('is given free where the work fails', async () => {
    const failure = await withLock(lock(), () => Promise.reject(new Error('no'))).catch(
      (error: Error) => error.message,
    );
    expect([failure, existsSync(lock().file)]).to.deep.equal(['no', false]);
  });

  it('is taken over from a process that is dead, and not from one that lives', async () => {
    writeFileSync(lock().file, '999999999-1');
    expect(await withLock(lock(), () => Promise.resolve('taken'))).to.equal('taken');
    writeFileSync(lock().file, processMark() ?? '');
    const refused = await withLock(lock(0.1), () => Promise.resolve('')).catch(
      (error: Error) => error.message,
    );
    expect(refused).to.equal(`Another process holds ${lock().file}.`);
  });
});
