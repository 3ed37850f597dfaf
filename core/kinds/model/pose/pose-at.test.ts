import { Document, type AnimationSampler } from '@gltf-transform/core';
import { expect } from 'chai';
import { drawPoses } from './draw-poses.ts';
import { poseAt, spanOfClip, valuesAt } from './pose-at.ts';

type Interpolation = 'LINEAR' | 'STEP' | 'CUBICSPLINE';

function samplerOf(
  document: Document,
  times: readonly number[],
  values: readonly number[],
  type: 'SCALAR' | 'VEC3' | 'VEC4',
  interpolation: Interpolation = 'LINEAR',
): AnimationSampler {
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
  const accessor = (of: 'SCALAR' | 'VEC3' | 'VEC4', numbers: readonly number[]) =>
    document.createAccessor().setType(of).setArray(new Float32Array(numbers)).setBuffer(buffer);
  return document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', times))
    .setOutput(accessor(type, values))
    .setInterpolation(interpolation);
}

describe('Poses of clips', () => {
  const document = new Document();

  it('are linear between keys, and held before the first and behind the last (glTF 2.0, appendix C)', () => {
    const sampler = samplerOf(document, [1, 3], [0, 0, 0, 4, 2, 0], 'VEC3');
    expect([0, 1, 2, 3, 9].map((seconds) => valuesAt(sampler, seconds, false))).to.deep.equal([
      [0, 0, 0],
      [0, 0, 0],
      [2, 1, 0],
      [4, 2, 0],
      [4, 2, 0],
    ]);
  });

  it('keep the value of the key before where they are stepped', () => {
    const sampler = samplerOf(document, [0, 1, 2], [5, 6, 7], 'SCALAR', 'STEP');
    expect([0.99, 1, 1.5].map((seconds) => valuesAt(sampler, seconds, false)[0])).to.deep.equal([5, 6, 6]);
  });

  it('turn along the great circle, the shorter way (by hand: a quarter of half a turn about Y)', () => {
    const sampler = samplerOf(document, [0, 1], [0, 0, 0, 1, 0, 1, 0, 0], 'VEC4');
    const [x, y, z, w] = valuesAt(sampler, 0.25, true);
    expect([x, z]).to.deep.equal([0, 0]);
    expect(y).to.be.closeTo(Math.sin(Math.PI / 8), 1e-6);
    expect(w).to.be.closeTo(Math.cos(Math.PI / 8), 1e-6);
    const negative = samplerOf(document, [0, 1], [0, 0, 0, 1, 0, -0.6, 0, -0.8], 'VEC4');
    // The same turn with all signs changed: nothing goes the long way round.
    expect(Math.abs(valuesAt(negative, 0.5, true)[3] ?? 0)).to.be.above(0.9);
  });

  it('follow splines by their tangents, stretched by the time between keys', () => {
    // Tangents before, values, tangents behind, for each of two keys that are two seconds apart.
    const sampler = samplerOf(document, [0, 2], [0, 1, 3, 1, 5, 0], 'SCALAR', 'CUBICSPLINE');
    // By hand at a half: 0.5 · 1 + 2 · 0.125 · 3 + 0.5 · 5 + 2 · (−0.125) · 1.
    expect(valuesAt(sampler, 1, false)[0]).to.be.closeTo(3.5, 1e-6);
    expect(valuesAt(sampler, 0, false)).to.deep.equal([1]);
    expect(valuesAt(sampler, 2, false)).to.deep.equal([5]);
  });

  it('are put, and put back', () => {
    const node = document.createNode('hand').setTranslation([7, 0, 0]);
    const clip = document.createAnimation('wave');
    const sampler = samplerOf(document, [0, 1], [0, 0, 0, 2, 0, 0], 'VEC3');
    clip
      .addSampler(sampler)
      .addChannel(
        document
          .createAnimationChannel()
          .setTargetNode(node)
          .setTargetPath('translation')
          .setSampler(sampler),
      );
    const restore = poseAt(clip, 0.5);
    expect(node.getTranslation()).to.deep.equal([1, 0, 0]);
    restore();
    expect(node.getTranslation()).to.deep.equal([7, 0, 0]);
    expect(spanOfClip(clip)).to.deep.equal({ first: 0, last: 1 });
    expect(spanOfClip(document.createAnimation('nothing'))).to.deep.equal({ first: 0, last: 0 });
  });

  it('are drawn four beside one another; bones alone, and nothing where there are none', () => {
    const made = new Document();
    const root = made.createNode('root');
    const arm = made.createNode('arm').setTranslation([0, 1, 0]);
    const hand = made.createNode('hand').setTranslation([0.4, 0, 0]);
    root.addChild(arm.addChild(hand));
    made.createScene().addChild(root);
    const clip = made.createAnimation('wave');
    const sampler = samplerOf(made, [0, 1], [0, 0, 0, 1, 0, 0.7071, 0, 0.7071], 'VEC4');
    clip
      .addSampler(sampler)
      .addChannel(
        made.createAnimationChannel().setTargetNode(root).setTargetPath('rotation').setSampler(sampler),
      );
    const raster = drawPoses(made, clip);
    if (!raster) throw new Error('nothing was drawn');
    const columns = new Set<number>();
    for (let at = 0; at < raster.width * raster.height; at++)
      if ((raster.rgba[at * 4 + 3] ?? 0) > 0) columns.add(at % raster.width);
    // Gaps between four groups of columns.
    const sorted = [...columns].sort((a, b) => a - b);
    expect(sorted.filter((column, at) => at > 0 && column - (sorted[at - 1] ?? 0) > 3)).to.have.length(3);
    expect(drawPoses(new Document(), new Document().createAnimation('none'))).to.equal(null);
  });
});
