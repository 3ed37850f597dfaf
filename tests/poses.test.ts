import { expect } from 'chai';
import type { Document } from '@gltf-transform/core';
import { AnimationMixer, SkinnedMesh, Vector3, type AnimationClip, type Object3D } from 'three';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { poseAt, spanOfClip } from '../core/kinds/model/pose/pose-at.ts';
import { trianglesOf } from '../core/kinds/model/triangles.ts';
import { atRest, ClipPlayer } from '../web/viewer/engine/clip-player.ts';
import { requestOf } from './support/read.ts';

const models = '/usr/share/assimp/models';
/** Of Debian’s assimp-testmodels: those that have clips, in six formats. */
const moving = [
  ...['FBX/animation_with_skeleton.fbx', 'FBX/huesitos.fbx', 'BVH/01_01.bvh', 'BVH/Boxing_Toes.bvh'],
  ...['glTF2/simple_skin/simple_skin.gltf', 'X/Testwuson.X', 'X/anim_test.x', 'X/BCN_Epileptic.X'],
  ...['Collada/box_nested_animation.dae'],
  'Collada/anims_with_full_rotations_between_keys.DAE',
];
const moments = 10;

interface Opened {
  document: Document;
  gltf: GLTF;
  objects: Map<number, Object3D>;
}

/** A model as this program reads it, and the same file as three’s own loader does. */
async function opened(path: string): Promise<Opened> {
  // Asked for now: readers are, too, and what they share with these has to be the same.
  const [{ openModel }, { writeShownModel }] = await Promise.all([
    import('../core/kinds/model/read.ts'),
    import('../core/kinds/model/write-shown.ts'),
  ]);
  const { document } = await openModel(requestOf(`${models}/${path}`));
  // As the viewer is given it.
  const file = await writeShownModel(requestOf(`${models}/${path}`));
  const gltf = await new GLTFLoader().parseAsync(new Uint8Array(file).buffer, '');
  const objects = new Map<number, Object3D>();
  for (const [object, place] of gltf.parser.associations as Map<Object3D, { nodes?: number } | undefined>)
    if (place?.nodes !== undefined) objects.set(place.nodes, object);
  return { document, gltf, objects };
}

function clipAt({ animations }: GLTF, at: number): AnimationClip {
  const clip = animations[at];
  if (!clip) throw new Error(`there is no clip ${at}`);
  return clip;
}

/** Places in the order of nodes: what this program’s own reckoning says, the library’s mixer, and the viewer’s player. */
function comparePoses({ document, gltf, objects }: Opened): {
  compared: number;
  furthest: number;
  size: number;
} {
  const nodes = document.getRoot().listNodes();
  const player = new ClipPlayer(gltf.scene, gltf.animations);
  let [compared, furthest, size] = [0, 0, 0];
  const placesOf = (): Map<number, Vector3> => {
    gltf.scene.updateMatrixWorld(true);
    return new Map(
      [...objects].map(([at, object]) => [at, new Vector3().setFromMatrixPosition(object.matrixWorld)]),
    );
  };
  document
    .getRoot()
    .listAnimations()
    .forEach((animation, clip) => {
      const { first, last } = spanOfClip(animation);
      for (let moment = 0; moment < moments; moment++) {
        const seconds = first + ((last - first) * moment) / (moments - 1);
        const restore = poseAt(animation, seconds);
        const own = nodes.map((node) => new Vector3().fromArray(node.getWorldTranslation()));
        restore();
        const mixer = new AnimationMixer(gltf.scene);
        const action = mixer.clipAction(clipAt(gltf, clip));
        action.clampWhenFinished = true;
        action.play();
        action.time = seconds;
        mixer.update(0);
        const library = placesOf();
        mixer.stopAllAction();
        mixer.uncacheRoot(gltf.scene);
        player.play({ ...atRest, clip, isLoop: false });
        player.seek(seconds);
        const viewer = placesOf();
        player.stop();
        own.forEach((place, at) => {
          const [there, here] = [library.get(at), viewer.get(at)];
          if (!there || !here) return;
          compared++;
          size = Math.max(size, there.length());
          furthest = Math.max(furthest, place.distanceTo(there), here.distanceTo(there));
        });
      }
    });
  return { compared, furthest, size };
}

/** How far skinned vertices lie from where the library’s own skinning has them, in the last pose of each clip. */
function compareSkins({ document, gltf, objects }: Opened): {
  compared: number;
  furthest: number;
  size: number;
} {
  let [compared, furthest, size] = [0, 0, 0];
  const nodes = document.getRoot().listNodes();
  const animations = document.getRoot().listAnimations();
  for (const [clip, animation] of animations.entries()) {
    const { last } = spanOfClip(animation);
    const restore = poseAt(animation, last * 0.7);
    const batches = trianglesOf(document);
    restore();
    const player = new ClipPlayer(gltf.scene, gltf.animations);
    player.play({ ...atRest, clip, isLoop: false });
    player.seek(last * 0.7);
    gltf.scene.updateMatrixWorld(true);
    const seen = new Map<Object3D, number>();
    for (const { node, positions } of batches) {
      const object = objects.get(nodes.indexOf(node));
      const meshes: SkinnedMesh[] = [];
      object?.traverse((one) => {
        if (one instanceof SkinnedMesh && (one === object || one.parent === object))
          meshes.push(one as SkinnedMesh);
      });
      const place = seen.get(object as Object3D) ?? 0;
      seen.set(object as Object3D, place + 1);
      const mesh = meshes[place];
      if (!mesh) continue;
      const corner = new Vector3();
      for (let at = 0; at < positions.length / 3; at++) {
        mesh.getVertexPosition(at, corner).applyMatrix4(mesh.matrixWorld);
        compared++;
        size = Math.max(size, corner.length());
        furthest = Math.max(furthest, corner.distanceTo(new Vector3().fromArray(positions, at * 3)));
      }
    }
    player.stop();
  }
  return { compared, furthest, size };
}

describe('Poses of open models', () => {
  for (const path of moving)
    it(`${path}: all nodes stand where three’s mixer has them, at ten moments, and skin follows as its own does`, async () => {
      const model = await opened(path);
      expect(model.document.getRoot().listAnimations(), 'its clips').not.to.deep.equal([]);
      const poses = comparePoses(model);
      expect(poses.compared).to.be.at.least(moments);
      expect(poses.furthest / poses.size).to.be.below(1e-4);
      const skins = compareSkins(model);
      if (model.document.getRoot().listSkins().length > 0) {
        expect(skins.compared).to.be.at.least(3);
        expect(skins.furthest / skins.size).to.be.below(1e-4);
      }
    });
});
