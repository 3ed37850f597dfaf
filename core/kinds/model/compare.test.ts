import { Document, NodeIO } from '@gltf-transform/core';
import { expect } from 'chai';
import {
  AnimationMixer,
  PlaneGeometry,
  SphereGeometry,
  Triangle,
  TorusKnotGeometry,
  Vector3,
  type BufferGeometry,
} from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { Comparison, ModelDetail } from '../../../contract/comparisons.ts';
import { compareBytes } from '../../../tests/support/compare.ts';
import { Pose } from './compare/pose.ts';
import { surfaceDistance, type SurfaceDistance } from './compare/distance.ts';
import { sharedTriangles } from './compare/shared-triangles.ts';
import { samplesOf, surfaceOf, type Surface } from './compare/surface.ts';

function surface(geometry: BufferGeometry): Surface {
  const positions = new Float32Array(geometry.getAttribute('position').array);
  const index = geometry.getIndex();
  const indices = Uint32Array.from(
    { length: index?.count ?? positions.length / 3 },
    (_, at) => index?.getX(at) ?? at,
  );
  const found = surfaceOf([{ positions, indices }]);
  if (!found) throw new Error('no surface');
  return found;
}

const distanceOf = (old: Surface, now: Surface): SurfaceDistance =>
  surfaceDistance(old, now, sharedTriangles(old, now));

interface Made {
  document: Document;
  root: ReturnType<Document['createNode']>;
}

/** A document with one part a geometry, by its name. */
function model(
  parts: Record<string, BufferGeometry>,
  change: (made: Made) => void = () => undefined,
): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const root = document.createNode('root');
  document.createScene().addChild(root);
  for (const [name, geometry] of Object.entries(parts)) {
    const index = geometry.getIndex();
    const positions = document
      .createAccessor()
      .setType('VEC3')
      .setArray(new Float32Array(geometry.getAttribute('position').array))
      .setBuffer(buffer);
    const indices = document
      .createAccessor()
      .setType('SCALAR')
      .setArray(Uint32Array.from({ length: index?.count ?? 0 }, (_, at) => index?.getX(at) ?? 0))
      .setBuffer(buffer);
    const mesh = document
      .createMesh(name)
      .addPrimitive(document.createPrimitive().setAttribute('POSITION', positions).setIndices(indices));
    root.addChild(document.createNode(name).setMesh(mesh));
  }
  change({ document, root });
  return document;
}

const glb = async (document: Document): Promise<Uint8Array> => new NodeIO().writeBinary(document);
const compared = async (old: Document, now: Document): Promise<Comparison & { model: ModelDetail }> => {
  const comparison = await compareBytes(
    { bytes: await glb(old), path: 'a.glb' },
    { bytes: await glb(now), path: 'a.glb' },
  );
  if (comparison.detail?.kind !== 'model') throw new Error('no detail of a model');
  return { ...comparison, model: comparison.detail };
};

/** Bones hip → knee → foot, and a clip that turns the knee about z. */
function withBones(
  { document, root }: Made,
  options: { parent?: 'hip' | 'knee'; degrees?: number; extra?: boolean } = {},
): void {
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
  const [hip, knee, foot] = ['hip', 'knee', 'foot'].map((name, at) =>
    document.createNode(name).setTranslation([0, at === 0 ? 1 : -0.5, 0]),
  );
  if (!hip || !knee || !foot) throw new Error('no bones');
  root.addChild(hip.addChild(knee));
  (options.parent === 'hip' ? hip : knee).addChild(foot);
  const skin = document.createSkin().addJoint(hip).addJoint(knee).addJoint(foot);
  if (options.extra) {
    const toe = document.createNode('toe');
    foot.addChild(toe);
    skin.addJoint(toe);
  }
  const half = ((options.degrees ?? 90) * Math.PI) / 360;
  const input = document
    .createAccessor()
    .setType('SCALAR')
    .setArray(new Float32Array([0, 1, 2]))
    .setBuffer(buffer);
  const output = document
    .createAccessor()
    .setType('VEC4')
    .setArray(new Float32Array([0, 0, 0, 1, 0, 0, Math.sin(half), Math.cos(half), 0, 0, 0, 1]))
    .setBuffer(buffer);
  const sampler = document
    .createAnimationSampler()
    .setInput(input)
    .setOutput(output)
    .setInterpolation('LINEAR');
  document
    .createAnimation('step')
    .addSampler(sampler)
    .addChannel(
      document.createAnimationChannel().setTargetNode(knee).setTargetPath('rotation').setSampler(sampler),
    );
}

