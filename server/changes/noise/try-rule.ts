import type { NoiseTest, NoiseTrial } from '../../../contract/noise.ts';
import { foldNoise } from '../../../core/findings/noise.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import { factsOfFindings, sentenceOfFinding, type SpanView } from '../findings/span-view.ts';

const exampleCount = 8;

/** What a rule would fold away of a span, and what of it no other rule does. */
export async function tryRule(database: Queryable, view: SpanView, test: NoiseTest): Promise<NoiseTrial> {
  const rule = { key: 'trial', name: 'trial', isOn: true, isBuiltIn: false, test };
  const { ruleOf } = foldNoise(view.findings, [rule], view.noiseFacts);
  const fitting = view.findings.filter((_, at) => ruleOf[at] === 0);
  const alone = view.findings.filter((_, at) => ruleOf[at] === 0 && view.ruleOf[at] === -1);
  const shown = (alone.length > 0 ? alone : fitting).slice(0, exampleCount);
  const factsOf = await factsOfFindings(database, shown);
  return {
    fits: fitting.length,
    alone: alone.length,
    examples: shown.map((finding) => ({
      path: finding.path,
      status: finding.status,
      evidence: sentenceOfFinding(finding, view.judgedOf(finding), factsOf(finding)),
    })),
  };
}
