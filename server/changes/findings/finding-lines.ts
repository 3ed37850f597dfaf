import type { EvidenceLine, FindingLine } from '../../../contract/findings.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import { findMeasured, pairKey } from '../../decode/comparisons.ts';
import { pairOf } from '../evidence/evidence-job.ts';
import type { Findings } from './differences.ts';
import { factsOfFindings, sentenceOfFinding, type SpanView } from './span-view.ts';

/** What `worvel diff --json` prints: a line a finding, then the summary. */
export function* findingLines({ findings, summary }: Findings): Generator<string> {
  for (const finding of findings) yield JSON.stringify(lineOf(finding));
  yield JSON.stringify({ summary });
}

function lineOf({ status, kind, path, oldPath, size, oldSize, hash, oldHash }: PlainFinding): FindingLine {
  return { status, kind, path, oldPath, size, oldSize, hash, oldHash };
}

const batchSize = 1000;

/** What `worvel diff --evidence --json` prints: what is alike is joined, and each line says how the thing differs. */
export async function evidenceLines(database: Queryable, view: SpanView): Promise<string[]> {
  const lines: string[] = [];
  for (let from = 0; from < view.findings.length; from += batchSize) {
    const batch = view.findings.slice(from, from + batchSize);
    const factsOf = await factsOfFindings(database, batch);
    const measured = await findMeasured(
      database,
      batch.flatMap((finding) => pairOf(finding) ?? []),
    );
    for (const [at, finding] of batch.entries()) {
      const judged = view.judgedOf(finding);
      const pair = pairOf(finding);
      const known = pair ? measured.get(pairKey(pair)) : undefined;
      const rule = view.ruleOf[from + at] ?? -1;
      const line: EvidenceLine = {
        ...lineOf(finding),
        evidence: sentenceOfFinding(finding, judged, factsOf(finding)),
        nature: judged?.nature ?? null,
        extent: judged?.nature ? judged.extent : null,
        likeness: finding.likeness ?? null,
        foldedBy: rule >= 0 ? (view.folds[rule]?.key ?? null) : null,
        figures: known?.figures ?? [],
        detail: known?.detail ?? null,
      };
      lines.push(JSON.stringify(line));
    }
  }
  lines.push(JSON.stringify({ summary: view.summary, folds: view.folds, folderMoves: view.moves }));
  return lines;
}
