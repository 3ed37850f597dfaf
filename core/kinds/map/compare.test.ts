import { expect } from 'chai';
import munkres from 'munkres-js';
import type { MapDetail } from '../../../contract/comparisons.ts';
import { placementSchema, type Placement } from '../../../contract/facts.ts';
import { compareBytes } from '../../../tests/support/compare.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';
import { cheapestAssignment } from './compare/assign.ts';
import { matchPlacements, metresBetween } from './compare/match.ts';
import { compareScenes } from './compare/scenes.ts';

const placement = (
  id: string,
  model: string,
  position: [number, number, number],
  more: Partial<Placement> = {},
): Placement => placementSchema.parse({ id, model, position, ...more });

function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return state / 0x7fffffff;
  };
}

const table = (placements: readonly Placement[]): Uint8Array =>
  new TextEncoder().encode(JSON.stringify({ name: 'marsh', placements }));
const compared = async (
  old: readonly Placement[],
  now: readonly Placement[],
): Promise<{ sentence: string; map: MapDetail }> => {
  const { sentence, detail } = await compareBytes(
    { bytes: table(old), path: 'maps/marsh.map.json' },
    { bytes: table(now), path: 'maps/marsh.map.json' },
  );
  if (detail?.kind !== 'map') throw new Error('no detail of a map');
  return { sentence, map: detail };
};

describe('cheapestAssignment', () => {
  it('costs what a general-purpose library’s assignment costs, on seeded cases', () => {
    const random = seeded(3);
    for (let round = 0; round < 60; round++) {
      const rows = 1 + Math.floor(random() * 9);
      const columns = rows + Math.floor(random() * 5);
      const costs = Array.from({ length: rows }, () =>
        Array.from({ length: columns }, () => Math.floor(random() * 100)),
      );
      const ours = cheapestAssignment(rows, columns, (row, column) => costs[row]?.[column] ?? 0);
      expect(new Set(ours).size).to.equal(rows);
      // The library wants a square.
      const square = Array.from(
        { length: columns },
        (_, row) => costs[row] ?? Array.from({ length: columns }, () => 0),
      );
      const theirs = (munkres(square) as [number, number][]).filter(([row]) => row < rows);
      const sum = (pairs: readonly (readonly [number, number])[]): number =>
        pairs.reduce((total, [row, column]) => total + (costs[row]?.[column] ?? 0), 0);
      expect(sum([...ours].map((column, row) => [row, column]))).to.equal(sum(theirs));
    }
  });
});

describe('matching placements', () => {
  it('without identities takes the least sum of ways among those of one model', () => {
    const random = seeded(17);
    for (let round = 0; round < 40; round++) {
      const count = 2 + Math.floor(random() * 7);
      const place = (): [number, number, number] => [random() * 50, 0, random() * 50];
      const old = Array.from({ length: count }, () => placement('', 'props/lamp.glb', place()));
      const now = Array.from({ length: count }, () => placement('', 'props/lamp.glb', place()));
      const { pairs } = matchPlacements(old, now);
      const ways = old.map((before) => now.map((after) => metresBetween(before, after)));
      const best = (munkres(ways) as [number, number][]).reduce(
        (sum, [row, column]) => sum + (ways[row]?.[column] ?? 0),
        0,
      );
      expect(pairs).to.have.length(count);
      expect(pairs.reduce((sum, [before, after]) => sum + metresBetween(before, after), 0)).to.be.closeTo(
        best,
        1e-6,
      );
    }
  });

  it('finds ten thousand that moved a little, each its own, in a moment', () => {
    const random = seeded(23);
    const old = Array.from({ length: 10_000 }, () =>
      placement('', 'reed.glb', [random() * 2000, 0, random() * 2000]),
    );
    const now = old.map((before) => ({
      ...before,
      position: [before.position[0] + 0.05, 0, before.position[2]] as [number, number, number],
    }));
    const { pairs, added, gone } = matchPlacements(old, now);
    expect([pairs.length, added.length, gone.length]).to.deep.equal([10_000, 0, 0]);
    expect(pairs.filter(([before, after]) => metresBetween(before, after) < 0.06).length).to.be.above(9_990);
  });
});