describe('the distance between surfaces', () => {
  it('of two spheres about one centre is the difference of their radii, as far as triangles are round', () => {
    const { meanMetres, greatestMetres } = distanceOf(
      surface(new SphereGeometry(1, 200, 100)),
      surface(new SphereGeometry(1.1, 200, 100)),
    );
    expect(meanMetres).to.be.closeTo(0.1, 0.0005);
    expect(greatestMetres).to.be.closeTo(0.1, 0.0015);
  });

  it('of a plane that was shifted is how far: upwards everywhere, sideways at its edge alone', () => {
    const plane = surface(new PlaneGeometry(2, 2, 4, 4));
    const up = distanceOf(plane, surface(new PlaneGeometry(2, 2, 4, 4).translate(0, 0, 0.25)));
    expect([up.meanMetres, up.greatestMetres]).to.deep.equal([0.25, 0.25]);
    // A quarter of the width hangs over: 0 to 0.5 m away there, a mean of 0.25 m on a quarter of the area.
    const aside = distanceOf(plane, surface(new PlaneGeometry(2, 2, 4, 4).translate(0.5, 0, 0)));
    expect(aside.greatestMetres).to.be.closeTo(0.5, 1e-6);
    expect(aside.meanMetres).to.be.closeTo(0.0625, 0.002);
  });

  it('is what asking every triangle gives, by the formula of a general-purpose library', () => {
    const old = surface(new TorusKnotGeometry(1, 0.3, 60, 8));
    const now = surface(new TorusKnotGeometry(1, 0.34, 50, 9));
    const triangle = new Triangle();
    const point = new Vector3();
    const nearest = new Vector3();
    const corner = (of: Surface, at: number, to: Vector3): Vector3 =>
      to.fromArray(of.positions, (of.indices[at] ?? 0) * 3);
    const slow = (from: Surface, to: Surface, count: number): number[] =>
      [...samplesOf(from, count)].map(({ x, y, z }) => {
        let best = Infinity;
        for (let at = 0; at < to.indices.length; at += 3) {
          triangle.set(
            corner(to, at, triangle.a),
            corner(to, at + 1, triangle.b),
            corner(to, at + 2, triangle.c),
          );
          best = Math.min(best, triangle.closestPointToPoint(point.set(x, y, z), nearest).distanceTo(point));
        }
        return best;
      });
    const mean = (values: number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length;
    const all = [slow(now, old, 1500), slow(old, now, 1500)];
    const found = distanceOf(old, now);
    expect(found.meanMetres).to.be.closeTo((mean(all[0] ?? []) + mean(all[1] ?? [])) / 2, 0.0004);
    expect(found.greatestMetres).to.be.at.least(Math.max(...all.flat()) - 1e-6);
    expect(found.greatestMetres).to.be.closeTo(Math.max(...all.flat()), 0.01);
  });
});

describe('comparing models', () => {
  const knot = (): BufferGeometry => new TorusKnotGeometry(1, 0.3, 60, 8);

  it('tells the same shape at another place, scale or turn, and with numbers of fewer digits', async () => {
    const base = model({ knot: knot() });
    const larger = await compared(base, model({ knot: knot().scale(2, 2, 2) }));
    expect(larger.nature).to.equal('placed otherwise');
    expect(larger.sentence).to.equal('The same shape, twice as large.');
    const moved = await compared(base, model({ knot: knot().translate(0, 3, 4) }));
    expect(moved.sentence).to.equal('The same shape, moved by 5.00 m.');
    // From Z up to Y up is a turn of -90 degrees about X (common practice, no published source).
    const turned = await compared(base, model({ knot: knot().rotateX(-Math.PI / 2) }));
    expect(turned.sentence).to.equal('The same shape, turned by quarters.');
    const rounded = knot();
    const positions = rounded.getAttribute('position');
    for (let at = 0; at < positions.array.length; at++)
      positions.array[at] = Math.round((positions.array[at] ?? 0) * 32_767) / 32_767;
    const precise = await compared(base, model({ knot: rounded }));
    expect(precise.nature).to.equal('rewritten');
    expect(precise.sentence).to.equal('The same shape.');
    expect(precise.extent).to.equal(0);
  });

  it('says where a shape changed and by how much, by its parts', async () => {
    const bulged = new SphereGeometry(0.5, 64, 32).translate(3, 0, 0);
    const positions = bulged.getAttribute('position');
    for (let at = 0; at < positions.count; at++)
      if (positions.getY(at) > 0.45) positions.setY(at, positions.getY(at) + 0.2);
    const {
      sentence,
      model: detail,
      nature,
    } = await compared(
      model({
        knot: knot(),
        lamp: new SphereGeometry(0.5, 64, 32).translate(3, 0, 0),
        hook: new SphereGeometry(0.1),
      }),
      model({ knot: knot(), lamp: bulged, chain: new SphereGeometry(0.12).translate(0, 0.2, 3) }),
    );
    expect(nature).to.equal('other');
    expect(detail.parts.map(({ name, status }) => `${name} ${status}`)).to.deep.equal([
      'chain added',
      'hook gone',
      'lamp changed',
      'knot same',
    ]);
    expect(detail.parts.find(({ name }) => name === 'lamp')?.greatestMetres).to.be.closeTo(0.2, 0.01);
    expect(sentence).to.match(
      /^The surface is up to .* off \(.*\), at .*, part “chain” new, part “hook” gone/,
    );
  });

  it('tells of bones that came, went, moved or hang on another', async () => {
    const make = (options: Parameters<typeof withBones>[1] = {}): Document =>
      model({ knot: knot() }, (made) => withBones(made, options));
    const toe = await compared(make(), make({ extra: true }));
    expect(toe.model.bones.added).to.deep.equal(['toe']);
    expect(toe.sentence).to.equal('The same shape, bone “toe” new.');
    const foot = await compared(make(), make({ parent: 'hip' }));
    expect(foot.model.bones.reparented).to.deep.equal([{ bone: 'foot', from: 'knee', to: 'hip' }]);
    expect(foot.model.bones.moved[0]?.metres).to.be.closeTo(0.5, 1e-6);
  });

  it('finds the moment and the bone at which poses differ most; poses are those of a general-purpose library', async () => {
    const make = (degrees: number): Document =>
      model({ knot: knot() }, (made) => withBones(made, { degrees }));
    const { model: detail, sentence } = await compared(make(90), make(120));
    const [clip] = detail.clips;
    // The foot hangs half a metre below the knee: 30 degrees further is a chord of 2 · 0.5 · sin 15°.
    expect(clip?.bone).to.equal('foot');
    expect(clip?.atSeconds).to.be.closeTo(1, 1e-6);
    expect(clip?.greatestMetres).to.be.closeTo(Math.sin((15 * Math.PI) / 180), 1e-4);
    expect(sentence).to.include('clip “step”: foot up to 259 mm elsewhere, at 1.00 s');

    const document = make(90);
    const bytes = await glb(document);
    const loaded = await new GLTFLoader().parseAsync(new Uint8Array(bytes).buffer, '');
    const mixer = new AnimationMixer(loaded.scene);
    const [animation] = document.getRoot().listAnimations();
    if (!loaded.animations[0] || !animation) throw new Error('no clip');
    mixer.clipAction(loaded.animations[0]).play();
    const pose = new Pose(document, animation);
    for (const seconds of [0, 0.4, 1, 1.7]) {
      mixer.setTime(seconds);
      loaded.scene.updateMatrixWorld(true);
      const place = loaded.scene.getObjectByName('foot')?.getWorldPosition(new Vector3()).toArray();
      expect(
        pose
          .matricesAt(seconds)
          .get('foot')
          ?.slice(12, 15)
          .map((value) => Math.round(value * 1e5)),
      ).to.deep.equal(place?.map((value) => Math.round(value * 1e5)));
    }
  });
});
