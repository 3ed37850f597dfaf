import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { getJson } from '../../../cli/connection.ts';
import { entriesSchema } from '../../../contract/catalogue.ts';
import { lexiconChangeSchema } from '../../../contract/names.ts';
import { made } from '../../../tests/support/made-model.ts';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { changeLexicon } from '../../library/names/lexicons.ts';
import { PlainError } from '../../platform/plain-error.ts';

describe('Drafts of entries', () => {
  const house = new TestHouse();
  const start = async (...paths: string[]) =>
    entriesSchema.parse(
      await getJson(await house.connection(), 'entries/started', {
        body: { channel: 1, build: '1', paths },
      }),
    );
  before(async () => {
    await house.open();
    const game = house.path('game');
    for (const folder of ['birds', 'text/en', 'text/de', 'tables'])
      mkdirSync(join(game, folder), { recursive: true });
    writeFileSync(join(game, 'birds', 'gru_white_l0.glb'), await made());
    writeFileSync(join(game, 'birds', 'gru_white_l1.glb'), await made());
    writeFileSync(join(game, 'birds', 'plain-thing.txt'), 'nobody names it');
    writeFileSync(join(game, 'text', 'en', 'names.json'), '{"gru_white": "White heron", "other": "Reed"}');
    writeFileSync(join(game, 'text', 'de', 'names.json'), '{"gru_white": "Weißer Reiher"}');
    writeFileSync(
      join(game, 'tables', 'long.json'),
      JSON.stringify({ gru_white: `${'It stands on one leg. '.repeat(20)}` }),
    );
    await house.index(game, 'Drafted', '1');
    const put = [
      { part: 'l', role: 'LOD', meaning: '' },
      { part: 'gru', role: 'code name', meaning: 'heron' },
    ];
    await changeLexicon(house.pool, 1, lexiconChangeSchema.parse({ put }), { by: 'Ada', seen: null });
  });
  after(() => house.close());

  it('have the names that players read, in all languages, and the finest of the family', async () => {
    const [entry] = await start('birds/gru_white_l0.glb');
    expect(entry).to.deep.include({ name: 'White heron', state: 'draft' });
    expect(entry?.details.names).to.deep.equal([{ language: 'de', name: 'Weißer Reiher' }]);
    expect(entry?.internalName).to.equal('gru_white');
    expect(entry?.paths).to.deep.equal(['birds/gru_white_l0.glb']);
  });

  it('are called as the file is where nothing else is known', async () => {
    const [entry] = await start('birds/plain-thing.txt');
    expect(entry).to.deep.include({ name: 'plain thing', internalName: 'plain-thing' });
    expect(entry?.details.names).to.deep.equal([]);
  });

  it('are made of many at once, and refused for builds that are not there', async () => {
    expect(await start('birds/gru_white_l0.glb', 'text/en/names.json')).to.have.length(2);
    const refused = getJson(await house.connection(), 'entries/started', {
      body: { channel: 1, build: '9', paths: ['birds/plain-thing.txt'] },
    });
    await refused.then(
      () => expect.fail('it should be refused'),
      (error: unknown) => expect(error).to.be.instanceOf(PlainError),
    );
  });
});
