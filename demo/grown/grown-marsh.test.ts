import { expect } from 'chai';
import type { ClipFacts, MapFacts, ModelFacts, PictureFacts, SoundFacts } from '../../contract/facts.ts';
import { hashOf } from '../../server/store/hash.ts';
import { readBytes } from '../../tests/support/read.ts';
import { birdBones } from './bird-bones.ts';
import { bird, birdClip, birdClips, birds } from './birds.ts';
import { boat, boats } from './boats.ts';
import { cargo, cargoModel } from './cargo.ts';
import { groundPicture, heightField, isle, isles } from './land.ts';
import { mapOf, placementsOf } from './maps.ts';
import { noises } from './noises.ts';
import { plantKinds, plantModel } from './plants.ts';
import { picturesOf, surfaces } from './surfaces.ts';

const levels = [0, 1, 2, 3, 4];
const factsOf = async <T>(bytes: Uint8Array, name: string): Promise<T> =>
  (await readBytes(bytes, name)).facts as T;

describe('The grown marsh of the demo', () => {
  it('has birds of forty bones, with clips that end where they say', async () => {
    expect(birdBones.length).to.equal(40);
    const [first] = birds;
    if (!first) throw new Error('no bird');
    const facts = await factsOf<ModelFacts>(await bird(first, 0), 'birds/a_l0.glb');
    expect(facts.bones).to.equal(40);
    expect(facts.clips.map(({ name }) => name)).to.deep.equal(['walk', 'fly', 'look']);
    expect(facts.clips[2]?.seconds).to.be.closeTo(91 / 30, 1e-5);
    const alone = await factsOf<ClipFacts>(await birdClip(first, birdClips.call_face), 'birds/call.glb');
    expect(alone.kind).to.equal('clip');
    expect(alone.clips[0]).to.include({ name: 'call_face', bones: 3 });
  });

  it('has five levels of each thing, each with fewer triangles than the one above', async () => {
    const [first, , island] = boats;
    const [tern] = isles.filter(({ name }) => name === 'isle_tern');
    const heron = birds[0];
    if (!first || !island || !tern || !heron) throw new Error('nothing to make');
    for (const make of [
      (level: number) => boat(island, level),
      (level: number) => isle(tern, level),
      (level: number) => bird(heron, level),
      ...['barrel_oak', 'cart_hand', 'ladder_stage'].map(
        (name) => (level: number) => cargoModel(name, level),
      ),
      ...plantKinds.map((kind) => (level: number) => plantModel(kind, 1, level)),
    ]) {
      const triangles: number[] = [];
      for (const level of levels)
        triangles.push((await factsOf<ModelFacts>(await make(level), `x_l${level}.glb`)).triangles);
      expect(
        triangles.slice(1).every((count, at) => count < (triangles[at] ?? 0)),
        triangles.join(),
      ).to.equal(true);
    }
    // The same bytes at every run.
    expect(Buffer.from(await boat(first, 2)).equals(Buffer.from(await boat(first, 2)))).to.equal(true);
  });

  it('has maps of fifty to three thousand placements, with zones, and heights of 16 bits', async () => {
    for (const which of isles) {
      const facts = await factsOf<MapFacts>(Buffer.from(mapOf(which, false)), `maps/${which.name}.json`);
      expect(facts.placements, which.name).to.equal(placementsOf[which.name]);
      expect(Object.keys(facts.classes).filter((name) => name.startsWith('zone'))).to.have.length(4);
    }
    const [first] = isles;
    if (!first) throw new Error('no isle');
    const heights = await factsOf<PictureFacts>(await heightField(first, 65), 'h.png');
    expect([heights.width, heights.height]).to.deep.equal([65, 65]);
    const seen = await factsOf<PictureFacts>(await groundPicture(first, 64), 'g.jpg');
    expect([seen.width, seen.channels]).to.deep.equal([64, 3]);
  });

  it('has cargo of every kind in true sizes, and short sounds of which none is like another', async () => {
    for (const name of cargo) {
      const { boundsMetres, materials } = await factsOf<ModelFacts>(await cargoModel(name, 0), `${name}.glb`);
      if (!boundsMetres) throw new Error(`${name} has no extent`);
      const sides = boundsMetres.max.map((most, axis) => most - (boundsMetres.min[axis] ?? 0));
      expect(Math.max(...sides), name).to.be.within(0.15, 3);
      expect(materials, name).to.be.within(1, 4);
    }
    expect(() => cargoModel('nothing', 0)).to.throw(RangeError, 'there is no nothing');
    const made = noises();
    expect(new Set(made.map(([, bytes]) => hashOf(Buffer.from(bytes)).toString('hex'))).size).to.equal(144);
    for (const [path, bytes] of made.filter((_, at) => at % 9 === 0)) {
      const facts = await factsOf<SoundFacts>(bytes, path);
      expect(facts.seconds, path).to.be.within(0.1, 2);
      expect(facts.peak, path).to.be.within(0.02, 1);
    }
  });

  it('has surfaces in all roles, of one size', async () => {
    const lamp = surfaces.find(({ name }) => name === 'lamp_glass');
    if (!lamp) throw new Error('no surface');
    const pictures = await picturesOf(lamp);
    expect(pictures.map(([name]) => name.replace(/.*_/, '').replace(/\..*/, ''))).to.deep.equal([
      ...['col', 'nrm', 'rgh', 'ao', 'hgt', 'orm', 'msk', 'emi'],
    ]);
    for (const [name, bytes] of pictures)
      expect((await factsOf<PictureFacts>(bytes, name)).width, name).to.equal(512);
  });
});
