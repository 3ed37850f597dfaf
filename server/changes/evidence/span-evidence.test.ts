import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { change } from '../../platform/database/rows.ts';
import { startEvidence } from '../findings/recent-spans.ts';
import { spanState } from './span-evidence.ts';

describe('A span that was looked through', () => {
  const house = new TestHouse();
  let span: [PlacedBuild, PlacedBuild];
  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    for (const label of ['1', '2']) {
      writeFileSync(house.path('game', 'a.txt'), `of build ${label}`);
      await house.index(house.path('game'), 'Looked', label);
    }
    span = (await Promise.all(['1', '2'].map((label) => findBuild(house.pool, 1, label)))) as typeof span;
  });
  after(() => house.close());

  const looked = async (state: string): Promise<number | null> => {
    const [from, to] = span;
    await change(house.pool, "DELETE FROM jobs WHERE kind = 'evidence'");
    await change(
      house.pool,
      'REPLACE INTO span_evidence (channel_id, from_build, to_build, state, finished_at) VALUES (?, ?, ?, ?, NOW(3))',
      [to.channelId, from.id, to.id, state],
    );
    return startEvidence(house.pool, from, to);
  };

  it('is left alone while builds and comparing are what they were', async () => {
    expect(await looked(spanState(...span))).to.equal(null);
  });

  it('is looked through again when a build was indexed anew', async () => {
    const [from, to] = span;
    expect(await looked(spanState(from, { ...to, indexedAt: '2020-01-01T00:00:00.000Z' }))).to.be.a('number');
  });

  it('is looked through again when comparing has learned something, as after an update of Worvel', async () => {
    const [from, to] = span;
    // As it was written down before comparing was a part of it.
    expect(await looked(`${from.indexedAt} ${to.indexedAt}`)).to.be.a('number');
  });
});
