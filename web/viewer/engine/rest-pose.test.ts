import { expect } from 'chai';
import {
  BoxGeometry,
  BufferGeometry,
  Float32BufferAttribute,
  Group,
  InstancedMesh,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  Points,
} from 'three';
import { boundsOf, drawnIn } from './rest-pose.ts';

describe('Where things stand at rest', () => {
  it('is where all instances are', () => {
    const mesh = new InstancedMesh(new BoxGeometry(1, 1, 1), new MeshBasicMaterial(), 2);
    mesh.setMatrixAt(0, new Matrix4().makeTranslation(-50, 0, 0));
    mesh.setMatrixAt(1, new Matrix4().makeTranslation(70, 0, 0));
    const { min, max } = boundsOf(mesh);
    expect([min.x, max.x]).to.deep.equal([-50.5, 70.5]);
  });

  it('is known of points and lines too, within what they hang on', () => {
    const cloud = new Points(
      new BufferGeometry().setAttribute('position', new Float32BufferAttribute([0, 0, 0, 4, 0, 0], 3)),
    );
    const group = new Group();
    group.position.x = 10;
    group.add(cloud, new Mesh(new BoxGeometry(), new MeshBasicMaterial()));
    expect(drawnIn(group)).to.have.length(2);
    expect(boundsOf(cloud).max.x).to.equal(14);
  });

  it('is nowhere for a shape without vertices', () => {
    expect(boundsOf(new Points(new BufferGeometry())).isEmpty()).to.equal(true);
  });
});
