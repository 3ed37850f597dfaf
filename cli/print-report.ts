import type { JobReport } from '../contract/work.ts';
import { clearProgress } from './progress.ts';

/** Writes what came of a job: one object, or the sentence with its lines. */
export function printReport(report: JobReport | null, json: boolean): void {
  clearProgress();
  if (!report) return;
  process.stdout.write(
    json ? `${JSON.stringify(report)}\n` : `${[report.summary, ...report.lines].join('\n')}\n`,
  );
}
