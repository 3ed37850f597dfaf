import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Kind } from '../contract/kinds.ts';
import { leastScore, pairByLikeness } from '../core/findings/likeness/pair.ts';
import { grouped } from '../core/grouped.ts';
import { openCollections, samplesOf, type Sample } from './likeness/collection.ts';
import { fittedOf, fitAll, heldOutOf } from './likeness/fit.ts';
import { drawTrial, type Shares } from './likeness/trial.ts';
import { resultOf, type Asked, type BenchResult } from './result.ts';

const kinds: readonly Kind[] = ['picture', 'model', 'sound', 'text'];

/** An update that touches little, and one after which hardly anything is as it was. */
const updates: Readonly<Record<string, Shares>> = {
  small: { gone: 0.03, fresh: 0.05, renamed: 0.1 },
  large: { gone: 0.2, fresh: 0.2, renamed: 0.2 },
};

const trials = 10;

/**
 * What was renamed and changed at once, among what went and what is new, in open collections: how much of it is found, how
 * much of what is proposed is wrong, and whether scores mean what they say. Only files that the weights were not fitted to are
 * asked for. With WORVEL_LIKENESS_WEIGHTS, weights are fitted to the other half and written there.
 */
export async function benchLikeness(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-likeness-'));
  const samples: Sample[] = [];
  try {
    for (const collection of openCollections(work, Math.ceil(600 * share))) {
      const before = samples.length;
      for await (const sample of samplesOf(collection, work)) samples.push(sample);
      say(`${collection.name}: ${samples.length - before} files`);
    }
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
  const target = process.env.WORVEL_LIKENESS_WEIGHTS;
  if (target) writeFileSync(target, JSON.stringify(fitAll(fittedOf(samples), kinds), null, 2));
  const figures: Record<string, number> = {};
  for (const [update, shares] of Object.entries(updates))
    for (const kind of kinds) {
      const { renamed, found, proposed, bands } = measure(
        heldOutOf(samples).filter((sample) => sample.kind === kind),
        shares,
      );
      const wrong = proposed - found;
      const calibration = bands.map(
        ({ right, all }, band) =>
          `${band * 10}: ${all === 0 ? '-' : Math.round((right / all) * 100)} of 100 (${all})`,
      );
      say(
        `${update} update, ${kind}s: ${found} of ${renamed} found, ${wrong} of ${proposed} proposed are wrong; right by score: ${calibration.slice(3).join(', ')}`,
      );
      figures[`${update}${kind}FoundPercent`] = (100 * found) / Math.max(1, renamed);
      figures[`${update}${kind}WrongPercent`] = (100 * wrong) / Math.max(1, proposed);
    }
  const asked: Record<string, Asked> = {};
  for (const kind of kinds) {
    asked[`small${kind}FoundPercent`] = { what: `renamed ${kind}s that are found, %`, least: 97 };
    asked[`small${kind}WrongPercent`] = { what: `pairs of ${kind}s that are wrong, %`, most: 0.5 };
  }
  return resultOf('likeness', figures, {}, asked);
}

function measure(samples: readonly Sample[], shares: Shares) {
  const bands = Array.from({ length: 10 }, () => ({ right: 0, all: 0 }));
  let [renamed, found, proposed] = [0, 0, 0];
  for (const some of grouped(samples, ({ collection }) => collection).values())
    for (let seed = 101; seed < 101 + trials; seed++) {
      const { gone, fresh, truth } = drawTrial(some, seed, shares);
      renamed += truth.size;
      for (const { path, oldPath, score } of pairByLikeness(gone, fresh, undefined, 0)) {
        const isRight = truth.get(path) === oldPath;
        const band = bands[Math.min(9, Math.floor(score * 10))];
        if (band) band.all++;
        if (band && isRight) band.right++;
        if (score < leastScore) continue;
        proposed++;
        if (isRight) found++;
      }
    }
  return { renamed, found, proposed, bands };
}
