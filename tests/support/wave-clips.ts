import { Document } from '@gltf-transform/core';

/**
 * A file of clips without a shape, on the bones of the figure of blocks as another program names them, and on one that the
 * figure lacks: “wave” lifts the head by a metre and turns the tail, “sway” moves the tail alone.
 */
export function waveClipsDocument(): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const head = document.createNode('rig:Head').setTranslation([0, 0.8, 0]);
  const tail = document.createNode('rig:tail');
  document.createScene().addChild(document.createNode('rig:root').addChild(head).addChild(tail));
  const clip = (
    name: string,
    nodes: readonly (readonly [typeof head, 'translation' | 'rotation', number[]])[],
  ) => {
    const animation = document.createAnimation(name);
    for (const [node, path, values] of nodes) {
      const sampler = document
        .createAnimationSampler()
        .setInput(
          document
            .createAccessor()
            .setArray(new Float32Array([0, 1]))
            .setBuffer(buffer),
        )
        .setOutput(
          document
            .createAccessor()
            .setType(path === 'rotation' ? 'VEC4' : 'VEC3')
            .setArray(new Float32Array([...values, ...values]))
            .setBuffer(buffer),
        );
      const channel = document
        .createAnimationChannel()
        .setTargetNode(node)
        .setTargetPath(path)
        .setSampler(sampler);
      animation.addSampler(sampler).addChannel(channel);
    }
  };
  clip('wave', [
    [head, 'translation', [0, 1.8, 0]],
    [tail, 'rotation', [0, 1, 0, 0]],
  ]);
  clip('sway', [[tail, 'rotation', [0, 1, 0, 0]]]);
  return document;
}
