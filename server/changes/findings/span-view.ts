import type { Summary } from '../../../contract/findings.ts';
import type { Fold, NoiseRule } from '../../../contract/noise.ts';
import { evidenceOf } from '../../../core/findings/evidence.ts';
import { moveFinder, type FolderMove } from '../../../core/findings/folder-moves.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import { foldNoise, type NoiseFacts } from '../../../core/findings/noise.ts';
import { Lexicon } from '../../../core/names/lexicon.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { findJudged, pairKey, type Judged } from '../../decode/comparisons.ts';
import { joinPairs, listPairs } from '../evidence/likeness-pairs.ts';
import { pairOf } from '../evidence/evidence-job.ts';
import { factsKey, findFacts, type KnownFacts } from '../../library/assets/facts.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import { readLexiconState } from '../../library/names/lexicons.ts';
import type { Findings } from './differences.ts';

/** All that a list of findings is made of: what differs, what is one thing, what is noise. */
export interface SpanView {
  from: PlacedBuild;
  to: PlacedBuild;
  findings: readonly PlainFinding[];
  summary: Summary;
  moves: readonly FolderMove[];
  rules: readonly NoiseRule[];
  /** For each finding the number of the rule that folds it away, or -1. */
  ruleOf: Int16Array;
  folds: readonly Fold[];
  noiseFacts: NoiseFacts;
  judgedOf: (finding: PlainFinding) => Judged | null;
}

export async function makeSpanView(
  database: Queryable,
  { findings: exact, summary }: Findings,
  from: PlacedBuild,
  to: PlacedBuild,
  titleId: number,
  rules: readonly NoiseRule[],
  moves: readonly FolderMove[],
): Promise<SpanView> {
  const findings = joinPairs(exact, await listPairs(database, from, to));
  const moveOf = moveFinder(moves);
  const { entries, rules: splitRules, refused } = await readLexiconState(database, titleId);
  const judged = await findJudged(
    database,
    findings.flatMap((finding) => pairOf(finding) ?? []),
  );
  const judgedOf = (finding: PlainFinding): Judged | null => {
    const pair = pairOf(finding);
    return pair && (judged.get(pairKey(pair)) ?? null);
  };
  const noiseFacts: NoiseFacts = {
    natureOf: (finding) => {
      const found = judgedOf(finding);
      return found?.nature ? { nature: found.nature, extent: found.extent } : null;
    },
    isInMovedFolder: (finding) => moveOf(finding) !== null,
    lexicon: new Lexicon(entries, splitRules, refused),
  };
  const counted: Summary = { ...summary, added: 0, removed: 0, changed: 0, moved: 0, copied: 0, repacked: 0 };
  for (const { status } of findings) counted[status]++;
  return {
    from,
    to,
    findings,
    summary: counted,
    moves,
    rules,
    ...foldNoise(findings, rules, noiseFacts),
    noiseFacts,
    judgedOf,
  };
}

/** Facts of both states of findings. */
export async function factsOfFindings(
  database: Queryable,
  findings: readonly PlainFinding[],
): Promise<(finding: PlainFinding) => { now: KnownFacts | null; old: KnownFacts | null }> {
  const facts = await findFacts(
    database,
    findings.flatMap(({ hash, oldHash, format, oldFormat }) => [
      { hash, format },
      { hash: oldHash, format: oldFormat ?? format },
    ]),
  );
  return ({ hash, oldHash, format, oldFormat }) => ({
    now: facts.get(factsKey(hash, format)) ?? null,
    old: facts.get(factsKey(oldHash, oldFormat ?? format)) ?? null,
  });
}

/** The sentence of a finding: what comparing found out, or else what the facts tell. */
export function sentenceOfFinding(
  finding: PlainFinding,
  judged: Judged | null,
  facts: { now: KnownFacts | null; old: KnownFacts | null },
): string {
  const sentence =
    judged?.sentence || evidenceOf(finding, facts.now?.facts ?? null, facts.old?.facts ?? null);
  if (!finding.likeness) return sentence;
  const { score, reason, said } = finding.likeness;
  return said === 'joined'
    ? `${sentence} Joined with ${finding.oldPath ?? ''}.`
    : `${sentence} It seems to be ${finding.oldPath ?? ''} (${Math.round(score * 100)} %: ${reason}).`;
}
