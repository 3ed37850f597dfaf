import type { Accessor, Animation, Document, Node } from '@gltf-transform/core';

/**
 * Gives a clip what it moves of one node, in a straight line from key to key.
 * @param input moments of the keys, in seconds
 * @param values three numbers to a key, or the four of a rotation
 */
export function addTrack(
  document: Document,
  animation: Animation,
  node: Node,
  path: 'translation' | 'rotation' | 'scale',
  input: Accessor,
  values: ArrayLike<number>,
): void {
  const output = document
    .createAccessor()
    .setType(path === 'rotation' ? 'VEC4' : 'VEC3')
    .setArray(Float32Array.from(values))
    .setBuffer(input.getBuffer());
  const sampler = document.createAnimationSampler().setInput(input).setOutput(output);
  animation
    .addSampler(sampler)
    .addChannel(
      document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler),
    );
}
