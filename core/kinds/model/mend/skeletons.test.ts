import { Document, type Animation } from '@gltf-transform/core';
import { mergeDocuments, unpartition } from '@gltf-transform/functions';
import { quat } from 'gl-matrix';
import { expect } from 'chai';
import { body, figure, type BoneSaid } from '../../../../tests/support/figures.ts';
import { poseAt, spanOfClip } from '../pose/pose-at.ts';
import { trianglesOf } from '../triangles.ts';
import { carryClips } from './carry-clips.ts';
import { joinSkeletons } from './join-skeletons.ts';
import { mapBones } from './map-bones.ts';

/** Places of all corners, and of bones by name, at ten moments of a clip. */
function moments(
  document: Document,
  clip: Animation | undefined,
): { corners: number[]; bones: Map<string, number[]> } {
  const corners: number[] = [];
  const bones = new Map<string, number[]>();
  const { first, last } = clip ? spanOfClip(clip) : { first: 0, last: 0 };
  for (let moment = 0; moment < 10; moment++) {
    const back = clip ? poseAt(clip, first + ((last - first) * moment) / 9) : () => undefined;
    for (const { positions } of trianglesOf(document)) corners.push(...positions);
    for (const joint of document
      .getRoot()
      .listSkins()
      .flatMap((skin) => skin.listJoints())) {
      const name = joint.getName();
      bones.set(name, [...(bones.get(name) ?? []), ...joint.getWorldTranslation()]);
    }
    back();
  }
  return { corners, bones };
}

async function together(...documents: Document[]): Promise<Document> {
  const [first = new Document(), ...rest] = documents;
  const scene = first.getRoot().listScenes()[0];
  for (const other of rest) {
    const before = new Set(first.getRoot().listScenes());
    mergeDocuments(first, other);
    for (const added of first.getRoot().listScenes())
      if (!before.has(added)) {
        for (const node of added.listChildren()) scene?.addChild(node);
        added.dispose();
      }
  }
  await first.transform(unpartition());
  return first;
}

const clipOf = (document: Document, at = 0): Animation | undefined => document.getRoot().listAnimations()[at];
function expectClose(found: readonly number[], wanted: readonly number[], within = 1e-5): void {
  expect(found).to.have.length(wanted.length);
  found.forEach((value, at) => expect(Math.abs(value - (wanted[at] ?? NaN))).to.be.below(within));
}

