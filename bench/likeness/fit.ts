import { Matrix, solve } from 'ml-matrix';
import { grouped } from '../../core/grouped.ts';
import type { Kind } from '../../contract/kinds.ts';
import {
  candidatesOf,
  measuresOf,
  settle,
  sidesOf,
  type Candidate,
} from '../../core/findings/likeness/pair.ts';
import { looksOf } from '../../core/findings/likeness/looks.ts';
import { namedBy, nameMeasures, type Named } from '../../core/findings/likeness/named.ts';
import { mostLead, termsOf, type Measures } from '../../core/findings/likeness/score.ts';
import type { Weights } from '../../core/findings/likeness/weights.ts';
import { usualRules } from '../../core/names/split.ts';
import type { Sample } from './collection.ts';
import { drawTrial } from './trial.ts';

/** Candidates of one trial within a kind, with whether each is right. */
interface Judged {
  candidates: readonly (Candidate & { measures: Measures; isRight: boolean })[];
}

export function judgedTrials(
  samples: readonly Sample[],
  kind: Kind,
  seeds: readonly number[],
  hasLooks = true,
): Judged[] {
  const byCollection = grouped(
    samples.filter((sample) => sample.kind === kind),
    ({ collection }) => collection,
  );
  const named = namedBy(usualRules);
  return [...byCollection.values()].flatMap((some) =>
    seeds.map((seed) => {
      const trial = drawTrial(some, seed);
      const [olds, news] = [trial.gone, trial.fresh].map((items) =>
        items.map((item) => named(hasLooks ? item : { ...item, signature: null })),
      ) as [Named[], Named[]];
      const sides = sidesOf(kind, olds, news);
      return {
        candidates: candidatesOf(sides).flatMap((candidate) => {
          const [old, now] = [olds[candidate.old], news[candidate.now]];
          if (!old || !now) return [];
          const isRight = trial.truth.get(now.item.path) === old.item.path;
          return [{ ...candidate, measures: measuresOf(kind, old, now, sides.weights), isRight }];
        }),
      };
    }),
  );
}

/** Fits the weights of a kind to what is right: first of the measures, then of odds and lead as they are settled. */
export function fitWeights(kind: Kind | null, trials: readonly Judged[]): Weights {
  const all = trials.flatMap(({ candidates }) => candidates);
  const [base = 0, ...measures] = logistic(
    all.map(({ measures }) => [1, ...termsOf(measures)]),
    all.map(({ isRight }) => isRight),
    2,
  );
  const rows: number[][] = [];
  const right: boolean[] = [];
  const odds = ({ measures: found }: { measures: Measures }): number =>
    termsOf(found).reduce((sum, term, at) => sum + term * (measures[at] ?? 0), base);
  for (const { candidates } of trials) {
    const ordered = candidates
      .map((candidate) => ({ ...candidate, odds: odds(candidate) }))
      .sort((a, b) => b.odds - a.odds);
    settle(ordered, (candidate, lead) => {
      rows.push([1, candidate.odds, Math.max(-mostLead, Math.min(mostLead, lead))]);
      right.push((candidate as Candidate & { isRight: boolean }).isRight);
      return candidate.odds > 0;
    });
  }
  const [settledBase = 0, oddsWeight = 1, lead = 0] = logistic(rows, right, 0.01);
  return {
    base: rounded(base),
    measures: byName(kind, measures),
    settled: { base: rounded(settledBase), odds: rounded(oddsWeight), lead: rounded(lead) },
  };
}

/** Terms under the names of their measures, as the product keeps them. @param kind null of names alone */
function byName(kind: Kind | null, terms: readonly number[]): Weights['measures'] {
  const looks = (kind && looksOf[kind]?.names) ?? [];
  const names = [...nameMeasures, ...looks];
  return Object.fromEntries(
    names.map((name, at) => [
      name,
      [at, at + names.length, at + 2 * names.length, 3 * names.length + at - nameMeasures.length]
        .slice(0, at < nameMeasures.length ? 3 : 4)
        .map((term) => rounded(terms[term] ?? 0)),
    ]),
  );
}

const rounded = (value: number): number => Number(value.toPrecision(4));

/** Logistic regression with a ridge, by Newton's steps (iteratively reweighted least squares). */
export function logistic(
  rows: readonly (readonly number[])[],
  right: readonly boolean[],
  ridge: number,
): number[] {
  const count = rows[0]?.length ?? 0;
  if (count === 0) throw new RangeError('logistic: there is nothing to fit to');
  let weights = new Array<number>(count).fill(0);
  for (let round = 0; round < 25; round++) {
    const slope = new Float64Array(count);
    const curve = Array.from({ length: count }, () => new Float64Array(count));
    rows.forEach((row, at) => {
      const odds = row.reduce((sum, value, term) => sum + value * (weights[term] ?? 0), 0);
      const likely = 1 / (1 + Math.exp(-odds));
      const off = (right[at] ? 1 : 0) - likely;
      const bend = Math.max(1e-9, likely * (1 - likely));
      for (let term = 0; term < count; term++) {
        const value = row[term] ?? 0;
        if (value === 0) continue;
        slope[term] = (slope[term] ?? 0) + value * off;
        const line = curve[term];
        if (!line) continue;
        for (let other = 0; other < count; other++)
          line[other] = (line[other] ?? 0) + value * (row[other] ?? 0) * bend;
      }
    });
    for (let term = 0; term < count; term++) {
      const line = curve[term];
      if (!line) continue;
      const held = term === 0 ? 1e-6 : ridge;
      slope[term] = (slope[term] ?? 0) - held * (weights[term] ?? 0);
      line[term] = (line[term] ?? 0) + held;
    }
    const step = solve(
      new Matrix(curve.map((line) => [...line])),
      Matrix.columnVector([...slope]),
    ).to1DArray();
    weights = weights.map((weight, term) => weight + (step[term] ?? 0));
    if (step.every((value) => Math.abs(value) < 1e-6)) break;
  }
  return weights;
}

/** The half of a collection that weights are fitted to; the other half says what they are worth. */
export const fittedOf = (samples: readonly Sample[]): Sample[] => halfOf(samples, 0);
export const heldOutOf = (samples: readonly Sample[]): Sample[] => halfOf(samples, 1);

/** Every other run of neighbours, which are alike: what is in one half has no brother in the other. */
function halfOf(samples: readonly Sample[], half: 0 | 1): Sample[] {
  return [...grouped(samples, ({ collection, kind }) => `${collection} ${kind}`).values()].flatMap((some) => {
    const run = some.length >= 200 ? 50 : Math.max(5, Math.floor(some.length / 6));
    return some.filter((_, at) => Math.floor(at / run) % 2 === half);
  });
}

/** Weights of all kinds, and of names alone. */
export function fitAll(samples: readonly Sample[], kinds: readonly Kind[]): Record<string, Weights> {
  const seeds = [1, 2, 3, 4, 5, 6, 7, 8];
  return {
    ...Object.fromEntries(kinds.map((kind) => [kind, fitWeights(kind, judgedTrials(samples, kind, seeds))])),
    named: fitWeights(
      null,
      kinds.flatMap((kind) => judgedTrials(samples, kind, seeds.slice(0, 4), false)),
    ),
  };
}
