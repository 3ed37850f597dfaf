import { expect } from 'chai';
import { openSync, ftruncateSync, closeSync, statSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { TestHouse } from '../../tests/support/worvel.ts';
import { change, select } from '../platform/database/rows.ts';
import { ownerName } from '../platform/process-mark.ts';
import { packFile } from './layout.ts';

/** What a power cut leaves: rows that the database kept, and a pack whose end never reached the disk. */
describe('A store after a power cut', () => {
  const house = new TestHouse();
  const source = (): string => house.path('source');
  before(async () => {
    await house.open();
    mkdirSync(source());
    for (let index = 0; index < 40; index++)
      writeFileSync(join(source(), `${index}.bin`), Buffer.alloc(20_000, `content ${index}`));
  });
  after(() => house.close());

  it('forgets what was lost, and stores it again when it is met again', async () => {
    await house.index(source(), 'Cut', '1');
    const [pack] = await select<{ id: number }>(house.pool, 'SELECT MIN(id) AS id FROM packs');
    const file = packFile(house.folder.store, pack?.id ?? 0);
    // As if its writer had never come to seal it, and half of it were gone.
    await change(house.pool, 'UPDATE packs SET sealed = 0, owner = ? WHERE id = ?', [
      `${ownerName().split('/')[0] ?? ''}/1-1`,
      pack?.id ?? 0,
    ]);
    const descriptor = openSync(file, 'r+');
    ftruncateSync(descriptor, Math.floor(statSync(file).size / 2));
    closeSync(descriptor);
    const result = await house.index(source(), 'Cut', '2', '--arrive');
    const lost = await select(house.pool, 'SELECT hash FROM lost_contents');
    expect(lost.length).to.be.greaterThan(5);
    expect(result.newContents).to.equal(lost.length);
    expect((await house.diff('Cut', '1', '2')).findings).to.deep.equal([]);
    // And from then on it is as if nothing had been.
    expect((await house.index(source(), 'Cut', '3')).newContents).to.equal(0);
    expect(await select(house.pool, 'SELECT hash FROM lost_contents')).to.deep.equal([]);
    const unsealed = await select(house.pool, 'SELECT id FROM packs WHERE sealed = 0');
    expect(unsealed).to.deep.equal([]);
  });
});
