import { Document } from '@gltf-transform/core';
import { expect } from 'chai';
import { boneKey, matchBones, namedBonesOf } from './bone-names.ts';
import { bonesInMask } from './bone-mask.ts';
import { layOver } from './lay-over.ts';

/** A turn about an axis, as everybody works it out by hand: the axis times the sine of half the angle, and its cosine. */
function turn(axis: 'x' | 'y' | 'z', degrees: number): number[] {
  const half = (degrees * Math.PI) / 360;
  const turned = [0, 0, 0, Math.cos(half)];
  turned['xyz'.indexOf(axis)] = Math.sin(half);
  return turned;
}

describe('Layers of clips', () => {
  it('turns half of the way about one axis at half the weight', () => {
    const below = turn('z', 30);
    layOver(below, turn('z', 90), 0.5, true);
    turn('z', 60).forEach((value, at) => expect(below[at]).to.be.closeTo(value, 1e-9));
  });

  it('turns between two axes as worked out by hand', () => {
    // 90 degrees about x and 90 about y: their dot product is 1/2, the angle between them 60 degrees, so that the middle is
    // their sum over 2 cos 30 = sqrt 3: (s, s, 0, 2s) / sqrt 3 with s = sqrt 1/2.
    const below = turn('x', 90);
    layOver(below, turn('y', 90), 0.5, true);
    const side = Math.SQRT1_2 / Math.sqrt(3);
    [side, side, 0, 2 * side].forEach((value, at) => expect(below[at]).to.be.closeTo(value, 1e-9));
    // A quarter of the way: sin 45 / sin 60 of the first, sin 15 / sin 60 of the second.
    const quarter = turn('x', 90);
    layOver(quarter, turn('y', 90), 0.25, true);
    const sine = (degrees: number): number => Math.sin((degrees * Math.PI) / 180);
    const [first, second] = [sine(45) / sine(60), sine(15) / sine(60)];
    [first, second, 0, first + second].forEach((value, at) =>
      expect(quarter[at]).to.be.closeTo(value * Math.SQRT1_2, 1e-9),
    );
  });

  it('goes the shorter way round, and is whole at both ends', () => {
    const negative = turn('z', 90).map((value) => -value);
    const below = turn('z', 30);
    layOver(below, negative, 0.5, true);
    turn('z', 60).forEach((value, at) => expect(below[at]).to.be.closeTo(value, 1e-9));
    for (const [weight, degrees] of [
      [0, 30],
      [1, 90],
    ] as const) {
      const whole = turn('z', 30);
      layOver(whole, turn('z', 90), weight, true);
      turn('z', degrees).forEach((value, at) => expect(whole[at]).to.be.closeTo(value, 1e-9));
    }
    const same = turn('y', 40);
    layOver(same, turn('y', 40), 0.3, true);
    turn('y', 40).forEach((value, at) => expect(same[at]).to.be.closeTo(value, 1e-9));
  });

  it('lays places and sizes over in a straight line', () => {
    const place = [1, 2, 3];
    layOver(place, [3, 2, -1], 0.25, false);
    expect(place).to.deep.equal([1.5, 2, 2]);
  });
});

describe('Masks of bones', () => {
  const names = ['root', 'hips', 'leg.L', 'leg.R', 'spine', 'arm.L', 'hand.L', 'head', 'jaw'];
  const parents = [-1, 0, 1, 1, 1, 4, 5, 4, 7];
  const bones = names.map((name, at) => ({ name, parent: parents[at] ?? -1 }));
  const named = (mask: Partial<Parameters<typeof bonesInMask>[1]>): string[] =>
    [...bonesInMask(bones, { branches: [], words: [], bones: [], ...mask })].map((at) => names[at] ?? '');

  it('lets branches, words and single bones through, and all where nothing is said', () => {
    expect(named({})).to.deep.equal(names);
    expect(named({ branches: ['spine'] })).to.deep.equal(['spine', 'arm.L', 'hand.L', 'head', 'jaw']);
    expect(named({ words: ['LEG'] })).to.deep.equal(['leg.L', 'leg.R']);
    expect(named({ bones: ['jaw'], branches: ['arm.L'] })).to.deep.equal(['arm.L', 'hand.L', 'jaw']);
    expect(named({ branches: ['tail'] })).to.deep.equal([]);
  });

  it('comes to an end in a tree that bites its tail', () => {
    const ring = [
      { name: 'a', parent: 1 },
      { name: 'b', parent: 0 },
    ];
    expect([...bonesInMask(ring, { branches: ['c'], words: [], bones: [] })]).to.deep.equal([]);
  });
});

describe('Names of bones', () => {
  it('knows a bone without its namespace and case', () => {
    expect(boneKey('heron:Wing_L')).to.equal('wing_l');
    expect(boneKey('rig|body|Wing_L')).to.equal('wing_l');
    expect(matchBones(['rig:Wing_L', 'tail'], new Set(['wing_l', 'neck']))).to.deep.equal({
      matched: 1,
      lacking: ['tail'],
    });
  });

  it('lists the bones of a model with what they hang on, and what its clips move', () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const hand = document.createNode('hand');
    const arm = document.createNode('arm').addChild(hand);
    const rig = document.createNode('rig').addChild(arm);
    document.createNode(null as unknown as string).addChild(rig);
    const loose = document.createNode('loose');
    document.createSkin().addJoint(arm).addJoint(hand);
    document.createMesh('shape');
    const clip = (name: string, nodes: (typeof hand)[]): void => {
      const animation = document.createAnimation(name);
      for (const node of nodes) {
        const sampler = document.createAnimationSampler().setInput(
          document
            .createAccessor()
            .setArray(new Float32Array([0, 1]))
            .setBuffer(buffer),
        );
        animation
          .addSampler(sampler)
          .addChannel(
            document
              .createAnimationChannel()
              .setTargetNode(node)
              .setTargetPath('rotation')
              .setSampler(sampler),
          );
      }
    };
    clip('wave', [hand, arm]);
    clip('bow', [arm, hand, hand]);
    clip('swing', [loose]);
    expect(namedBonesOf(document)).to.deep.equal([
      { clips: null, names: ['arm', 'hand', 'rig'] },
      { clips: ['wave', 'bow'], names: ['arm', 'hand'] },
      { clips: ['swing'], names: ['loose'] },
    ]);
  });
});
