import { expect } from 'chai';
import { findDifferences, type Difference, type Leaf, type PlainFinding } from '../find.ts';
import { folderTargets, moveFinder, wholeMoves } from '../folder-moves.ts';
import { leastScore, pairByLikeness, type LikenessItem } from './pair.ts';
import { pictureSignatureParts } from '../../kinds/picture/signature.ts';
import { soundSignatureParts } from '../../kinds/sound/signature.ts';
import { SketchIndex } from './sketch-index.ts';
import type { Sketch } from './sketch.ts';

function seeded(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) % below;
  };
}

const item = (
  path: string,
  kind: LikenessItem['kind'],
  signature: Uint8Array | null,
  size = 1000,
): LikenessItem => ({ path, kind, size, signature });

describe('SketchIndex', () => {
  it('finds all that differ in seven bits at most, as comparing all with all does', () => {
    const random = seeded(77);
    const sketches: Sketch[] = Array.from({ length: 3000 }, () => [random(2 ** 31) | 0, random(2 ** 31) | 0]);
    const index = new SketchIndex(sketches);
    for (let round = 0; round < 200; round++) {
      const [low, high] = sketches[random(3000)] ?? [0, 0];
      let [a, b] = [low, high];
      for (let flip = 0; flip < 7; flip++) {
        if (random(2) === 0) a ^= 1 << random(32);
        else b ^= 1 << random(32);
      }
      const ones = (value: number): number => (value >>> 0).toString(2).replaceAll('0', '').length;
      const expected = sketches.flatMap((sketch, at) =>
        ones(sketch[0] ^ a) + ones(sketch[1] ^ b) <= 7 ? [at] : [],
      );
      const found = new Set<number>();
      index.near([a, b], 7, 1000, (at) => found.add(at));
      expect([...found].sort((x, y) => x - y)).to.deep.equal(expected);
    }
  });
});

describe('pairByLikeness', () => {
  it('pairs what was renamed and changed, with a reason, and leaves alone what is like nothing', () => {
    const random = seeded(5);
    const signature = (): Uint8Array =>
      Uint8Array.from({ length: pictureSignatureParts.end }, () => random(256));
    const nearly = (of: Uint8Array): Uint8Array =>
      Uint8Array.from(of, (byte, at) =>
        at < 8 ? (at % 4 === 0 ? byte ^ 1 : byte) : Math.min(255, byte + 3),
      );
    const [lamp, heron, reed] = [signature(), signature(), signature()];
    const pairs = pairByLikeness(
      [
        item('props/lamp_base.png', 'picture', lamp),
        item('birds/gru_white.png', 'picture', heron),
        item('x/reed.png', 'picture', reed),
      ],
      [
        item('things/lantern_base.png', 'picture', nearly(lamp)),
        item('birds/heron_white.png', 'picture', nearly(heron)),
        item('new/gate.png', 'picture', signature()),
      ],
    );
    expect(pairs.map(({ oldPath, path }) => `${oldPath} > ${path}`)).to.deep.equal([
      'birds/gru_white.png > birds/heron_white.png',
      'props/lamp_base.png > things/lantern_base.png',
    ]);
    expect(pairs[0]?.reason).to.match(/^looks \d\d % alike, part of the name is the same, same folder$/);
    expect(pairs.every(({ score }) => score >= leastScore && score <= 1)).to.equal(true);
  });

  it('gives the same pairs whatever the order, and none where two are as good', () => {
    const even = new Uint8Array(pictureSignatureParts.end).fill(128);
    const gone = [item('a/flat_1.png', 'picture', even), item('a/flat_2.png', 'picture', even)];
    const fresh = [item('b/flat_8.png', 'picture', even), item('b/flat_9.png', 'picture', even)];
    expect(pairByLikeness(gone, fresh)).to.deep.equal([]);
    const random = seeded(15);
    const many = Array.from({ length: 60 }, (_, at) =>
      item(
        `old/thing_${at}.wav`,
        'sound',
        Uint8Array.from({ length: soundSignatureParts.end }, () => random(256)),
      ),
    );
    const after = many.map(({ path, signature }) => item(path.replace('old/', 'new/'), 'sound', signature));
    const forwards = pairByLikeness(many, after);
    expect(forwards).to.have.length(60);
    expect(pairByLikeness([...many].reverse(), [...after].reverse())).to.deep.equal(forwards);
  });

  it('does not read what an older version wrote as if it were its own', () => {
    const short = new Uint8Array(21).fill(7);
    expect(
      pairByLikeness([item('a/lamp.png', 'picture', short)], [item('b/gate.png', 'picture', short)]),
    ).to.deep.equal([]);
  });

  it('without signatures takes only the same name', () => {
    expect(
      pairByLikeness([item('a/marsh.map.json', 'map', null)], [item('b/marsh.map.json', 'map', null, 1100)]),
    ).to.have.length(1);
    expect(
      pairByLikeness([item('a/marsh.map.json', 'map', null)], [item('b/weir.map.json', 'map', null)]),
    ).to.deep.equal([]);
  });
});

describe('repacked and moved', () => {
  const leaf = (path: string, hash: string, fingerprint: string | null = null): Leaf => ({
    path,
    hash,
    fingerprint,
    size: 1,
    kind: 'picture',
    format: 'png',
  });
  const told = (findings: readonly PlainFinding[]): string[] =>
    findings.map(({ status, oldPath, path }) => `${status} ${oldPath ?? '-'} ${path}`);

  it('goes by the decoded content, at the same path and at another', () => {
    const differences: Difference[] = [
      { old: leaf('a', '1', 'f'), new: leaf('a', '2', 'f') },
      { old: leaf('b', '3', 'g'), new: leaf('b', '4', 'h') },
      { old: leaf('x/c', '5', 'i'), new: null },
      { old: null, new: leaf('y/c', '6', 'i') },
      { old: leaf('d', '7'), new: leaf('d', '8') },
    ];
    expect(told(findDifferences(differences, new Map()))).to.deep.equal([
      'repacked a a',
      'changed b b',
      'changed d d',
      'repacked x/c y/c',
    ]);
  });

  it('tells whole folders that moved as one, the highest; not those of which something was removed', () => {
    const moved = (from: string, to: string): Difference[] => [
      { old: leaf(from, from.slice(from.indexOf('/'))), new: null },
      { old: null, new: leaf(to, from.slice(from.indexOf('/'))) },
    ];
    const findings = findDifferences(
      [
        ...moved('v1/props/lamp.png', 'v2/props/lamp.png'),
        ...moved('v1/props/more/oar.png', 'v2/props/more/oar.png'),
        ...moved('v1/ui/bar.png', 'v2/ui/bar.png'),
        ...moved('sound/a.wav', 'audio/a.wav'),
        ...moved('sound/b.wav', 'audio/b.wav'),
        { old: leaf('sound/c.wav', 'gone'), new: null },
      ],
      new Map(),
    );
    const moves = wholeMoves(folderTargets(findings), new Set());
    expect(moves).to.deep.equal([{ from: 'v1', to: 'v2', files: 3 }]);
    const moveOf = moveFinder(moves);
    expect(findings.filter((finding) => moveOf(finding) !== null)).to.have.length(3);
    // Of a folder in which something stayed only the folders below have moved.
    expect(wholeMoves(folderTargets(findings), new Set(['v1']))).to.deep.equal([
      { from: 'v1/props', to: 'v2/props', files: 2 },
    ]);
  });
});