describe('Skeletons joined', () => {
  it('of several meshes become one, with nothing moved at any of ten moments', async () => {
    const whole = await together(
      figure(body, { only: ['hips', 'spine'] }),
      figure(body, { suffix: '.001', only: ['head', 'arm_l'], clip: false }),
      figure(body, { suffix: '.002', only: ['hand_l'], clip: false }),
    );
    // What it was to look like: all of it on the one skeleton that is moved.
    const reference = figure(body);
    const expected = moments(reference, clipOf(reference));
    const notes = joinSkeletons(whole, new Map());
    expect(notes).to.include('10 doubles of bones joined');
    expect(notes.at(-1)).to.equal('one skeleton of 5 bones');
    expect(whole.getRoot().listSkins()).to.have.length(1);
    const names = whole
      .getRoot()
      .listNodes()
      .map((node) => node.getName());
    expect(names.filter((name) => /hips|spine|head|arm|hand/.test(name)).sort()).to.deep.equal([
      'arm_l',
      'hand_l',
      'head',
      'hips',
      'spine',
    ]);
    const found = moments(whole, clipOf(whole));
    expectClose(found.corners, expected.corners);
    for (const { name } of body) expectClose(found.bones.get(name) ?? [], expected.bones.get(name) ?? []);
  });

  it('keep bones of one name that stand elsewhere, and say so', async () => {
    const moved = body.map((bone) => (bone.name === 'head' ? { ...bone, at: [0, 0.6, 0] as const } : bone));
    const whole = await together(figure(body), figure(moved, { clip: false, only: ['head'] }));
    const before = moments(whole, clipOf(whole));
    const notes = joinSkeletons(whole, new Map());
    expect(notes.join('\n')).to.contain('1 bone of one name stand elsewhere at rest and stay apart: “head”');
    expect(notes).to.include('4 doubles of bones joined');
    // At rest nothing moves.
    const rest = moments(whole, undefined);
    expect(rest.corners.length).to.equal(before.corners.length);
  });

  it('have bones that hang on none hung on one: by name, by people, and under one root', async () => {
    const bones: BoneSaid[] = [
      ...body,
      { name: 'hand_l_prop', parent: null, at: [0.5, 1.5, 0] },
      { name: 'hat', parent: null, at: [0, 2, 0] },
      { name: 'rope', parent: null, at: [2, 0, 0] },
      { name: 'rope_end', parent: 'rope', at: [0, 0.5, 0] },
    ];
    const document = figure(bones, { clip: false });
    const before = moments(document, undefined);
    const notes = joinSkeletons(document, new Map([['hat', 'hips']]));
    expect(notes).to.include('“hand_l_prop” hung on “hand_l”');
    expect(notes).to.include('“hat” hung on “hips”');
    expect(notes).to.include('2 roots hung on one, “root”');
    expectClose(moments(document, undefined).corners, before.corners);
    const joints = new Set(document.getRoot().listSkins()[0]?.listJoints());
    const roots = [...joints].filter((joint) => {
      const above = joint.getParentNode();
      return !above || !joints.has(above);
    });
    expect(roots.map((node) => node.getName())).to.deep.equal(['root']);
  });

  it('keep their order where two roots hang on one thing that is no bone', () => {
    const bones: BoneSaid[] = [
      { name: 'armature', parent: null, at: [0, 0, 0] },
      ...[1, 2].flatMap((number): BoneSaid[] => [
        { name: `leg_${number}`, parent: 'armature', at: [number, 0, 0] },
        { name: `foot_${number}`, parent: `leg_${number}`, at: [0, -1, 0] },
      ]),
    ];
    const document = figure(bones, { clip: false });
    const [skin] = document.getRoot().listSkins();
    const [armature] = skin?.listJoints() ?? [];
    if (!skin || !armature) throw new Error('no skeleton');
    // No bone any more: what comes first in the list moves up.
    skin.removeJoint(armature).setInverseBindMatrices(null);
    expect(joinSkeletons(document, new Map())).to.include('2 roots hung on one, “root”');
    expect(armature.getParentNode()?.getName()).to.equal('root');
    const seen: string[] = [];
    document
      .getRoot()
      .listScenes()[0]
      ?.traverse((node) => seen.push(node.getName()));
    expect(seen.filter((name) => name !== 'shape')).to.have.length(6);
  });

  it('get the shapes that have weights and point to none', () => {
    const document = figure(body, { clip: false });
    const lost = document
      .getRoot()
      .listNodes()
      .find((node) => node.getMesh());
    lost?.setSkin(null);
    const [note] = joinSkeletons(document, new Map());
    expect(note).to.equal('“shape” has weights and no skeleton: bound to the one that there is');
    expect(lost?.getSkin()).to.not.equal(null);
  });

  it('are left alone where there are none', () => {
    expect(joinSkeletons(new Document(), new Map())).to.deep.equal([
      'it has no bones: there is nothing to join',
    ]);
  });
});

