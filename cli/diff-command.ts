import type { EvidenceLine, FindingLine, Summary } from '../contract/findings.ts';
import type { Fold } from '../contract/noise.ts';
import { compareSpan, spanOf } from './compare-span.ts';
import { dataPath, withApplication } from './connection.ts';
import type { SpanOptions } from './options.ts';

export interface DiffOptions extends SpanOptions {
  evidence?: true;
  json?: boolean;
}

/** Prints the findings of a span; with `--evidence`, what was not compared yet is compared first. */
export async function diffCommand({ evidence, json, data, ...options }: DiffOptions): Promise<void> {
  const span = spanOf(options);
  const text = await withApplication(dataPath(data), async (application) => {
    if (evidence) await compareSpan(application, span);
    return application.getText(`diff?${new URLSearchParams({ ...span, evidence: evidence ? '1' : '0' })}`);
  });
  process.stdout.write(json ? text : evidence ? readableEvidence(text) : readable(text));
}

function readableEvidence(lines: string): string {
  return lines
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line) as EvidenceLine | { summary: Summary; folds: Fold[] })
    .map((line) => {
      if ('summary' in line) {
        const hiding = line.folds.filter(({ hides }) => hides > 0);
        return `\n${Object.entries(line.summary)
          .map(([status, count]) => `${count} ${status}`)
          .join(', ')}\n${hiding.map(({ name, hides }) => `${hides} are noise: ${name}\n`).join('')}`;
      }
      const noise = line.foldedBy === null ? '' : '  (noise)';
      return `${line.status.padEnd(9)} ${line.kind.padEnd(8)} ${line.path}${noise}\n    ${line.evidence}\n`;
    })
    .join('');
}

function readable(lines: string): string {
  const parsed = lines
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line) as FindingLine | { summary: Summary });
  return parsed
    .map((line) => {
      if ('summary' in line) {
        const counts = Object.entries(line.summary);
        return `\n${counts.map(([status, count]) => `${count} ${status}`).join(', ')}\n`;
      }
      const from = line.oldPath !== null && line.oldPath !== line.path ? `  (from ${line.oldPath})` : '';
      return `${line.status.padEnd(9)} ${line.kind.padEnd(8)} ${line.path}${from}\n`;
    })
    .join('');
}
