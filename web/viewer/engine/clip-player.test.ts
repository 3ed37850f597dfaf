import { expect } from 'chai';
import {
  AnimationClip,
  Bone,
  Group,
  NumberKeyframeTrack,
  QuaternionKeyframeTrack,
  VectorKeyframeTrack,
} from 'three';
import { atRest, ClipPlayer } from './clip-player.ts';

/** A root that walks two metres in a second while its hand turns by half a turn. */
function figure() {
  const model = new Group();
  const [root, hand] = [new Bone(), new Bone()];
  root.name = 'root';
  hand.name = 'hand';
  model.add(root);
  root.add(hand);
  const walk = new AnimationClip('walk', -1, [
    new VectorKeyframeTrack('root.position', [0, 1], [0, 0, 0, 0, 0, 2]),
    new VectorKeyframeTrack('hand.position', [0, 1], [0, 1, 0, 0, 3, 0]),
    new QuaternionKeyframeTrack('hand.quaternion', [0, 1], [0, 0, 0, 1, 0, 1, 0, 0]),
  ]);
  const nod = new AnimationClip('nod', -1, [
    new NumberKeyframeTrack(
      'hand.scale[x]',
      Array.from({ length: 92 }, (_, frame) => frame / 30),
      new Array<number>(92).fill(1),
    ),
  ]);
  return { model, root, hand, player: new ClipPlayer(model, [walk, nod]) };
}

describe('Playing clips', () => {
  it('ends where the last key is: keys from frame 0 to frame 91 (common practice, no published source)', () => {
    const { player } = figure();
    expect(player.entries[1]).to.deep.include({ name: 'nod', rate: 30 });
    expect(player.entries[1]?.seconds).to.be.closeTo(91 / 30, 1e-6);
    expect(player.entries[0]).to.deep.include({ name: 'walk', seconds: 1, rate: 1 });
  });

  it('shows any moment, the last one too, repeated or not', () => {
    const { root, hand, player } = figure();
    for (const isLoop of [true, false]) {
      player.play({ ...atRest, clip: 0, isLoop });
      player.seek(0.25);
      expect(root.position.z).to.be.closeTo(0.5, 1e-5);
      // Half of half a turn, by a quarter of the way: an eighth of a turn (quaternions of 0 and 180 degrees about Y).
      expect(hand.quaternion.y).to.be.closeTo(Math.sin(Math.PI / 8), 1e-5);
      player.seek(1);
      expect(root.position.z).to.be.closeTo(2, 1e-4);
      player.seek(99);
      expect(player.time).to.equal(1);
    }
  });

  it('goes on at its speed, round and round, or stops at the end', () => {
    const { player } = figure();
    player.play({ ...atRest, clip: 0, isRunning: true, speed: 2 });
    expect(player.advance(0.2)).to.equal(true);
    expect(player.time).to.be.closeTo(0.4, 1e-9);
    player.advance(0.4);
    expect(player.time).to.be.closeTo(0.2, 1e-9);
    player.play({ ...atRest, clip: 0, isRunning: true, isLoop: false });
    expect(player.advance(5)).to.equal(false);
    expect([player.time, player.isRunning]).to.deep.equal([1, false]);
    player.play({ ...atRest, clip: 0, isRunning: true, isLoop: false });
    expect([player.time, player.isRunning]).to.deep.equal([0, true]);
  });

  it('stays in place where somebody wants the root to, and moves all else', () => {
    const { root, hand, player } = figure();
    player.play({ ...atRest, clip: 0, hasRootMotion: false });
    player.seek(0.5);
    expect(root.position.z).to.equal(0);
    expect(hand.position.y).to.be.closeTo(2, 1e-5);
  });

  it('is at rest again where nothing is played', () => {
    const { root, player } = figure();
    player.play({ ...atRest, clip: 0 });
    player.seek(1);
    player.play(atRest);
    expect(root.position.z).to.equal(0);
    expect(player.advance(1)).to.equal(false);
  });

  it('lays clips of other files over the one that is played, on bones of the same name, as far as they may', () => {
    const { root, hand, player } = figure();
    // The other file has a namespace, other cases, and a bone that this model lacks.
    const other = new Group();
    for (const name of ['Root', 'Hand', 'tail']) {
      const bone = new Bone();
      bone.name = `made_${name}`;
      bone.userData.name = `heron:${name}`;
      other.add(bone);
    }
    const wave = new AnimationClip('wave', -1, [
      new VectorKeyframeTrack('made_Hand.position', [0, 0.5], [0, 10, 0, 0, 10, 0]),
      new VectorKeyframeTrack('made_Root.position', [0, 0.5], [0, 8, 0, 0, 8, 0]),
      new QuaternionKeyframeTrack('made_Hand.quaternion', [0, 0.5], [0, 0, 0, 1, 0, 0, 0, 1]),
      new QuaternionKeyframeTrack('made_tail.quaternion', [0, 0.5], [0, 0, 0, 1, 0, 0, 0, 1]),
    ]);
    const { place, lacking } = player.add(wave, other);
    expect([place, lacking]).to.deep.equal([2, ['heron:tail']]);
    player.play({ ...atRest, clip: 0 });
    player.seek(0.5);
    const all = new Set(['position', 'rotation', 'scale'] as const);
    player.setLayers([{ clip: place, weight: 0.5, moves: all, mask: new Set([hand]) }]);
    // Half of 2 and 10; half of the way from 90 degrees to none; and the root is not in the mask.
    expect(hand.position.y).to.be.closeTo(6, 1e-5);
    expect(hand.quaternion.y).to.be.closeTo(Math.sin(Math.PI / 8), 1e-5);
    expect(root.position.toArray()).to.deep.equal([0, 0, 1]);
    player.setLayers([{ clip: place, weight: 1, moves: new Set(['rotation']), mask: null }]);
    expect(hand.position.y).to.be.closeTo(2, 1e-5);
    expect(hand.quaternion.y).to.be.closeTo(0, 1e-6);
    // Shown twice it is the same; and without it all is as it was.
    player.seek(0.5);
    player.setLayers([]);
    expect(hand.quaternion.y).to.be.closeTo(Math.SQRT1_2, 1e-5);
    player.play(atRest);
    expect([hand.position.y, root.position.z]).to.deep.equal([0, 0]);
  });

  it('goes round by itself in a layer that is shorter than what it lies over', () => {
    const { hand, player } = figure();
    const scene = new Group();
    const bone = new Bone();
    bone.name = 'hand';
    scene.add(bone);
    const short = new AnimationClip('short', -1, [
      new VectorKeyframeTrack('hand.scale', [0, 0.4], [1, 1, 1, 3, 3, 3]),
    ]);
    const { place } = player.add(short, scene);
    player.play({ ...atRest, clip: 0 });
    player.setLayers([{ clip: place, weight: 1, moves: new Set(['scale']), mask: null }]);
    player.seek(0.6);
    expect(hand.scale.x).to.be.closeTo(2, 1e-5);
  });
});