describe('comparing maps', () => {
  const base = [
    placement('a', 'props/lamp.glb', [0, 0, 0]),
    placement('b', 'props/lamp.glb', [10, 0, 0], { class: 'light' }),
    placement('c', 'birds/heron.glb', [0, 0, 10]),
    placement('d', 'plants/reed.glb', [5, 0, 5]),
  ];
  const change = (id: string, part: Partial<Placement>): Placement[] =>
    base.map((item) => (item.id === id ? { ...item, ...part } : item));

  it('tells what moved, turned, grew and became another model', async () => {
    expect((await compared(base, change('b', { position: [13, 0, 4] }))).sentence).to.equal(
      '“lamp” moved by 5.00 m.',
    );
    const half = Math.sin(Math.PI / 8);
    const turned = await compared(base, change('c', { rotation: [0, half, 0, Math.cos(Math.PI / 8)] }));
    expect(turned.sentence).to.equal('“heron” turned by 45°.');
    expect((await compared(base, change('d', { scale: [2, 2, 2] }))).sentence).to.equal(
      '“reed” twice as large.',
    );
    const swapped = await compared(base, change('d', { model: 'props/post.glb' }));
    expect(swapped.sentence).to.equal('“reed” is now “post”, 1 model placed for the first time.');
    expect(swapped.map.firstModels).to.deep.equal(['props/post.glb']);
    // A rotation and its negative are the same turn.
    expect((await compared(base, change('c', { rotation: [0, 0, 0, -1] }))).sentence).to.equal(
      'The same placements, written otherwise.',
    );
  });

  it('counts by class, and tells new from gone with identities and without', async () => {
    const now = [
      ...base.filter(({ id }) => id !== 'a'),
      placement('e', 'props/lamp.glb', [20, 0, 0], { class: 'light' }),
    ];
    const byIdentity = await compared(base, now);
    expect(byIdentity.map.changes.map(({ status, id }) => `${status} ${id}`)).to.deep.equal(['moved e']);
    const far = [...now, placement('f', 'birds/gull.glb', [1, 0, 1])];
    const { map } = await compared(base, far);
    expect(map.classes).to.deep.equal({ light: { moved: 1 }, object: { added: 1 } });
    const nameless = (placements: readonly Placement[]): Placement[] =>
      placements.map((item) => ({ ...item, id: '' }));
    const { changes } = compareScenes(
      nameless(base),
      nameless([...base, placement('', 'props/lamp.glb', [3, 0, 3])]),
    );
    expect(changes.map(({ status, position }) => `${status} ${position.join(' ')}`)).to.deep.equal([
      'added 3 0 3',
    ]);
  });

  it('compares tile maps cell by cell', async () => {
    const tmx = (cells: string): Uint8Array =>
      new TextEncoder().encode(
        `<?xml version="1.0"?><map version="1.10" orientation="orthogonal" width="3" height="2" tilewidth="8" tileheight="8"><layer id="1" name="ground" width="3" height="2"><data encoding="csv">${cells}</data></layer></map>`,
      );
    const comparison = await compareBytes(
      { bytes: tmx('1,1,1,2,2,2'), path: 'a.tmx' },
      { bytes: tmx('1,3,1,2,2,4'), path: 'a.tmx' },
    );
    expect(comparison.sentence).to.equal('2 tiles set otherwise, in ground.');
  });

  it('tells values beside the placements and the tiles, whatever their order', async () => {
    const marsh = (more: object, placements: object[] = [...base]): Uint8Array =>
      new TextEncoder().encode(JSON.stringify({ ...more, placements }));
    const against = async (now: Uint8Array) =>
      compareBytes(
        { bytes: marsh({ weather: 'rain', tide: 2 }), path: 'a.map.json' },
        { bytes: now, path: 'a.map.json' },
      );
    const weather = await against(marsh({ tide: 2, weather: 'fog' }));
    expect([weather.nature, weather.sentence]).to.deep.equal([
      'other',
      'The same placements, “weather” rain → fog.',
    ]);
    expect((await against(marsh({ tide: 2, weather: 'rain' }, [...base].reverse()))).nature).to.equal(
      'rewritten',
    );
    const loot = await against(
      marsh(
        { weather: 'rain', tide: 2 },
        base.map((item) => (item.id === 'c' ? { ...item, loot: 'amber' } : item)),
      ),
    );
    expect(loot.sentence).to.equal('The same placements, “placements.loot” new: amber.');
    // What the row of a new placement says besides came with it.
    const more = [
      ...base.map((item) => ({ ...item, loot: 'none' })),
      { ...placement('z', 'props/lamp.glb', [50, 0, 50]), loot: 'amber' },
    ];
    const rows = await compareBytes(
      { bytes: marsh({ tide: 2 }, more.slice(0, -1)), path: 'a.map.json' },
      { bytes: marsh({ tide: 3 }, more), path: 'a.map.json' },
    );
    expect(rows.sentence).to.equal('“lamp” placed, “tide” 2 → 3.');
    const fingerprints = await Promise.all(
      [
        marsh({ weather: 'rain' }),
        marsh({ weather: 'fog' }),
        marsh({ weather: 'rain' }, [...base].reverse()),
      ].map(async (bytes) => fingerprintOf(await readBytes(bytes, 'a.map.json'))),
    );
    expect(fingerprints[0]).to.not.equal(fingerprints[1]);
    expect(fingerprints[0]).to.equal(fingerprints[2]);
    const tmx = (music: string, written: string): Uint8Array =>
      new TextEncoder().encode(
        `<?xml version="1.0"?><map version="${written}" orientation="orthogonal" width="1" height="1" tilewidth="8" tileheight="8"><properties><property name="music" value="${music}"/></properties><layer id="1" name="ground" width="1" height="1"><data encoding="csv">1</data></layer></map>`,
      );
    const music = await compareBytes(
      { bytes: tmx('calm', '1.9'), path: 'a.tmx' },
      { bytes: tmx('storm', '1.10'), path: 'a.tmx' },
    );
    expect(music.sentence).to.equal('The same tiles, “map.properties.property.value” calm → storm.');
    expect(
      (
        await compareBytes(
          { bytes: tmx('calm', '1.9'), path: 'a.tmx' },
          { bytes: tmx('calm', '1.10'), path: 'a.tmx' },
        )
      ).nature,
    ).to.equal('rewritten');
  });

  it('says which map cannot be read', async () => {
    const failure = await compareBytes(
      { bytes: table(base), path: 'a.map.json' },
      { bytes: new TextEncoder().encode('{"placements": [{}]}'), path: 'a.map.json' },
    ).catch(String);
    expect(failure).to.match(/ReadError.*placements/);
  });
});
