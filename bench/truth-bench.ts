import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { resultOf, type BenchResult } from './result.ts';
import { judge, type Verdict } from './truth/judge.ts';
import { makers } from './truth/makers.ts';

/** What was asked: of so many statements one may be false, and of so many repacks one may be shown. */
const [mostFalse, mostNoise] = [1 / 200, 1 / 100];

/**
 * Pairs of known change, made by programs that are not the product's own over open material, and how much of what is said of
 * them is true. @param share of all pairs
 */
export async function benchTruth(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-truth-'));
  const groups = new Map<string, Verdict[]>();
  try {
    for (const [kind, make] of Object.entries(makers))
      for await (const truth of make(folder, share)) {
        const name = `${kind}: ${truth.group}`;
        const verdicts = groups.get(name);
        const verdict = await judge(truth);
        if (verdicts) verdicts.push(verdict);
        else groups.set(name, [verdict]);
      }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  const all = [...groups.values()].flat();
  const count = (wanted: Verdict['verdict'], among: readonly Verdict[] = all): number =>
    among.filter(({ verdict }) => verdict === wanted).length;
  say('right  vague  false  hidden  shown  failed  what was done');
  for (const [name, verdicts] of groups) {
    const numbers = (['right', 'vague', 'false', 'hidden', 'noise', 'failed'] as const).map((verdict) =>
      String(count(verdict, verdicts)).padStart(5),
    );
    say(`${numbers.join('  ')}  ${name}`);
    for (const { verdict, truth, nature, sentence, reason } of verdicts)
      if (verdict !== 'right')
        say(`         ${verdict}: ${truth.name}: [${nature}] ${sentence} (${reason.split('\n')[0]})`);
  }
  const unchanged = all.filter(({ truth }) => truth.is !== 'changed').length;
  const figures = {
    pairs: all.length,
    groups: groups.size,
    right: count('right'),
    vague: count('vague'),
    false: count('false'),
    hidden: count('hidden'),
    shownNoise: count('noise'),
    failed: count('failed'),
  };
  return resultOf(
    'truth',
    figures,
    {
      rightShare: figures.right / Math.max(1, all.length),
      falseShare: figures.false / Math.max(1, all.length),
      noiseShare: figures.shownNoise / Math.max(1, unchanged),
    },
    {
      hidden: { what: 'changes that were hidden', most: 0 },
      failed: { what: 'pairs that could not be compared', most: 0 },
      falseShare: { what: 'share of sentences that are false', most: mostFalse },
      noiseShare: { what: 'share of unchanged contents that were shown', most: mostNoise },
    },
  );
}
