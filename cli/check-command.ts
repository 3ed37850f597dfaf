import { jobSchema } from '../contract/work.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import type { CommonOptions } from './options.ts';
import { printReport } from './print-report.ts';
import { showProgress } from './progress.ts';

export interface CheckOptions extends CommonOptions {
  json?: boolean;
}

/** Checks the store against the tables. Ends with 1 where something is broken. */
export async function checkCommand({ json = false, data }: CheckOptions): Promise<void> {
  const { report } = await withApplication(dataPath(data), async (application) =>
    application.follow(jobSchema.parse(await getJson(application, 'check', { body: {} })), showProgress),
  );
  printReport(report, json);
  if (report && report.lines.length > 0) process.exitCode = 1;
}
