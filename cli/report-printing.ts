import type { JobReport } from '../contract/work.ts';

/** Writes what came of a job: one object, or the sentence with its lines. */
export function printReport(report: JobReport | null, json: boolean): void {
  if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
  if (!report) return;
  process.stdout.write(
    json ? `${JSON.stringify(report)}\n` : `${[report.summary, ...report.lines].join('\n')}\n`,
  );
}
