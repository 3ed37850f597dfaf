import { expect } from 'chai';
import { seeded } from '../../../demo/seeded.ts';
import type { Kind } from '../../../contract/kinds.ts';
import { looksOf } from './looks.ts';
import { nameMeasures } from './named.ts';
import { likelihood, mostLead, oddsOf, termsOf, type Measures } from './score.ts';
import { fittedWeights } from './weights.ts';

const kinds: readonly Kind[] = ['picture', 'model', 'sound', 'text'];

/** How likely two things are one, by what they are alike in. */
describe('scores of likeness', () => {
  const random = seeded(41);
  const measured = (kind: Kind | null): Measures => ({
    name: nameMeasures.map(() => random()),
    looks: kind && (looksOf[kind]?.names.map(() => random()) ?? null),
  });

  it('has weights for every measure of every kind, and for no other', () => {
    for (const kind of kinds) {
      const names = [...nameMeasures, ...(looksOf[kind]?.names ?? [])];
      const { measures } = fittedWeights[kind] ?? fittedWeights.named;
      expect(Object.keys(measures), kind).to.deep.equal(names);
      for (const [name, weights] of Object.entries(measures))
        expect(weights.length, `${kind} ${name}`).to.equal(
          (nameMeasures as readonly string[]).includes(name) ? 3 : 4,
        );
    }
    expect(Object.keys(fittedWeights.named.measures)).to.deep.equal([...nameMeasures]);
  });

  it('adds up the terms that the weights were fitted to', () => {
    for (const kind of [...kinds, null])
      for (let round = 0; round < 20; round++) {
        const measures = measured(kind);
        const { base, measures: weights } = (kind && fittedWeights[kind]) ?? fittedWeights.named;
        const names = [...nameMeasures, ...((kind && looksOf[kind]?.names) ?? [])];
        const columns = [0, 1, 2].flatMap((at) => names.map((name) => weights[name]?.[at] ?? 0));
        const ofLooks = names.slice(nameMeasures.length).map((name) => weights[name]?.[3] ?? 0);
        const expected = termsOf(measures).reduce(
          (sum, term, at) => sum + term * ([...columns, ...ofLooks][at] ?? 0),
          base,
        );
        expect(oddsOf(kind ?? 'map', measures)).to.be.closeTo(expected, 1e-9);
      }
  });

  it('is a share, grows with the odds, and with how far the best rival is behind', () => {
    for (const kind of kinds)
      for (let odds = -8; odds < 8; odds++)
        for (const lead of [-3, 0, 3]) {
          const score = likelihood(kind, true, odds, lead);
          expect(score).to.be.within(0, 1);
          expect(likelihood(kind, true, odds + 1, lead)).to.be.above(score);
          expect(likelihood(kind, true, odds, lead + 1)).to.be.above(score);
        }
    // Without any rival it is as with one that is far behind.
    expect(likelihood('sound', true, 2, Infinity)).to.equal(likelihood('sound', true, 2, mostLead));
  });

  it('is sure of what is the same in all, and of nothing that is the same in nothing', () => {
    for (const kind of kinds) {
      const all = (value: number): Measures => ({
        name: nameMeasures.map(() => value),
        looks: looksOf[kind]?.names.map(() => value) ?? null,
      });
      expect(likelihood(kind, true, oddsOf(kind, all(1)), Infinity), kind).to.be.above(0.97);
      expect(likelihood(kind, true, oddsOf(kind, all(0)), Infinity), kind).to.be.below(0.05);
    }
  });
});
