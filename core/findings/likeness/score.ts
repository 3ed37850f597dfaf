import type { Kind } from '../../../contract/kinds.ts';
import { looksOf } from './looks.ts';
import { nameMeasures } from './named.ts';
import { fittedWeights, type Weights } from './weights.ts';

/** What two things are alike in. */
export interface Measures {
  /** As `nameMeasures` tells. */
  name: readonly number[];
  /** As `looksOf` tells, null where one of them has no signature. */
  looks: readonly number[] | null;
}

/** Further ahead than this of its rivals says no more. */
export const mostLead = 6;

/** Powers of a measure: the eighth says how much more the last step to no difference counts. */
const powers = [1, 2, 8] as const;

/**
 * What there are weights for: each measure and its powers, and those of looks together with how much of the name is the
 * same.
 */
export function termsOf({ name, looks }: Measures): number[] {
  const measures = [...name, ...(looks ?? [])];
  const ofName = name[1] ?? 0;
  return [
    ...powers.flatMap((power) => measures.map((measure) => measure ** power)),
    ...(looks ?? []).map((look) => look * ofName),
  ];
}

/** The logarithm of the odds that they are one thing, by what they are alike in alone: `termsOf` by their weights. */
export function oddsOf(kind: Kind, { name, looks }: Measures): number {
  const { base, terms } = flatWeights(kind, looks !== null);
  const count = name.length + (looks?.length ?? 0);
  const ofName = name[1] ?? 0;
  let odds = base;
  for (let at = 0; at < count; at++) {
    const isLook = at >= name.length;
    const measure = (isLook ? looks?.[at - name.length] : name[at]) ?? 0;
    const square = measure * measure;
    const fourth = square * square;
    odds +=
      (terms[at] ?? 0) * measure +
      (terms[at + count] ?? 0) * square +
      (terms[at + 2 * count] ?? 0) * fourth * fourth +
      (isLook ? (terms[at + 3 * count - name.length] ?? 0) * measure * ofName : 0);
  }
  return odds;
}

/** How likely it is that they are one thing, 0 to 1. @param lead by how much its odds are ahead of those of the best rival */
export function likelihood(kind: Kind, hasLooks: boolean, odds: number, lead: number): number {
  const { settled } = flatWeights(kind, hasLooks);
  const sum =
    settled.base + settled.odds * odds + settled.lead * Math.max(-mostLead, Math.min(mostLead, lead));
  return 1 / (1 + Math.exp(-sum));
}

interface FlatWeights {
  base: number;
  /** In the order of `termsOf`. */
  terms: readonly number[];
  settled: Weights['settled'];
}

const flat = new Map<Weights, FlatWeights>();

function flatWeights(kind: Kind, hasLooks: boolean): FlatWeights {
  const weights = (hasLooks ? fittedWeights[kind] : undefined) ?? fittedWeights.named;
  let found = flat.get(weights);
  if (!found) {
    const names = [...nameMeasures, ...(hasLooks ? (looksOf[kind]?.names ?? []) : [])];
    const column = (at: number): number[] => names.map((name) => weights.measures[name]?.[at] ?? 0);
    found = {
      base: weights.base,
      terms: [
        ...powers.flatMap((_, at) => column(at)),
        ...(hasLooks ? column(powers.length).slice(nameMeasures.length) : []),
      ],
      settled: weights.settled,
    };
    flat.set(weights, found);
  }
  return found;
}