describe('Clips carried over', () => {
  it('to the same skeleton put every bone where it was', () => {
    const [target, source] = [figure(body, { clip: false }), figure(body)];
    const notes = carryClips(target, source, new Map());
    expect(notes[0]).to.equal('5 bones have a counterpart');
    const [found, wanted] = [moments(target, clipOf(target)), moments(source, clipOf(source))];
    // Between keys turns go the same way; at ten moments within 1e-5.
    expectClose(found.corners, wanted.corners);
  });

  it('to one of another size and other axes turn its bones alike in the world', () => {
    // Twice as large, other names, and every bone's own axes turned.
    const turn: [number, number, number, number] = [0.5, 0.5, 0.5, 0.5];
    const renamed: Readonly<Record<string, string>> = {
      ...{
        hips: 'rig:Hips',
        spine: 'rig:Spine',
        head: 'rig:Head',
        arm_l: 'rig:LeftArm',
        hand_l: 'rig:LeftHand',
      },
    };
    const source = figure(body);
    const target = figure(otherAxes(body, turn, renamed), { scale: 2, clip: false });
    const places = (document: Document): number[][] =>
      document
        .getRoot()
        .listSkins()
        .flatMap((skin) => skin.listJoints())
        .map((joint) => [...joint.getWorldTranslation()]);
    // The same shape at rest, twice as large.
    expectClose(
      places(target).flat(),
      places(source)
        .flat()
        .map((value) => value * 2),
    );
    const notes = carryClips(target, source, new Map());
    expect(notes.join('\n')).to.contain('5 bones have a counterpart');
    expect(notes.join('\n')).to.contain('places brought to 2.00 of what they were');
    const [found, wanted] = [moments(target, clipOf(target)), moments(source, clipOf(source))];
    for (const { name } of body)
      expectClose(
        found.bones.get(renamed[name] ?? '') ?? [],
        (wanted.bones.get(name) ?? []).map((value) => value * 2),
        2e-3,
      );
    const [, deviation] = /deviation of pose ([\d.e-]+) m/.exec(notes.join('\n')) ?? [];
    expect(Number(deviation)).to.be.below(2e-3);
  });

  it('go by what people said, and list what has no counterpart', () => {
    const source = figure(body);
    const other = body.map((bone) => ({
      ...bone,
      name: bone.name === 'hand_l' ? 'paw' : bone.name,
      parent: bone.parent,
    }));
    const target = figure(
      other.filter(({ name }) => name !== 'head'),
      { clip: false },
    );
    const { pairs, lacking } = mapBones(source, target, new Map([['hand_l', 'paw']]));
    expect(pairs.map(([one, two]) => `${one.getName()}=${two.getName()}`)).to.include('hand_l=paw');
    expect(lacking).to.deep.equal(['“head”']);
    expect(carryClips(target, source, new Map())[0]).to.contain(
      '4 bones have a counterpart, 1 of the clip have none: “head”',
    );
    const strange = figure(
      [
        { name: 'x', parent: null, at: [0, 0, 0] },
        { name: 'y', parent: null, at: [1, 0, 0] },
      ],
      { clip: false },
    );
    expect(carryClips(strange, source, new Map())).to.deep.equal([
      'no bone of the clip has a counterpart in that model: no clip was carried over',
    ]);
  });
});

/** The same skeleton with each bone's own axes turned, and other names. */
function otherAxes(
  bones: readonly BoneSaid[],
  turn: readonly [number, number, number, number],
  names: Readonly<Record<string, string>>,
): BoneSaid[] {
  const inverseTurn = quat.invert(quat.create(), turn) ?? quat.create();
  return bones.map(({ name, parent, at, turn: own }) => {
    const local = quat.clone(own ?? [0, 0, 0, 1]);
    // L' = T⁻¹·L·T below another bone, and L·T where there is none.
    const turned = quat.multiply(quat.create(), local, turn);
    const whole = parent === null ? turned : quat.multiply(quat.create(), inverseTurn, turned);
    const place = parent === null ? at : rotated(at, inverseTurn);
    return {
      name: names[name] ?? name,
      parent: parent === null ? null : (names[parent] ?? parent),
      at: place,
      turn: [...whole] as [number, number, number, number],
    };
  });
}

function rotated([x, y, z]: readonly [number, number, number], turn: quat): [number, number, number] {
  const pure = quat.fromValues(x, y, z, 0);
  const back = quat.conjugate(quat.create(), turn);
  const result = quat.multiply(quat.create(), quat.multiply(quat.create(), turn, pure), back);
  return [result[0], result[1], result[2]];
}
