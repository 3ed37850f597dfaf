import type { Document } from '@gltf-transform/core';
import { plural } from '../../../figures.ts';
import { spanOfClip, valuesAt } from '../pose/pose-at.ts';

const mostKeys = 20_000;

/**
 * Gives the clips of a document keys at even distances from their first to their last one.
 * @param rate keys to a second
 * @returns what was done, in words
 */
export function resampleClips(document: Document, rate: number): string[] {
  const animations = document.getRoot().listAnimations();
  for (const animation of animations) {
    const { first, last } = spanOfClip(animation);
    const count = Math.min(mostKeys, Math.max(1, Math.round((last - first) * rate)));
    const times = Array.from({ length: count + 1 }, (_, at) => first + ((last - first) * at) / count);
    const buffer = document.getRoot().listBuffers()[0] ?? null;
    const input = document
      .createAccessor()
      .setType('SCALAR')
      .setArray(new Float32Array(times))
      .setBuffer(buffer);
    for (const channel of animation.listChannels()) {
      const sampler = channel.getSampler();
      const output = sampler?.getOutput();
      if (!sampler || !output) continue;
      const isRotation = channel.getTargetPath() === 'rotation';
      // What jumps at its keys goes on doing so, at the nearest of the new ones.
      const isStepped = sampler.getInterpolation() === 'STEP';
      const values = times.flatMap((time) => valuesAt(sampler, time, isRotation));
      const own = document
        .createAnimationSampler()
        .setInput(input)
        .setInterpolation(isStepped ? 'STEP' : 'LINEAR')
        .setOutput(
          document
            .createAccessor()
            .setType(output.getType())
            .setArray(new Float32Array(values))
            .setBuffer(buffer),
        );
      animation.addSampler(own);
      channel.setSampler(own);
    }
    const used = new Set(animation.listChannels().map((channel) => channel.getSampler()));
    for (const sampler of animation.listSamplers()) if (!used.has(sampler)) sampler.dispose();
  }
  return animations.length > 0 ? [`${plural(animations.length, 'clip')} with ${rate} keys to a second`] : [];
}
