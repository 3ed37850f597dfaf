import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import sharp from 'sharp';
import { TestHouse } from '../../../tests/support/worvel.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { RecentSpans } from './recent-spans.ts';

/** Findings while the facts of their builds come in. */
describe('Findings of a build that is being read', () => {
  const house = new TestHouse();
  const builds = async (): Promise<[PlacedBuild, PlacedBuild]> => [
    await findBuild(house.pool, 1, '1'),
    await findBuild(house.pool, 1, '2'),
  ];
  let spans: RecentSpans;
  const picture = sharp({ create: { width: 40, height: 30, channels: 3, background: '#a04020' } });

  before(async () => {
    await house.open();
    mkdirSync(house.path('game'));
    writeFileSync(house.path('game', 'wall.png'), await picture.png({ compressionLevel: 0 }).toBuffer());
    await house.index(house.path('game'), 'Steady', '1', '--arrive');
    writeFileSync(house.path('game', 'wall.png'), await picture.png({ compressionLevel: 9 }).toBuffer());
    await house.index(house.path('game'), 'Steady', '2', '--arrive');
    spans = new RecentSpans(house.pool);
  });
  after(() => house.close());

  const statuses = (view: { findings: readonly { status: string }[] }): string[] =>
    view.findings.map(({ status }) => status);

  it('are told by content first, and asked again by the newest facts', async () => {
    const [from, to] = await builds();
    const early = await spans.viewAsOf(from, to, undefined);
    expect(statuses(early.view)).to.deep.equal(['changed']);
    expect(early.asOf).to.equal(early.newestFacts);
    expect(await spans.evidence(from, to)).to.include({ state: 'reading' });
    // Waits until all is read.
    await house.index(house.path('game'), 'Steady', '2', '--replace');
    const [now, then] = await builds();
    expect(then.factsVersion).to.be.a('number');
    expect(statuses((await spans.viewAsOf(now, then, undefined)).view)).to.deep.equal(['repacked']);
  });

  it('stay as they were for whoever goes through them, as long as that is remembered', async () => {
    const [from, to] = await builds();
    // As another window saw them before facts came in.
    const before = { ...to, factsRevision: to.factsRevision - 1 };
    await spans.get(from, before);
    const kept = await spans.viewAsOf(from, to, from.factsRevision + before.factsRevision);
    expect(kept.asOf).to.equal(from.factsRevision + before.factsRevision);
    expect(kept.newestFacts).to.equal(kept.asOf + 1);
    const forgotten = await spans.viewAsOf(from, to, 12_345);
    expect(forgotten.asOf).to.equal(forgotten.newestFacts);
  });
});
