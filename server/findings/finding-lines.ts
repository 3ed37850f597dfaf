import type { FindingLine } from '../../contract/findings.ts';
import type { Findings } from './differences.ts';

/** What `worvel diff --json` prints: a line a finding, then the summary. */
export function* findingLines({ findings, summary }: Findings): Generator<string> {
  for (const { status, kind, path, oldPath, size, oldSize, hash, oldHash } of findings) {
    const line: FindingLine = { status, kind, path, oldPath, size, oldSize, hash, oldHash };
    yield JSON.stringify(line);
  }
  yield JSON.stringify({ summary });
}
